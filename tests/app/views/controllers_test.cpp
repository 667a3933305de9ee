// SPDX-License-Identifier: GPL-3.0-or-later
// The controllers without a window: questions are answered by a script.
#include "support/all_names.h"
#include "support/build_folders.h"
#include "support/sample_worlds.h"
#include "support/temp_folder.h"
#include <fell/app/views/action_table.h>
#include <fell/app/views/dialogs.h>
#include <fell/app/views/method_controller.h>
#include <fell/app/views/route_controller.h>
#include <fell/app/views/setup_controller.h>
#include <fell/app/views/world_controller.h>
#include <fell/input/text_file.h>

#include <QAction>
#include <QMenu>
#include <QSignalSpy>
#include <QTest>

#include <deque>
#include <gtest/gtest.h>

namespace fell::controllers_test {
namespace {

/// Answers in the user's place, in order. A question without an answer left fails the test.
class ScriptedDialogs final : public Dialogs {
public:
    std::deque<QString> texts; // of files and lines
    std::deque<std::size_t> answers;
    std::optional<ExportChoice> exported;
    QStringList asked; // names of questions, titles of the rest

    QString openFile(const QString& title, const QString&, const QString&) override { return next(title); }
    QString saveFile(const QString& title, const QString&, const QString&, bool) override { return next(title); }
    QString line(const QString&, const QString&, const QString& suggested) override { return next(suggested); }
    std::size_t choose(const Question& question) override
    {
        asked << question.name;
        if (answers.empty()) {
            ADD_FAILURE() << "no answer to " << question.name.toStdString();
            return question.answers.size() - 1;
        }
        const std::size_t answer = answers.front();
        answers.pop_front();
        return answer;
    }
    std::optional<ImportSpec> importOf(const QString&, const Recipe&) override { return std::nullopt; }
    std::optional<ExportChoice> exportOf(
        VoxelPos, const Recipe&, const QString&, const std::function<void(const VoxelBox&)>&) override
    {
        return exported;
    }

private:
    QString next(const QString& what)
    {
        asked << what;
        if (texts.empty()) {
            ADD_FAILURE() << "no answer to " << what.toStdString();
            return {};
        }
        const QString text = texts.front();
        texts.pop_front();
        return text;
    }
};

class ControllerTest : public ::testing::Test {
protected:
    ControllerTest()
        : m_session(test::demoTerrain("level"), setup())
    {
        QObject::connect(&m_worlds, &WorldController::trouble, [this](const QString& said) { m_troubles << said; });
        QObject::connect(&m_setups, &SetupController::trouble, [this](const QString& said) { m_troubles << said; });
        QObject::connect(&m_routes, &RouteController::trouble, [this](const QString& said) { m_troubles << said; });
    }
    static fell::Setup setup()
    {
        fell::Setup out;
        out.stream.distance = 1;
        return out;
    }
    QString file(const char* name) const { return QString::fromStdString((m_folder.path() / name).string()); }
    /// One voxel of stone where there was air.
    void build()
    {
        const std::vector<VoxelChange> stone{{{0, 40, 0}, kOpen, 1}};
        m_session.changes()->set(stone);
        ASSERT_EQ(m_session.changes()->voxels(), 1u);
    }

    test::TempFolder m_folder;
    ScriptedDialogs m_dialogs;
    QStringList m_troubles;
    WorldSession m_session;
    WorldController m_worlds{m_session, m_dialogs};
    SetupController m_setups{m_session, m_dialogs};
    RouteController m_routes{m_session, m_dialogs};
};

TEST_F(ControllerTest, AWorldWithChangesInNoFileIsLeftOnlyWhenTheyMayGo)
{
    build();
    m_dialogs.answers = {2};
    EXPECT_FALSE(m_worlds.open("checker")) << "stay here";
    EXPECT_EQ(m_session.terrain().recipe.name, "Level ground");
    m_dialogs.texts = {file("mine.fell")};
    m_dialogs.answers = {0};
    EXPECT_TRUE(m_worlds.open("checker")) << "saved first";
    EXPECT_EQ(m_dialogs.asked, QStringList({"unsavedQuestion", "unsavedQuestion", "Save world as"}));
    EXPECT_EQ(m_session.terrain().recipe.name, "Checkerboard");
    // What was saved is there.
    ASSERT_TRUE(m_worlds.open(file("mine.fell")));
    EXPECT_TRUE(QTest::qWaitFor([this] { return m_session.changes() && m_session.changes()->voxels() == 1; }, 20000));
    EXPECT_EQ(m_session.terrain().recipe.name, "Level ground");
    EXPECT_TRUE(m_troubles.isEmpty()) << m_troubles.join('\n').toStdString();
}

TEST_F(ControllerTest, DiscardedChangesAreGoneAndARefusedWorldChangesNothing)
{
    build();
    m_dialogs.answers = {1, 1};
    EXPECT_FALSE(m_worlds.open("no-such-world"));
    ASSERT_EQ(m_troubles.size(), 1);
    EXPECT_TRUE(m_troubles[0].contains("no-such-world")) << m_troubles[0].toStdString();
    EXPECT_EQ(m_session.changes()->voxels(), 1u);
    EXPECT_TRUE(m_worlds.open("dust"));
    EXPECT_TRUE(m_session.changes()->isEmpty());
}

TEST_F(ControllerTest, AnotherWorkThatWouldBeLostIsAskedAbout)
{
    m_worlds.alsoLost = [] { return QStringList{"a half-baked loaf"}; };
    m_dialogs.answers = {1, 0};
    EXPECT_FALSE(m_worlds.mayLeave());
    EXPECT_TRUE(m_worlds.mayLeave());
    EXPECT_EQ(m_dialogs.asked, QStringList({"unsavedDocumentsQuestion", "unsavedDocumentsQuestion"}));
}

TEST_F(ControllerTest, AnExportThatWouldReplaceAFileAsksFirst)
{
    ASSERT_FALSE(writeFile(m_folder.path() / "there.obj", "mine"));
    m_dialogs.exported = ExportChoice{{{-4, -4, -4}, {4, 4, 4}}, "obj", file("there.obj")};
    m_dialogs.answers = {1};
    m_worlds.exportBox();
    EXPECT_FALSE(m_worlds.exporter().isRunning());
    EXPECT_EQ(readFile(m_folder.path() / "there.obj").value(), "mine");
    m_dialogs.answers = {0};
    m_worlds.exportBox();
    EXPECT_TRUE(QTest::qWaitFor([this] { return !m_worlds.exporter().isRunning(); }, 60000));
    EXPECT_NE(readFile(m_folder.path() / "there.obj").value(), "mine");
}

TEST_F(ControllerTest, ASetupThatIsNoneIsOneSentenceAndChangesNothing)
{
    ASSERT_FALSE(writeFile(m_folder.path() / "bad.json", "{\"stream\": {\"distance\": -3}}"));
    const fell::Setup before = m_session.setup();
    EXPECT_FALSE(m_setups.open(file("bad.json")));
    EXPECT_FALSE(m_setups.compareWith(file("bad.json")));
    EXPECT_EQ(m_troubles.size(), 2);
    EXPECT_EQ(m_session.setup(), before);
    EXPECT_FALSE(m_session.hasB());
    QSignalSpy changed(&m_setups, &SetupController::besideChanged);
    EXPECT_TRUE(m_setups.compareWith(QString()));
    EXPECT_EQ(QString::fromStdString(m_session.setupB().name), QString::fromStdString(before.name) + "-changed");
    EXPECT_EQ(changed.count(), 1);
    EXPECT_TRUE(m_setups.compareWith(std::nullopt));
    EXPECT_FALSE(m_session.hasB());
    ASSERT_TRUE(m_setups.save(file("saved.json")));
    m_session.edited().set("stream.distance", 2);
    ASSERT_TRUE(m_setups.open(file("saved.json")));
    EXPECT_EQ(m_session.setup(), before);
}

TEST_F(ControllerTest, ARouteIsKeptUnderANameThatMayBeOne)
{
    qputenv("XDG_DATA_HOME", m_folder.path().string().c_str());
    QSignalSpy kept(&m_routes, &RouteController::kept), recording(&m_routes, &RouteController::recording);
    m_routes.record();
    EXPECT_TRUE(m_session.recorder);
    for (int i = 0; i < 20; ++i) {
        Eye eye = m_session.eye;
        eye.cell.x += i * 8;
        m_session.recorder->note(eye, 0.5, m_session.terrain());
    }
    // Refused, then no name and yet not discarded, then one that may be.
    m_dialogs.texts = {"a/b", "", "up-the-level"};
    m_dialogs.answers = {1};
    m_routes.record();
    EXPECT_FALSE(m_session.recorder);
    ASSERT_EQ(m_troubles.size(), 1);
    EXPECT_TRUE(m_troubles[0].contains("a/b")) << m_troubles[0].toStdString();
    EXPECT_EQ(kept.count(), 1);
    EXPECT_EQ(recording.count(), 2);
    EXPECT_TRUE(routeNames().contains("up-the-level"));
}

TEST(ActionTable, RunsByIdAndByKeysAndOnlyWhatIsEnabled)
{
    QWidget window;
    QMenu menu;
    ActionTable table(&window);
    QStringList ran;
    table.addTo(&menu,
        {{"one", "One", QKeySequence(Qt::Key_F5), "tip", [&] { ran << "one"; }}, {},
            {"two", "Two", QKeySequence(Qt::CTRL | Qt::Key_T), {}, [&] { ran << "two"; }, true}});
    EXPECT_EQ(table.all().size(), 2);
    EXPECT_EQ(menu.actions().size(), 3) << "with the line between";
    EXPECT_EQ(window.actions(), table.all()) << "their keys work in the whole window";
    table["two"]->trigger();
    EXPECT_TRUE(table["two"]->isChecked());
    table.run(QKeySequence(Qt::Key_F5));
    EXPECT_EQ(ran, QStringList({"two"})) << "not within the event that asked";
    QCoreApplication::processEvents();
    EXPECT_EQ(ran, QStringList({"two", "one"}));
    table["one"]->setEnabled(false);
    table.run(QKeySequence(Qt::Key_F5));
    QCoreApplication::processEvents();
    EXPECT_EQ(ran.size(), 2);
}

TEST_F(ControllerTest, AMethodIsAskedForAndBecomesTheMesherOfTheSetupInUse)
{
    MethodController methods(m_session, m_dialogs);
    QStringList notes;
    QObject::connect(&methods, &MethodController::trouble, [this](const QString& said) { m_troubles << said; });
    QObject::connect(&methods, &MethodController::note, [&notes](const QString& said) { notes << said; });
    m_dialogs.texts = {QString()}; // the dialog is left
    methods.askLoad();
    EXPECT_TRUE(notes.isEmpty() && methods.loader().checking().isEmpty());
    m_dialogs.texts = {file("gone.so"), QString::fromStdString(buildFolder() + "/tests/methods/libown-mesher.so")};
    methods.askLoad();
    ASSERT_TRUE(QTest::qWaitFor([this] { return m_troubles.size() == 1; }, 60000));
    EXPECT_TRUE(m_troubles[0].contains("gone.so: cannot be read")) << m_troubles[0].toStdString();
    methods.askLoad();
    ASSERT_TRUE(QTest::qWaitFor([&notes] { return notes.size() == 3; }, 60000)) << m_troubles.join(' ').toStdString();
    EXPECT_EQ(notes[1], "Checking libown-mesher.so in a separate process");
    EXPECT_TRUE(notes[2].startsWith("rows@") && notes[2].contains(" passed its check and is the mesher of setup A"))
        << notes[2].toStdString();
    EXPECT_EQ(m_session.setup().mesh.mesher.substr(0, 5), "rows@");
    EXPECT_EQ(m_dialogs.asked, QStringList({"Load method", "Load method", "Load method"}));
}

} // namespace
} // namespace fell::controllers_test
