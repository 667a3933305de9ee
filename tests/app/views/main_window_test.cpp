// SPDX-License-Identifier: GPL-3.0-or-later
// The window itself: actions, questions, worlds, themes, and how its small parts are laid out. The real window: real
// mouse and key events, then what the user would see.
#include "window_fixture.h"

#include "support/all_names.h"
#include "support/sample_setups.h"

#include <QMenu>
#include <QMenuBar>
#include <climits>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace fell::main_window_test {
namespace {

class MainWindowTest : public WindowTest { };

TEST_F(MainWindowTest, AHeightMapIsBroughtIn)
{
    const test::TempFolder folder;
    const QString png = QString::fromStdString((folder / "dem.png").string()),
                  world = QString::fromStdString((folder / "dem.fell").string());
    QImage heights(64, 48, QImage::Format_Grayscale8);
    for (int y = 0; y < 48; ++y)
        for (int x = 0; x < 64; ++x)
            heights.scanLine(y)[x] = static_cast<uchar>(4 * x);
    ASSERT_TRUE(heights.save(png));
    QString said;
    inDialog([&](QWidget* dialog) {
        dialog->findChild<QDoubleSpinBox*>("importMetres")->setValue(4);
        said = dialog->findChild<QLabel*>("importSays")->text();
        dialog->findChild<QDialogButtonBox*>()->button(QDialogButtonBox::Cancel)->click();
    });
    m_window->world().bringIn(png);
    EXPECT_TRUE(said.contains("64 × 48 pixels: 256 m × 192 m of ground")) << said.toStdString();
    EXPECT_FALSE(m_window->world().importer().isRunning());

    ImportSpec spec;
    spec.in = png.toStdString();
    spec.out = world.toStdString();
    spec.like = m_window->session().terrain().recipe;
    spec.heights = {0, 51};
    m_window->world().importer().start(spec);
    ASSERT_TRUE(becomes([&] { return m_window->session().terrain().recipe.map.has_value(); }));
    EXPECT_EQ(m_window->windowTitle(), "dem[*] — Fell");
    waitUntilThere();
    EXPECT_NEAR(groundHeight(m_window->session().terrain(), 0, 0), 51.0 * 4 * 32 / 255, 0.6);
    // Once more: it is there already.
    m_window->world().importer().start(spec);
    EXPECT_TRUE(becomes([&] { return m_window->banner().text().contains("is there already"); }));
}

TEST_F(MainWindowTest, LettersGoToTheListThatHasTheFocus)
{
    WorldSession& session = m_window->session();
    QTest::keyClick(field(), Qt::Key_4, Qt::ControlModifier);
    auto* recipe = m_window->findChild<QWidget*>(QStringLiteral("recipeView"));
    QAbstractItemView* list = nullptr;
    ASSERT_TRUE(becomes([&] {
        for (auto* one : m_window->findChildren<QAbstractItemView*>())
            if (one->isVisible())
                list = one;
        return list != nullptr;
    })) << (recipe != nullptr);
    list->setFocus();
    const Eye before = session.eye;
    QTest::keyClick(list, Qt::Key_B);
    QTest::keyClick(list, Qt::Key_Home);
    QTest::qWait(100);
    EXPECT_FALSE(session.editor.tool().has_value()) << "B took a tool";
    EXPECT_TRUE(list->isVisible()) << "B switched to the field";
    EXPECT_EQ(session.eye.cell, before.cell) << "Home moved the camera";
    QTest::keyClick(list, Qt::Key_1, Qt::ControlModifier);
    QTest::keyClick(field(), Qt::Key_B);
    EXPECT_TRUE(becomes([&] { return session.editor.tool().has_value(); })) << "in the field it takes the tool";
}

TEST_F(MainWindowTest, ARecipeThatWasChangedIsAskedAboutBeforeTheWindowCloses)
{
    QTest::keyClick(field(), Qt::Key_4, Qt::ControlModifier);
    RecipeEditor& editor = m_window->recipe().editor();
    ASSERT_TRUE(becomes([&] { return !editor.document().empty(); }));
    editor.change(withLayerNamed(editor.document(), layersOf(editor.document()).front().pointer, "another note"),
        QStringLiteral("note"));
    ASSERT_TRUE(editor.isChanged());
    QString asked;
    inDialog([&asked](QWidget* dialog) {
        asked = dialog->objectName();
        EXPECT_TRUE(press(dialog, "decline"));
    });
    m_window->close();
    EXPECT_EQ(asked, "unsavedDocumentsQuestion");
    EXPECT_TRUE(m_window->isVisible());
    inDialog([](QWidget* dialog) { EXPECT_TRUE(press(dialog, "confirm")); });
    m_window->close();
    EXPECT_FALSE(m_window->isVisible());
}

TEST_F(MainWindowTest, TheSetupsOfTheLastSessionAreOneClickAway)
{
    std::error_code error;
    for (const bool b : {false, true})
        std::filesystem::remove(lastSetupFile(b), error);
    const auto lastSetup = [this] {
        QAction* action = nullptr;
        for (QAction* one : m_window->actions())
            if (one->objectName() == QLatin1String("lastSetup"))
                action = one;
        return action;
    };
    ASSERT_NE(lastSetup(), nullptr);
    m_window->session().setups().set("mesh.mesher", "exposed");
    fell::Setup b = m_window->session().setup();
    b.mesh.mesher = "greedy";
    m_window->session().compareWith(b);
    m_window->close();
    EXPECT_FALSE(m_window->isVisible());
    m_window->session().setups().set("mesh.mesher", "every");
    trigger("lastSetup");
    EXPECT_EQ(m_window->session().setup().mesh.mesher, "exposed");
    const auto kept = findSetup(lastSetupFile(true).string(), demoFolder() / "setups");
    ASSERT_TRUE(kept);
    EXPECT_EQ(kept.value().mesh.mesher, "greedy");
    m_window->session().compareWith(std::nullopt);
    m_window->show();
    m_window->close();
    EXPECT_FALSE(std::filesystem::exists(lastSetupFile(true))) << "there was no setup B in this one";
}

TEST_F(MainWindowTest, EverythingFitsInTheSmallestWindow)
{
    m_window->resize(m_window->minimumSize());
    const auto fits = [this](const char* page) {
        // What a page asks for goes up through its layouts by events, one level each: a slow frame may come between.
        (void)QTest::qWaitFor([this] {
            const QSize asked = m_window->centralWidget()->minimumSizeHint();
            return asked.width() <= m_window->minimumWidth() && asked.height() <= m_window->minimumHeight();
        });
        const QSize min = m_window->centralWidget()->minimumSizeHint();
        EXPECT_LE(min.width(), m_window->minimumWidth()) << page;
        EXPECT_LE(min.height(), m_window->minimumHeight()) << page;
    };
    fits("field");
    QTest::mouseClick(child<QToolButton>("showPlan"), Qt::LeftButton);
    fits("field and plan");
    QTest::mouseClick(child<QToolButton>("showPlan"), Qt::LeftButton);
    for (const char* page : {"showTransect", "showRecipe", "showBlocks"}) {
        QTest::mouseClick(child<QToolButton>(page), Qt::LeftButton);
        fits(page);
    }
}

TEST_F(MainWindowTest, WhatIsWrongIsSaidInOneSentenceAndChangesNothing)
{
    const test::TempFolder folder;
    const auto epoch = m_window->session().epoch();
    EXPECT_FALSE(m_window->world().open(QString::fromStdString(folder.write("r.json", "{\"format\": 3}").string())));
    EXPECT_TRUE(m_window->banner().isVisible());
    EXPECT_TRUE(m_window->banner().text().contains("/format"));
    EXPECT_EQ(m_window->session().epoch(), epoch);
    EXPECT_FALSE(m_window->setups().open("nowhere"));
    EXPECT_TRUE(m_window->banner().text().contains("long-view, near, plain or valley"));
    m_window->showTransect();
    EXPECT_FALSE(m_window->transect().open(QString::fromStdString(folder.write("r.csv", "a,b").string())));
    EXPECT_TRUE(m_window->banner().text().contains("is no transect of Fell"));
    child<QLineEdit>("values")->setText("1, lots");
    QTest::mouseClick(child<QPushButton>("walk"), Qt::LeftButton);
    EXPECT_FALSE(m_window->runner().isRunning());
    EXPECT_TRUE(m_window->banner().text().contains("from 1 to 1024"));
    EXPECT_FALSE(m_window->transect().saveCsv("/no/such/folder/r.csv"));
    EXPECT_TRUE(m_window->banner().text().contains("does not exist"));
}

TEST_F(MainWindowTest, ABoxIsChosenShownInTheFieldAndExported)
{
    const test::TempFolder folder;
    WorldSession& session = m_window->session();
    const auto ground = static_cast<int>(groundHeight(session.terrain(), 0, 0));
    std::optional<std::array<VoxelPos, 2>> shown;
    QString said;
    const auto fill = [&](const char* file, int y) {
        inDialog([&, file, y](QWidget* dialog) {
            const std::pair<const char*, int> numbers[]{{"exportMiddleX", 0}, {"exportMiddleY", y},
                {"exportMiddleZ", 0}, {"exportSizeX", 16}, {"exportSizeY", 32}, {"exportSizeZ", 16}};
            for (const auto& [name, value] : numbers)
                dialog->findChild<QSpinBox*>(name)->setValue(value);
            EXPECT_FALSE(dialog->findChild<QPushButton*>("exportWrite")->isEnabled()) << "no file is named";
            QTest::keyClicks(
                dialog->findChild<QLineEdit*>("exportFile"), QString::fromStdString((folder / file).string()));
            shown = session.look->box;
            said = dialog->findChild<QLabel*>("exportSays")->text();
            dialog->findChild<QPushButton*>("exportWrite")->click();
        });
        m_window->world().exportBox();
    };
    fill("box", ground);
    ASSERT_TRUE(shown) << "the field shows the box while it is chosen";
    EXPECT_EQ((*shown)[0], (VoxelPos{-8, ground - 16, -8}));
    EXPECT_EQ((*shown)[1], (VoxelPos{8, ground + 16, 8}));
    EXPECT_TRUE(said.contains(QStringLiteral("--box=-8,%1,-8,8,%2,8").arg(ground - 16).arg(ground + 16)))
        << said.toStdString();
    EXPECT_FALSE(session.look->box) << "and no longer";
    ASSERT_TRUE(becomes([&] { return m_window->banner().text().contains("Exported"); }));
    EXPECT_TRUE(std::filesystem::file_size(folder / "box.glb") > 1000) << "the ending is that of the format";
    fill("high", ground + 4000);
    EXPECT_TRUE(becomes([&] { return m_window->banner().text().contains("holds no surface"); }));
    EXPECT_FALSE(std::filesystem::exists(folder / "high.glb"));
}

TEST_F(MainWindowTest, AtRestNoFramesAreDrawnAndAKeyIsAnsweredAtOnce)
{
    const auto framesIn = [&](int milliseconds) { // by their numbers: the window takes the list of them away
        const std::uint64_t before = field()->frameNumber();
        QTest::qWait(milliseconds);
        return field()->frameNumber() - before;
    };
    ASSERT_TRUE(becomes([&] { return framesIn(1000) == 0; })) << "nothing moves: the last picture stays";
    const Eye before = m_window->session().eye;
    QTest::keyPress(field(), Qt::Key_W);
    EXPECT_TRUE(becomes([&] { return !(m_window->session().eye == before); }));
    EXPECT_TRUE(becomes([&] { return framesIn(200) > 0; })) << "while it moves it is drawn";
    QTest::keyRelease(field(), Qt::Key_W);
}

TEST_F(MainWindowTest, ALongFrameHoldsUpNobodyWhoTypesOrDrags)
{
    WorldSession& session = m_window->session();
    session.setups().set("stream.distance", 1);
    session.setups().set("mesh.mesher", "every"); // every side of every voxel, culled by nothing: a slow picture
    session.setups().set("cull.steps", nlohmann::json::array());
    waitUntilThere();
    int turns = 0;
    QTimer turn;
    QObject::connect(&turn, &QTimer::timeout, [&turns] { ++turns; });
    turn.start(0);
    QTest::mousePress(field(), Qt::LeftButton, {}, {300, 200});
    int frames = 0, fewest = INT_MAX, moves = 0;
    while (frames < 8) {
        turns = 0;
        const double yaw = session.eye.yaw;
        QTest::mouseMove(field(), {300 + ++moves % 40, 200});
        EXPECT_NE(session.eye.yaw, yaw) << "the drag counts at once, not with the next frame";
        ASSERT_TRUE(becomes([&] { return field()->isUpToDate(); })) << "with a frame from where the drag has led";
        ++frames;
        fewest = std::min(fewest, turns);
    }
    QTest::mouseRelease(field(), Qt::LeftButton, {}, {310, 200});
    // Menus and typing, while a key keeps the frames coming.
    QTest::keyPress(field(), Qt::Key_W);
    ASSERT_TRUE(becomes([&] { return !field()->isUpToDate(); }));
    auto* bar = m_window->findChild<QMenuBar*>();
    ASSERT_NE(bar, nullptr);
    QMenu* menu = bar->actions().front()->menu();
    ASSERT_NE(menu, nullptr);
    turns = 0;
    menu->popup(m_window->mapToGlobal(QPoint(60, 60)));
    ASSERT_TRUE(becomes([&] { return menu->isVisible() && turns >= 4; }));
    QTest::keyClick(menu, Qt::Key_Escape);
    EXPECT_FALSE(menu->isVisible());
    bool hasTyped = false;
    inDialog([&hasTyped](QWidget* finder) {
        auto* edit = finder->findChild<QLineEdit*>();
        for (const char letter : {'s', 'l', 'a'}) {
            QTest::keyClick(edit, letter);
            QTest::qWait(20);
        }
        EXPECT_EQ(edit->text(), "sla");
        hasTyped = true;
        QTest::keyClick(edit, Qt::Key_Escape);
    });
    QTest::keyClick(field(), Qt::Key_K, Qt::ControlModifier);
    ASSERT_TRUE(becomes([&] { return hasTyped; }));
    QTest::keyRelease(field(), Qt::Key_W);
    EXPECT_GE(fewest, 4) << "turns of the event loop while one frame is drawn";
}

TEST_F(MainWindowTest, AResizeAnotherWorldAndTheEndAreSafeDuringAFrame)
{
    const auto draws = [&] { return becomes([&] { return !field()->isUpToDate(); }); };
    for (const char* world : {"demo=level", "demo=corrowdale"}) {
        m_window->session().eye.yaw += 20;
        ASSERT_TRUE(draws());
        m_window->resize(m_window->width() == 1100 ? 1240 : 1100, 760);
        trigger(QString::fromUtf8(world));
        EXPECT_FALSE(field()->isUpToDate()) << "the frame at hand is of the world before";
        waitUntilThere();
        const QImage picture = fieldPicture();
        EXPECT_GT(coloursOf(picture), 20);
    }
    m_window->session().compareWith(m_window->session().setup());
    ASSERT_TRUE(draws());
    m_window->session().compareWith(std::nullopt); // B goes while it is drawn
    waitUntilThere();
    m_window->session().eye.yaw += 20;
    ASSERT_TRUE(draws());
    m_window.reset(); // while a frame is drawn
}

TEST_F(MainWindowTest, AnotherWorldIsOneActionAway)
{
    trigger("demo=level");
    EXPECT_EQ(m_window->windowTitle(), "Level ground[*] — Fell");
    waitUntilThere();
    EXPECT_GT(field()->lastFrame().triangles, 0u);
}

TEST_F(MainWindowTest, EveryActionHasItsOwnIdAndItsOwnKeys)
{
    QStringList ids, keys;
    for (const QAction* action : m_window->actions()) {
        ids << action->objectName();
        if (!action->shortcut().isEmpty())
            keys << action->shortcut().toString();
    }
    EXPECT_GT(ids.size(), 60);
    EXPECT_FALSE(ids.contains(QString()));
    EXPECT_EQ(ids.removeDuplicates(), 0);
    EXPECT_GT(keys.size(), 25);
    EXPECT_EQ(keys.removeDuplicates(), 0) << keys.join(' ').toStdString();
}

TEST_F(MainWindowTest, FindAnActionRunsItByName)
{
    inDialog([](QWidget* finder) {
        auto* edit = finder->findChild<QLineEdit*>();
        QTest::keyClicks(edit, "slate");
        EXPECT_EQ(finder->findChild<QListView*>("foundActions")->model()->rowCount(), 1);
        QTest::keyClick(edit, Qt::Key_Return);
    });
    QTest::keyClick(field(), Qt::Key_K, Qt::ControlModifier);
    ASSERT_TRUE(QTest::qWaitFor([] { return currentTheme().dark; }, kPatienceMs));
    EXPECT_TRUE(currentTheme().dark);
    m_window->setDark(false);
}

TEST_F(MainWindowTest, BothThemesReachEveryPart)
{
    const auto backOf = [&] { return m_window->grab().toImage().pixelColor(4, 40); };
    EXPECT_EQ(backOf(), limewash().window);
    m_window->setDark(true);
    EXPECT_TRUE(becomes([&] { return backOf() == slate().window; }));
    EXPECT_EQ(m_window->strip().grab().toImage().pixelColor(2, 100), slate().panel);
    m_window->setDark(false);
}

TEST_F(MainWindowTest, AChangeThatWouldNotFitIsAskedForFirst)
{
    m_window->session().edited().set("stream.memory", 64);
    waitUntilThere();
    const auto answer = [this](const QString& button, QString& said) {
        inDialog([button, &said](QWidget* dialog) {
            auto* box = qobject_cast<QMessageBox*>(dialog);
            ASSERT_NE(box, nullptr);
            said = box->text();
            QTest::mouseClick(box->findChild<QPushButton*>(button), Qt::LeftButton);
        });
    };
    QString said;
    answer(QStringLiteral("decline"), said);
    child<QSlider>("distance")->setValue(24);
    EXPECT_TRUE(said.contains(QStringLiteral("24 chunks of edge 32"))) << said.toStdString();
    EXPECT_TRUE(said.contains(QStringLiteral("64.0 MiB"))) << said.toStdString();
    EXPECT_EQ(m_window->session().setup().stream.distance, 2);
    EXPECT_EQ(child<QSlider>("distance")->value(), 2) << "the slider goes back";
    said.clear();
    answer(QStringLiteral("confirm"), said);
    m_window->session().edited().set("stream.distance", 20);
    EXPECT_FALSE(said.isEmpty());
    EXPECT_EQ(m_window->session().setup().stream.distance, 20);
    m_window->session().edited().set("stream.distance", 3);
    EXPECT_EQ(m_window->session().setup().stream.distance, 3) << "what needs less is not asked for";
}

} // namespace
} // namespace fell::main_window_test
