// SPDX-License-Identifier: GPL-3.0-or-later
// Digging and building in the real window: clicks and keys, then the world, the bench and the picture.
#include "support/all_names.h"

#include "window_fixture.h"

#include <QAbstractItemView>
#include <QCompleter>
#include <QWheelEvent>
#include <gtest/gtest.h>

namespace fell::edit_window_test {
namespace {

class EditWindowTest : public WindowTest {
protected:
    void SetUp() override
    {
        WindowTest::SetUp();
        m_window->session().eye.pitch = -35; // onto the ground before one's feet
        QTest::qWait(100);
        middle = {field()->width() / 2, field()->height() / 2};
    }

    ToolHand& editor() { return m_window->session().editor; }
    /// What is resident there, asked again while a worker keeps the books.
    Material at(VoxelPos voxel)
    {
        std::shared_ptr<const VoxelChunk> voxels;
        const int edge = m_window->session().setup().chunk.edge;
        const ChunkPos chunk = chunkOf(voxel, edge);
        EXPECT_TRUE(becomes([&] { return (voxels = m_window->session().streamer()->voxels(chunk)) != nullptr; }));
        const VoxelPos in = voxel - originOf(chunk, edge);
        return voxels->at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z));
    }
    /// The voxel under the middle of the field, once the tool is on it.
    VoxelPos aimed()
    {
        QTest::mouseMove(field(), middle + QPoint(3, 0));
        QTest::mouseMove(field(), middle);
        QTest::qWait(250); // frames since the last move, also since those that the screen's own pointer sends
        QTest::mouseMove(field(), middle);
        QTest::qWait(150);
        EXPECT_TRUE(becomes([&] { return editor().target.has_value(); }));
        return editor().target ? editor().target->voxel : VoxelPos{};
    }
    void click(Qt::MouseButton button = Qt::LeftButton)
    {
        const std::uint64_t before = editor().figures().edits;
        QTest::mouseClick(field(), button, {}, middle);
        if (button == Qt::LeftButton && editor().isBusy()) {
            EXPECT_TRUE(becomes([&] { return editor().figures().edits > before; }));
        }
    }

    /// The one voxel that was changed, once it was: where the pointer was when the button was released, not a frame
    /// before.
    VoxelPos changedVoxel()
    {
        EXPECT_TRUE(becomes([&] { return m_window->session().changes()->voxels() == 1; }));
        const auto all = m_window->session().changes()->all();
        if (all.empty())
            return {};
        const int voxel = all.front().second->front().voxel;
        return originOf(all.front().first, kKeptEdge)
            + VoxelPos{voxel % kKeptEdge, voxel / kKeptEdge / kKeptEdge, voxel / kKeptEdge % kKeptEdge};
    }

    QPoint middle;
};

TEST_F(EditWindowTest, AClickRemovesTheOutlinedBlockAndCtrlZPutsItBack)
{
    QTest::keyClick(field(), Qt::Key_X);
    ASSERT_TRUE(becomes([&] { return editor().tool() == ToolKind::Remove; }));
    EXPECT_EQ(m_window->bench().stage(), "edit") << "the bench of the tool is shown";
    (void)aimed();
    const QImage before = fieldPicture();
    click();
    const VoxelPos voxel = changedVoxel();
    EXPECT_EQ(at(voxel), kOpen);
    EXPECT_TRUE(becomes([&] { return editor().figures().pictureUs > 0; }));
    EXPECT_GE(editor().figures().meshed, 1);
    EXPECT_NE(fieldPicture(), before);
    EXPECT_TRUE(becomes([&] { return child<QLabel>("editFigures")->text().contains(">1</td>"); }));
    EXPECT_TRUE(child<QPushButton>("undoEdit")->isEnabled());
    QTest::keyClick(field(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(becomes([&] { return at(voxel) != kOpen; }));
    EXPECT_TRUE(becomes([&] { return child<QPushButton>("redoEdit")->isEnabled(); }));
    QTest::mouseClick(child<QPushButton>("redoEdit"), Qt::LeftButton);
    EXPECT_TRUE(becomes([&] { return at(voxel) == kOpen; }));
}

TEST_F(EditWindowTest, ADragStillLooksRoundAndChangesNothing)
{
    QTest::keyClick(field(), Qt::Key_X);
    ASSERT_TRUE(becomes([&] { return editor().tool().has_value(); }));
    (void)aimed();
    const double yaw = m_window->session().eye.yaw;
    QTest::mousePress(field(), Qt::LeftButton, {}, middle);
    QTest::mouseMove(field(), middle + QPoint(40, 0));
    QTest::mouseMove(field(), middle + QPoint(80, 0));
    QTest::mouseRelease(field(), Qt::LeftButton, {}, middle + QPoint(80, 0));
    QTest::qWait(300);
    EXPECT_GT(m_window->session().eye.yaw, yaw + 5);
    EXPECT_TRUE(m_window->session().changes()->isEmpty());
    QTest::keyClick(field(), Qt::Key_Escape);
    EXPECT_FALSE(editor().tool()) << "Esc puts the tool away";
}

TEST_F(EditWindowTest, ThePaletteIsChosenByClickWheelAndSearchAndShiftPicks)
{
    QTest::keyClick(field(), Qt::Key_C);
    ASSERT_TRUE(becomes([&] { return editor().tool() == ToolKind::Place; }));
    (void)aimed();
    QTest::mouseClick(child<QToolButton>("slot=4"), Qt::LeftButton);
    EXPECT_EQ(editor().slot(), 3u);
    const Material placed = editor().material();
    click();
    EXPECT_EQ(at(changedVoxel()), placed);
    // The wheel with Shift, along either axis.
    const auto wheel = [&](int notches, Qt::KeyboardModifiers with) {
        QWheelEvent turn(middle, field()->mapToGlobal(middle), {},
            with ? QPoint(120 * notches, 0) : QPoint(0, 120 * notches), Qt::NoButton, with, Qt::NoScrollPhase, false);
        QApplication::sendEvent(field(), &turn);
    };
    const double speed = m_window->session().flight.speed;
    wheel(-1, Qt::ShiftModifier);
    EXPECT_EQ(editor().slot(), 4u);
    EXPECT_TRUE(child<QToolButton>("slot=5")->isChecked());
    wheel(2, Qt::ShiftModifier);
    EXPECT_EQ(editor().slot(), 2u);
    EXPECT_EQ(m_window->session().flight.speed, speed);
    wheel(1, {});
    EXPECT_GT(m_window->session().flight.speed, speed) << "without Shift it is the speed";
    ASSERT_NE(editor().material(), placed);
    QTest::keyClick(field(), Qt::Key_5);
    EXPECT_EQ(editor().slot(), 2u) << "digits are no keys of the palette";
    // The placed block is what is under the pointer now.
    QTest::mouseMove(field(), middle + QPoint(2, 0));
    EXPECT_TRUE(becomes([&] { return editor().target && editor().target->material == placed; }));
    const std::size_t changed = m_window->session().changes()->voxels();
    click(Qt::RightButton);
    EXPECT_NE(editor().material(), placed) << "a right click does nothing";
    QTest::mouseClick(field(), Qt::LeftButton, Qt::ShiftModifier, middle + QPoint(2, 0));
    EXPECT_EQ(editor().material(), placed);
    EXPECT_EQ(m_window->session().changes()->voxels(), changed) << "picking builds nothing";
    // By a part of the name.
    auto* kind = child<QComboBox>("editKind");
    kind->lineEdit()->selectAll();
    QTest::keyClicks(kind->lineEdit(), "lantern");
    QTest::keyClick(kind->completer()->popup(), Qt::Key_Down);
    QTest::keyClick(kind->completer()->popup(), Qt::Key_Return);
    EXPECT_TRUE(becomes([&] {
        return m_window->session().terrain().recipe.blocks.kinds[editor().material()].name.find("lantern")
            != std::string::npos;
    })) << kind->currentText().toStdString();
}

TEST_F(EditWindowTest, ABoxTakesTwoClicksAndABlastCountsDown)
{
    QTest::mouseClick(m_window->findChild<QToolButton*>("showField"), Qt::LeftButton);
    QTest::keyClick(field(), Qt::Key_V);
    ASSERT_TRUE(becomes([&] { return editor().tool() == ToolKind::Box; }));
    (void)aimed();
    click();
    EXPECT_TRUE(editor().boxFrom());
    EXPECT_TRUE(m_window->session().changes()->isEmpty());
    QTest::mouseMove(field(), middle + QPoint(0, 40));
    QTest::mouseMove(field(), middle + QPoint(1, 60));
    middle += QPoint(1, 60);
    QTest::qWait(300);
    click();
    EXPECT_FALSE(editor().boxFrom());
    EXPECT_TRUE(becomes([&] { return m_window->session().changes()->voxels() >= 1; }));
    const std::size_t built = m_window->session().changes()->voxels();
    QTest::keyClick(field(), Qt::Key_T);
    ASSERT_TRUE(becomes([&] { return editor().tool() == ToolKind::Blast; }));
    QTest::keyClick(field(), Qt::Key_BracketLeft);
    EXPECT_TRUE(becomes([&] { return child<QLabel>("editKept") && editor().radius() == 5; }));
    (void)aimed();
    QTest::mouseClick(field(), Qt::LeftButton, {}, middle);
    EXPECT_EQ(editor().charges().size(), 1u);
    EXPECT_EQ(m_window->session().changes()->voxels(), built) << "it counts down first";
    EXPECT_TRUE(becomes([&] { return editor().charges().empty() && !editor().isBusy(); }));
    EXPECT_GT(m_window->session().changes()->voxels(), built + 50);
    EXPECT_FALSE(editor().debris().empty());
    EXPECT_TRUE(becomes([&] { return editor().debris().empty(); })) << "it falls, lies, and is gone";
}

TEST_F(EditWindowTest, SetupBShowsTheSameWorld)
{
    m_window->setups().compareWith(QString()); // as far as A: the plain setup would not reach what is aimed at
    m_window->session().look.change([&](FieldLook& look) { look.wipe = 0.9; });
    EXPECT_TRUE(becomes([&] { return m_window->session().streamerB() && m_window->session().streamerB()->settled(); }));
    QTest::keyClick(field(), Qt::Key_X);
    ASSERT_TRUE(becomes([&] { return editor().tool().has_value(); }));
    (void)aimed();
    click();
    const VoxelPos voxel = changedVoxel();
    const int edge = m_window->session().setupB().chunk.edge;
    EXPECT_TRUE(becomes([&] {
        const auto voxels = m_window->session().streamerB()->voxels(chunkOf(voxel, edge));
        const VoxelPos in = voxel - originOf(chunkOf(voxel, edge), edge);
        return voxels && voxels->at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z)) == kOpen;
    }));
}

TEST_F(EditWindowTest, AWorldIsSavedAndOpenedAgainWithWhatWasBuilt)
{
    const test::TempFolder folder;
    const QString file = QString::fromStdString((folder / "dale.fell").string());
    QTest::keyClick(field(), Qt::Key_X);
    ASSERT_TRUE(becomes([&] { return editor().tool().has_value(); }));
    (void)aimed();
    click();
    const VoxelPos voxel = changedVoxel();
    WorldKeeper& keeper = m_window->session().keeper;
    EXPECT_TRUE(child<QLabel>("editKept")->text().contains("in no file yet"));
    keeper.saveAs(file, headerOf(m_window->session().terrain()));
    EXPECT_TRUE(becomes([&] { return keeper.hasFile() && !keeper.isSaving(); }));
    EXPECT_TRUE(becomes([&] { return child<QLabel>("editKept")->text().contains("saved in dale.fell"); }));
    EXPECT_FALSE(child<QPushButton>("saveWorld")->isEnabled()) << "nothing is left to save";
    EXPECT_TRUE(becomes([&] { return !m_window->isWindowModified(); }));
    QTest::keyClick(field(), Qt::Key_Z, Qt::AltModifier);
    EXPECT_TRUE(becomes([&] { return m_window->isWindowModified(); })) << "the undo is in no file yet";
    QTest::keyClick(field(), Qt::Key_Z, Qt::AltModifier | Qt::ShiftModifier);
    EXPECT_TRUE(becomes([&] { return keeper.unsaved() > 0; }));
    QTest::keyClick(field(), Qt::Key_S, Qt::ControlModifier);
    EXPECT_TRUE(becomes([&] { return keeper.unsaved() == 0 && !m_window->isWindowModified(); })) << "Ctrl+S saves";
    // Another world, and back from the file.
    m_window->world().open(QStringLiteral("level"));
    waitUntilThere();
    EXPECT_TRUE(m_window->session().changes()->isEmpty());
    EXPECT_TRUE(m_window->world().open(file));
    EXPECT_TRUE(becomes([&] { return !m_window->session().changes()->isEmpty(); }));
    waitUntilThere();
    EXPECT_EQ(at(voxel), kOpen);
    EXPECT_EQ(m_window->windowTitle(), "Corrowdale[*] — Fell");
    // A second window is told that it is open.
    MainWindow other(m_window->session().sharedTerrain(), m_window->session().setup());
    QString said;
    QObject::connect(&other.session().keeper, &WorldKeeper::trouble, [&said](const QString& why) { said = why; });
    other.world().open(file);
    EXPECT_TRUE(becomes([&] { return !said.isEmpty(); }));
    EXPECT_TRUE(said.contains("is open in another window")) << said.toStdString();
}

TEST_F(EditWindowTest, AFileHoldsWhatWasVisitedAndTheSetupWhereTheBenchSaysSo)
{
    const test::TempFolder folder;
    const QString file = QString::fromStdString((folder / "seen.fell").string());
    QTest::keyClick(field(), Qt::Key_X);
    ASSERT_TRUE(becomes([&] { return editor().tool().has_value(); }));
    (void)aimed();
    click();
    const VoxelPos voxel = changedVoxel();
    auto* what = child<QComboBox>("keep.what");
    what->setFocus();
    QTest::keyClick(what, Qt::Key_Down);
    EXPECT_TRUE(becomes([&] { return m_window->session().setup().keep.what == "visited"; }));
    const std::uint64_t epoch = m_window->session().epoch();
    WorldKeeper& keeper = m_window->session().keeper;
    keeper.saveAs(file, headerOf(m_window->session().terrain(), m_window->session().setup().keep));
    EXPECT_TRUE(becomes([&] { return keeper.hasFile() && !keeper.isSaving(); }));
    EXPECT_EQ(m_window->session().epoch(), epoch) << "nothing had to be rebuilt for it";
    m_window->world().open(QStringLiteral("level"));
    waitUntilThere();
    m_window->session().setups().set("stream.distance", 3);
    {
        std::unique_ptr<WorldFile> world;
        ASSERT_TRUE(becomes([&] { // the window releases it in a moment
            auto opened = WorldFile::open(file.toStdString());
            if (opened)
                world = opened.take();
            return world != nullptr;
        }));
        EXPECT_EQ(world->header().what, "visited");
        EXPECT_GT(world->figures().value().chunks, 30u) << "a ball of radius 2 with its neighbours";
        EXPECT_EQ(world->texts().value().at(0).kind, "setup");
    }
    EXPECT_TRUE(m_window->world().open(file));
    EXPECT_TRUE(becomes([&] { return !m_window->session().changes()->isEmpty(); }));
    waitUntilThere();
    EXPECT_EQ(m_window->session().setup().stream.distance, 2) << "as it was left";
    EXPECT_EQ(m_window->session().changes()->voxels(), 1u) << "what is as the recipe says is not held";
    EXPECT_EQ(at(voxel), kOpen);
}

TEST_F(EditWindowTest, TheWaysOfKeepingAreMeasuredHereAndNow)
{
    m_window->bench().openStage("edit");
    QTest::mouseClick(child<QPushButton>("measureKeeping"), Qt::LeftButton);
    EXPECT_TRUE(m_window->bench().keepTrial().isRunning());
    ASSERT_TRUE(becomes([&] { return m_window->bench().keepTrial().result().has_value(); }));
    EXPECT_TRUE(becomes([&] { return m_window->findChild<QLabel*>("keepFigures") != nullptr; }));
    const QString text = child<QLabel>("keepFigures")->text();
    EXPECT_EQ(text.count("visited"), 3) << text.toStdString();
    EXPECT_FALSE(text.contains("WRONG"));
}

TEST_F(EditWindowTest, LeavingAWorldWithChangesInNoFileAsksFirst)
{
    QTest::keyClick(field(), Qt::Key_X);
    ASSERT_TRUE(becomes([&] { return editor().tool().has_value(); }));
    (void)aimed();
    click();
    ASSERT_TRUE(becomes([&] { return !m_window->session().changes()->isEmpty(); }));
    QString asked;
    inDialog([&asked](QWidget* dialog) {
        asked = dialog->objectName();
        dialog->findChild<QPushButton*>("decline")->click();
    });
    EXPECT_FALSE(m_window->world().open(QStringLiteral("level")));
    EXPECT_EQ(asked, "unsavedQuestion");
    EXPECT_EQ(m_window->windowTitle(), "Corrowdale[*] — Fell");
    inDialog([](QWidget* dialog) { dialog->findChild<QPushButton*>("confirm")->click(); });
    EXPECT_TRUE(m_window->world().open(QStringLiteral("level")));
}

TEST_F(EditWindowTest, OnFootOneStandsOnTheGroundWalksAndJumps)
{
    WorldSession& session = m_window->session();
    QTest::keyClick(field(), Qt::Key_F);
    ASSERT_TRUE(becomes([&] { return session.isWalking(); }));
    EXPECT_TRUE(becomes([&] { return session.body().isOnGround || session.body().isSwimming; })) << "it falls first";
    const auto above = session.metresAboveGround();
    ASSERT_TRUE(above);
    EXPECT_LT(*above, 6) << "from the ground that the recipe gives, or a wall on it";
    const Eye before = session.eye;
    QTest::keyPress(field(), Qt::Key_W);
    QTest::qWait(700);
    QTest::keyRelease(field(), Qt::Key_W);
    EXPECT_NE(session.eye.cell, before.cell);
    EXPECT_TRUE(becomes([&] { return session.body().isOnGround || session.body().isSwimming; }));
    const double floor = static_cast<double>(session.eye.cell.y) + session.eye.within.y;
    double highest = floor;
    QTest::keyPress(field(), Qt::Key_Space);
    (void)becomes([&] {
        highest = std::max(highest, static_cast<double>(session.eye.cell.y) + session.eye.within.y);
        return highest > floor + 0.4;
    });
    QTest::keyRelease(field(), Qt::Key_Space);
    EXPECT_GT(highest, floor + 0.4);
    QTest::keyClick(field(), Qt::Key_F);
    EXPECT_TRUE(becomes([&] { return !session.isWalking(); }));
}

} // namespace
} // namespace fell::edit_window_test
