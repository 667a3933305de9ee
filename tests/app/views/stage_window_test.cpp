// SPDX-License-Identifier: GPL-3.0-or-later
// The form of a stage: its controls follow the setup and stay the same controls. The real window: real mouse and key
// events, then what the user sees.
#include "window_fixture.h"

#include "support/all_names.h"
#include "support/build_folders.h"

#include <QPointer>
#include <gtest/gtest.h>

namespace fell::stage_window_test {
namespace {

class StageWindowTest : public WindowTest { };

TEST_F(StageWindowTest, ControlsOfAStageStayWhileTheSetupChangesUnderThem)
{
    WorldSession& session = m_window->session();
    emit m_window->rail().stageClicked("mesh", false);
    const QPointer<QRadioButton> exposed = child<QRadioButton>("mesh.mesher=exposed");
    const QPointer<QWidget> shade = child<QWidget>("mesh.shade");
    QTest::mouseClick(exposed, Qt::LeftButton, {}, QPoint(8, exposed->height() / 2));
    QTest::qWait(50);
    ASSERT_TRUE(exposed && shade);
    EXPECT_EQ(m_window->focusWidget(), exposed);
    EXPECT_TRUE(exposed->isChecked());
    trigger("undo");
    QTest::qWait(50);
    ASSERT_TRUE(exposed);
    EXPECT_FALSE(exposed->isChecked());
    EXPECT_TRUE(child<QRadioButton>(("mesh.mesher=" + session.setup().mesh.mesher).c_str())->isChecked());
    waitUntilThere();
    // A number that is being typed stays as it is while something else changes.
    emit m_window->rail().stageClicked("generate", false);
    auto* workers = child<QSpinBox>("stream.workers");
    const int before = workers->value();
    workers->setFocus();
    workers->selectAll();
    QTest::keyClick(workers, Qt::Key_3);
    session.edited().set("stream.distance", 3);
    QTest::qWait(50);
    EXPECT_EQ(workers->text(), "3") << "half typed";
    EXPECT_EQ(session.setup().stream.workers, before);
    QTest::keyClick(workers, Qt::Key_Return);
    EXPECT_EQ(session.setup().stream.workers, 3);
    // What a scheme does not ask for is not shown.
    emit m_window->rail().stageClicked("levels", false);
    QTest::qWait(50);
    const auto isShown = [&](const char* name) { return child<QWidget>(name)->isVisible(); };
    session.edited().set("lod.scheme", "off");
    EXPECT_FALSE(isShown("lod.detail") || isShown("lod.error"));
    session.edited().set("lod.scheme", "rings");
    EXPECT_TRUE(isShown("lod.detail") && !isShown("lod.error"));
    session.edited().set("lod.scheme", "error");
    EXPECT_TRUE(!isShown("lod.detail") && isShown("lod.error"));
}

/// A mesher of the user's: listed once it passed; a new build takes its place or is compared with it.
TEST_F(StageWindowTest, AMethodIsLoadedDrawnAndComparedWithItsNextBuild)
{
    const test::TempFolder folder;
    const auto link = [&folder](const std::string& name) {
        const auto file = folder.path() / "mine.so", half = folder.path() / "mine.so.half";
        std::filesystem::copy_file(buildFolder() + "/tests/methods/lib" + name + ".so", half);
        std::filesystem::rename(half, file);
        return QString::fromStdString(file.string());
    };
    WorldSession& session = m_window->session();
    emit m_window->rail().stageClicked("mesh", false);
    ASSERT_TRUE(child<QPushButton>("loadMethod")->isVisible());
    const auto passed = [&](const char* part) {
        return becomes([&] { return m_window->banner().isVisible() && m_window->banner().text().contains(part); });
    };
    // One that fails is said, and the setup stays.
    const fell::Setup before = session.setup();
    m_window->methods().load(QString::fromStdString(buildFolder() + "/tests/methods/libfaulty-crash.so"));
    ASSERT_TRUE(passed("crashes")) << m_window->banner().text().toStdString();
    EXPECT_EQ(session.setup(), before);

    m_window->methods().load(link("own-mesher"));
    ASSERT_TRUE(passed("is the mesher of setup A")) << m_window->banner().text().toStdString();
    const std::string first = session.setup().mesh.mesher;
    EXPECT_EQ(first.substr(0, 5), "rows@");
    EXPECT_EQ(session.setup().mesh.ambientOcclusion, "none") << "it ignores that";
    auto* button = child<QRadioButton>(("mesh.mesher=" + first).c_str());
    EXPECT_TRUE(becomes([&] { return button->isVisible() && button->isChecked(); }));
    EXPECT_TRUE(button->text().endsWith(QString::fromStdString(first.substr(4)))) << button->text().toStdString();
    waitUntilThere();
    EXPECT_EQ(session.streamer()->counts().failed, 0U);
    // The new build takes the place of the old one.
    link("faulty-build-2");
    ASSERT_TRUE(passed("takes the place of"));
    const std::string second = session.setup().mesh.mesher;
    EXPECT_NE(second, first);
    EXPECT_TRUE(m_window->findChild<QRadioButton*>(QString::fromStdString("mesh.mesher=" + first)) == nullptr);
    // Or it is setup B next to the old one.
    QAction* compare = nullptr;
    for (QAction* action : m_window->actions())
        if (action->objectName() == "setup.keep-old-build")
            compare = action;
    ASSERT_NE(compare, nullptr);
    compare->trigger();
    link("own-mesher");
    ASSERT_TRUE(becomes([&] { return session.hasB(); })) << m_window->banner().text().toStdString();
    EXPECT_EQ(session.setup().mesh.mesher, second);
    EXPECT_EQ(session.setupB().mesh.mesher, first);
    button = child<QRadioButton>(("mesh.mesher=" + first).c_str());
    EXPECT_TRUE(becomes([&] { return button->isVisible(); }));
    trigger("undo"); // of the setup: the build before
    EXPECT_NE(session.setup().mesh.mesher, second);
}

/// Every change of the setup deleted the control that made it, and a look-alike got the focus.
TEST_F(StageWindowTest, AStepIsMovedByItsOwnButtonAgainAndAgain)
{
    emit m_window->rail().stageClicked("cull", false);
    child<QTabBar>("cullTabs")->setCurrentIndex(static_cast<int>(CullPanel::Tab::Steps));
    WorldSession& session = m_window->session();
    const std::vector<std::string> before = session.setup().cull.steps;
    ASSERT_GE(before.size(), 3u);
    const QPointer<QToolButton> later = child<QToolButton>(("later=" + before[0]).c_str());
    auto* box = child<QCheckBox>(("cull.steps=" + before[0]).c_str());
    later->setFocus();
    int top = box->mapTo(m_window.get(), QPoint()).y();
    for (std::size_t i = 1; i < before.size(); ++i) {
        QTest::keyClick(later, Qt::Key_Space);
        QTest::qWait(30);
        ASSERT_TRUE(later) << "the button that was pressed is still there";
        EXPECT_EQ(session.setup().cull.steps[i], before[0]);
        EXPECT_TRUE(box->text().startsWith(QString::number(i + 1)));
        EXPECT_GT(box->mapTo(m_window.get(), QPoint()).y(), top) << "and has moved down";
        top = box->mapTo(m_window.get(), QPoint()).y();
        EXPECT_EQ(m_window->focusWidget() == later, i + 1 < before.size()) << "the last one cannot go on";
    }
    EXPECT_FALSE(later->isEnabled());
    // Switched off it lies below those in use, without a place and without buttons.
    QTest::mouseClick(box, Qt::LeftButton, {}, QPoint(8, box->height() / 2));
    QTest::qWait(30);
    EXPECT_EQ(session.setup().cull.steps.size(), before.size() - 1);
    EXPECT_FALSE(later->isVisible());
    EXPECT_FALSE(box->text().at(0).isDigit());
    trigger("undo");
    QTest::qWait(30);
    EXPECT_TRUE(later->isVisible());
    EXPECT_TRUE(box->isChecked());
}

TEST_F(StageWindowTest, ABenchNumberKeepsTheFocusWhileArrowKeysChangeIt)
{
    WorldSession& session = m_window->session();
    QTest::mouseClick(&m_window->rail(), Qt::LeftButton, {}, m_window->rail().plates().plate(3).center());
    ASSERT_EQ(m_window->bench().stage(), "upload");
    auto* spin = m_window->findChild<QSpinBox*>("upload.meshes");
    ASSERT_NE(spin, nullptr);
    spin->setFocus();
    const int before = session.setup().upload.meshes;
    for (int i = 1; i <= 3; ++i) {
        ASSERT_NE(m_window->focusWidget(), nullptr);
        QTest::keyClick(m_window->focusWidget(), Qt::Key_Up);
        ASSERT_EQ(session.setup().upload.meshes, before + i) << "arrow key " << i;
        QTest::qWait(50); // the bench is built again
        ASSERT_TRUE(becomes(
            [&] { return m_window->focusWidget() && m_window->focusWidget()->objectName() == "upload.meshes"; }));
    }
}

} // namespace
} // namespace fell::stage_window_test
