// SPDX-License-Identifier: GPL-3.0-or-later
// The real window: real mouse and key events, then what the user would see.
#include "models/text.h"
#include "window_fixture.h"

#include "support/sample_setups.h"

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace fell::window_test {
namespace {

TEST_F(WindowTest, ShowsTheWorld)
{
    EXPECT_GT(coloursOf(fieldPicture()), 200) << "a sky and ground of many shades";
    EXPECT_EQ(m_window->windowTitle(), "Fell — Corrowdale");
    EXPECT_TRUE(becomes([&] { return child<QLabel>("resident")->text().contains("all there"); }))
        << child<QLabel>("resident")->text().toStdString();
    EXPECT_TRUE(child<QLabel>("distanceText")->text().contains("64 m"));
}

TEST_F(WindowTest, DraggingLooksRoundAndKeysFly)
{
    const Eye before = m_window->session().eye;
    const QImage picture = fieldPicture();
    QTest::mousePress(field(), Qt::LeftButton, {}, {300, 200});
    QTest::mouseMove(field(), {350, 210});
    QTest::mouseMove(field(), {400, 220});
    QTest::mouseRelease(field(), Qt::LeftButton, {}, {400, 220});
    EXPECT_NEAR(m_window->session().eye.yaw, before.yaw + 100 * Flight::kDegreesAPixel, 1e-6);
    EXPECT_NEAR(m_window->session().eye.pitch, before.pitch - 20 * Flight::kDegreesAPixel, 1e-6);
    QTest::mouseMove(field(), {500, 300});
    EXPECT_NEAR(m_window->session().eye.yaw, before.yaw + 100 * Flight::kDegreesAPixel, 1e-6) << "released";

    const auto moved = [&] {
        const VoxelPos by = m_window->session().eye.cell - before.cell;
        return std::abs(by.x) + std::abs(by.z);
    };
    QTest::keyPress(field(), Qt::Key_W);
    EXPECT_TRUE(becomes([&] { return moved() > 3; }));
    QTest::keyRelease(field(), Qt::Key_W);
    const VoxelPos rest = m_window->session().eye.cell;
    QTest::qWait(300);
    EXPECT_EQ(m_window->session().eye.cell, rest);
    EXPECT_TRUE(becomes([&] { return fieldPicture() != picture; })) << "another view is shown";
}

TEST_F(WindowTest, TheWheelChangesTheSpeed)
{
    const double before = m_window->session().flight.speed;
    QWheelEvent up(
        {100, 100}, field()->mapToGlobal(QPoint(100, 100)), {}, {0, 120}, Qt::NoButton, {}, Qt::NoScrollPhase, false);
    QCoreApplication::sendEvent(field(), &up);
    EXPECT_NEAR(m_window->session().flight.speed, before * 1.25, 1e-9);
}

TEST_F(WindowTest, TheDistanceSliderGrowsAndShrinksTheWorld)
{
    const auto chunks = [&] { return field()->lastFrame().residentChunks; };
    const std::uint64_t small = chunks();
    auto* slider = child<QSlider>("distance");
    slider->setFocus();
    QTest::keyClick(slider, Qt::Key_Right);
    QTest::keyClick(slider, Qt::Key_Right);
    EXPECT_EQ(m_window->session().setup().stream.distance, 4);
    waitUntilThere();
    const std::uint64_t large = chunks();
    EXPECT_GT(large, small * 2);
    EXPECT_TRUE(child<QLabel>("distanceText")->text().contains("128 m"));
    for (int i = 0; i < 3; ++i)
        QTest::keyClick(slider, Qt::Key_Left);
    waitUntilThere();
    EXPECT_EQ(chunks(), small) << "at distance 1 with one chunk of slack: the ball that was there at first";
}

TEST_F(WindowTest, AClickOnAPlateOpensItsBenchAndAMethodIsExchanged)
{
    const RailLayout plates = m_window->rail().plates();
    QTest::mouseClick(&m_window->rail(), Qt::LeftButton, {}, plates.plate(5).center());
    EXPECT_EQ(m_window->bench().stage(), "cull");
    QTest::mouseClick(&m_window->rail(), Qt::LeftButton, {}, plates.plate(2).center());
    EXPECT_EQ(m_window->bench().stage(), "mesh");

    m_window->session().setups().set("stream.distance", 1);
    waitUntilThere();
    const std::uint64_t before = field()->lastFrame().triangles;
    auto* every = child<QRadioButton>("mesh.mesher=every");
    QTest::mouseClick(every, Qt::LeftButton, {}, QPoint(8, every->height() / 2));
    EXPECT_EQ(m_window->session().setup().mesh.mesher, "every");
    waitUntilThere();
    EXPECT_GT(field()->lastFrame().triangles, before * 3) << "every side of every voxel";
    EXPECT_TRUE(becomes([&] { return m_window->figures().stages()[2].method.contains("every side"); }));
    QTest::keyClick(field(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(QTest::qWaitFor([&] { return m_window->session().setup().mesh.mesher == "greedy-bits"; }, kPatienceMs));
}

TEST_F(WindowTest, CullStepsAreOrderedAndSayWhatTheyDo)
{
    const RailLayout plates = m_window->rail().plates();
    QTest::mouseClick(&m_window->rail(), Qt::LeftButton, {}, plates.plate(5).center());
    ASSERT_EQ(m_window->bench().stage(), "cull");
    const auto steps = [&] { return m_window->session().setup().cull.steps; };
    ASSERT_EQ(steps(), (std::vector<std::string>{"octree", "distance", "facing"}));
    EXPECT_TRUE(QTest::qWaitFor([&] { return child<QLabel>("counts=octree")->text().contains("kept"); }, kPatienceMs))
        << child<QLabel>("counts=octree")->text().toStdString();
    QTest::mouseClick(child<QToolButton>("earlier=facing"), Qt::LeftButton);
    EXPECT_EQ(steps(), (std::vector<std::string>{"octree", "facing", "distance"}));
    QTest::qWait(50); // the bench is built anew
    auto* hidden = child<QCheckBox>("cull.steps=hidden");
    QTest::mouseClick(hidden, Qt::LeftButton, {}, QPoint(8, hidden->height() / 2));
    EXPECT_EQ(steps().back(), "hidden");
    const std::uint64_t epoch = m_window->session().epoch();
    QTest::keyClick(field(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(QTest::qWaitFor([&] { return steps().size() == 3; }, kPatienceMs));
    EXPECT_EQ(m_window->session().epoch(), epoch) << "other steps need no other meshes";
}

TEST_F(WindowTest, WhatEachStepSavesIsMeasuredInTheView)
{
    emit m_window->rail().stageClicked("cull", false);
    child<QTabBar>("cullTabs")->setCurrentIndex(static_cast<int>(CullPanel::Tab::Savings));
    QTest::qWait(50);
    QTest::mouseClick(child<QPushButton>("measureSteps"), Qt::LeftButton);
    EXPECT_TRUE(m_window->session().stepTrial.isRunning());
    ASSERT_TRUE(QTest::qWaitFor([&] { return !m_window->session().stepTrial.isRunning(); }, kPatienceMs));
    const auto& rows = m_window->session().stepTrial.rows(StepTrial::Of::Steps);
    ASSERT_EQ(rows.size(), 5u) << "all, without each of three, none";
    EXPECT_LT(rows.front().triangles, rows.back().triangles);
    EXPECT_EQ(rows.back().triangles, field()->lastFrame().loadedTriangles) << "without any step everything is drawn";
    QTest::qWait(50);
    EXPECT_TRUE(child<QLabel>("savings")->text().contains("no facing"))
        << child<QLabel>("savings")->text().toStdString();
}

TEST_F(WindowTest, WhatEachPassCostsIsMeasuredInTheView)
{
    emit m_window->rail().stageClicked("draw", false);
    QTest::qWait(50);
    QTest::mouseClick(child<QPushButton>("measurePasses"), Qt::LeftButton);
    EXPECT_TRUE(m_window->session().stepTrial.isRunning());
    ASSERT_TRUE(becomes([this] { return !m_window->session().stepTrial.isRunning(); }));
    const auto& rows = m_window->session().stepTrial.rows(StepTrial::Of::Passes);
    ASSERT_EQ(rows.size(), 6u) << "all, without each of four, none";
    EXPECT_EQ(rows[1].step, "sky");
    EXPECT_EQ(rows[1].triangles, rows[0].triangles) << "the sky has no triangles of the world";
    EXPECT_LT(rows[2].triangles, rows[0].triangles) << "without solid sides";
    EXPECT_EQ(rows.back().triangles, 0u) << "without any pass nothing is drawn";
    EXPECT_LT(rows.back().frameMs.p50, rows.front().frameMs.p50);
    ASSERT_TRUE(becomes([this] { return child<QLabel>("passCosts")->text().contains("no solid"); }));
    EXPECT_GT(field()->lastFrame().triangles, 0u) << "and everything is drawn again";
}

TEST_F(WindowTest, HeldCullingStaysWhileTheEyeTurnsAndGhostsAppear)
{
    emit m_window->rail().stageClicked("cull", false);
    const std::uint64_t kept = field()->lastFrame().chunks;
    QTest::keyClick(field(), Qt::Key_F6);
    ASSERT_TRUE(QTest::qWaitFor([&] { return m_window->session().look.frozen.has_value(); }, kPatienceMs));
    EXPECT_TRUE(child<QCheckBox>("look.frozen")->isChecked());
    m_window->session().eye.yaw += 180;
    QTest::qWait(400);
    EXPECT_EQ(field()->lastFrame().chunks, kept) << "culled as seen from where it was held";
    const QImage without = fieldPicture();
    auto* ghosts = child<QCheckBox>("look.ghosts");
    QTest::mouseClick(ghosts, Qt::LeftButton, {}, QPoint(8, ghosts->height() / 2));
    EXPECT_TRUE(becomes([&] { return fieldPicture() != without; }));
    QTest::keyClick(field(), Qt::Key_F6);
    ASSERT_TRUE(QTest::qWaitFor([&] { return !m_window->session().look.frozen; }, kPatienceMs));
}

TEST_F(WindowTest, TheAuditListsWhatIsLostAndAClickLooksAtIt)
{
    emit m_window->rail().stageClicked("cull", false);
    child<QTabBar>("cullTabs")->setCurrentIndex(static_cast<int>(CullPanel::Tab::Audit));
    QTest::qWait(50);
    QTest::mouseClick(child<QPushButton>("auditCull"), Qt::LeftButton);
    EXPECT_TRUE(m_window->bench().cullAudit().isRunning());
    ASSERT_TRUE(QTest::qWaitFor([&] { return !m_window->bench().cullAudit().isRunning(); }, kPatienceMs));
    QTest::qWait(50);
    EXPECT_TRUE(child<QLabel>("auditState")->text().contains("No exact step loses any"))
        << child<QLabel>("auditState")->text().toStdString();
    auto* list = child<QListWidget>("lostChunks");
    ASSERT_GT(list->count(), 0) << "the corner tests lose some";
    const Eye before = m_window->session().eye;
    QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->visualItemRect(list->item(0)).center());
    ASSERT_TRUE(m_window->session().look.marked);
    const auto& lost = m_window->bench().cullAudit().result()->lost;
    const auto found = std::find_if(
        lost.begin(), lost.end(), [&](const LostChunk& one) { return one.chunk == *m_window->session().look.marked; });
    ASSERT_NE(found, lost.end());
    EXPECT_NE(m_window->session().eye, before);
    EXPECT_GT(m_window->session().look.fieldOfView, 0) << "seen through the lens of the audit";
    QTest::keyClick(field(), Qt::Key_Escape);
    EXPECT_TRUE(QTest::qWaitFor([&] { return !m_window->session().look.marked; }, kPatienceMs));
}

TEST_F(WindowTest, TheOctreeIsShownInTheFieldAndOnThePlan)
{
    const QImage plain = fieldPicture();
    QTest::keyClick(field(), Qt::Key_F8);
    ASSERT_TRUE(QTest::qWaitFor([&] { return m_window->session().look.octree; }, kPatienceMs));
    EXPECT_TRUE(becomes([&] { return fieldPicture() != plain; }));
    const OctreeFigures figures = field()->octree();
    EXPECT_EQ(figures.chunks, field()->lastFrame().residentChunks);
    EXPECT_EQ(figures.leaves, figures.chunks) << "a leaf is a chunk here";
    emit m_window->rail().stageClicked("cull", false);
    child<QTabBar>("cullTabs")->setCurrentIndex(static_cast<int>(CullPanel::Tab::Options));
    ASSERT_TRUE(QTest::qWaitFor(
        [&] {
            const auto* text = m_window->findChild<QLabel*>("octreeFigures");
            return text && text->text().contains("walked in");
        },
        kPatienceMs));
    auto* leaf = child<QComboBox>("cull.leaf");
    EXPECT_EQ(leaf->count(), 3) << "1, 2 and 4 chunks";
    m_window->session().look.octree = false;
    m_window->showPlan(true);
    QTest::qWait(400);
    const QImage without = m_window->plan().above().grab().toImage();
    auto* box = child<QCheckBox>("planOctree");
    QTest::mouseClick(box, Qt::LeftButton, {}, QPoint(8, box->height() / 2));
    EXPECT_TRUE(becomes([&] { return m_window->plan().above().grab().toImage() != without; }));
}

TEST_F(WindowTest, ASecondSetupIsDrawnBesideTheFirstWithAWipe)
{
    m_window->session().setups().set("stream.distance", 1);
    waitUntilThere();
    auto* chip = child<QToolButton>("setupB");
    EXPECT_TRUE(chip->text().contains("Setup B"));
    EXPECT_EQ(field()->wipeAt(), -1);
    QTest::keyClick(field(), Qt::Key_B, Qt::ControlModifier); // a copy of A
    ASSERT_TRUE(QTest::qWaitFor([&] { return m_window->session().hasB(); }, kPatienceMs));
    EXPECT_TRUE(QTest::qWaitFor([&] { return m_window->rail().plates().second; }, kPatienceMs))
        << "the rail has two rows";
    EXPECT_TRUE(chip->text().contains("near-changed"));

    // A click on B's plate edits B, and only B.
    const RailLayout plates = m_window->rail().plates();
    QTest::mouseClick(&m_window->rail(), Qt::LeftButton, {}, plates.plateOfB(2).center());
    EXPECT_TRUE(m_window->session().editsB());
    auto* exposed = child<QRadioButton>("mesh.mesher=exposed");
    QTest::mouseClick(exposed, Qt::LeftButton, {}, QPoint(8, exposed->height() / 2));
    EXPECT_EQ(m_window->session().setupB().mesh.mesher, "exposed");
    EXPECT_EQ(m_window->session().setup().mesh.mesher, "greedy-bits");
    EXPECT_TRUE(QTest::qWaitFor(
        [&] { return m_window->session().streamerB() && m_window->session().streamerB()->settled(); }, kPatienceMs));
    // A keeps chunks of the larger distance it had, so the two are compared by the chunk.
    const auto trianglesAChunk = [&](bool b) {
        const FrameReport& frame = field()->lastFrame(b);
        return static_cast<double>(frame.triangles) / static_cast<double>(std::max<std::uint64_t>(1, frame.chunks));
    };
    EXPECT_TRUE(QTest::qWaitFor([&] { return trianglesAChunk(true) > trianglesAChunk(false) * 1.2; }, kPatienceMs))
        << "each side draws its own meshes: " << trianglesAChunk(true) << " against " << trianglesAChunk(false);

    // The wipe is dragged with the mouse.
    const int before = field()->wipeAt(), y = field()->height() / 2;
    QTest::mousePress(field(), Qt::LeftButton, {}, QPoint(before, y));
    QTest::mouseMove(field(), QPoint(before - 120, y));
    QTest::mouseRelease(field(), Qt::LeftButton, {}, QPoint(before - 120, y));
    EXPECT_NEAR(field()->wipeAt(), before - 120, 2);
    m_window->compareWith(std::nullopt);
    EXPECT_FALSE(m_window->session().editsB());
    EXPECT_EQ(field()->wipeAt(), -1);
}

TEST_F(WindowTest, WhatIsUnderThePointerIsNamedWithItsChunksCosts)
{
    waitUntilThere();
    const QPoint low(field()->width() / 2, field()->height() - 60); // the ground before the eye
    QTest::mouseMove(field(), low - QPoint(3, 0));
    QTest::mouseMove(field(), low);
    ASSERT_TRUE(QTest::qWaitFor([&] { return field()->pointed().has_value(); }, kPatienceMs));
    const Pointed& pointed = *field()->pointed();
    const auto voxels = m_window->session().streamer()->voxels(pointed.chunk);
    ASSERT_TRUE(voxels);
    const VoxelPos in = pointed.voxel - originOf(pointed.chunk, voxels->edge());
    EXPECT_EQ(voxels->at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z)), pointed.material);
    EXPECT_TRUE(field()->probeText().contains("quads")) << field()->probeText().toStdString();
    EXPECT_TRUE(field()->probeText().contains("meshed in"));
}

TEST_F(WindowTest, TheSurfaceShowsQuadsBySizeAndAWireframe)
{
    QTest::mouseClick(&m_window->rail(), Qt::LeftButton, {}, m_window->rail().plates().plate(2).center());
    auto* wire = child<QCheckBox>("look.wireframe");
    QTest::mouseClick(wire, Qt::LeftButton, {}, QPoint(8, wire->height() / 2));
    EXPECT_TRUE(m_window->session().look.wireframe);
    QTest::keyClick(field(), Qt::Key_F5);
    EXPECT_TRUE(QTest::qWaitFor([&] { return !m_window->session().look.wireframe; }, kPatienceMs));
    auto* paint = child<QComboBox>("look.paint");
    paint->setFocus();
    QTest::keyClick(paint, Qt::Key_Down);
    QTest::keyClick(paint, Qt::Key_Down);
    EXPECT_EQ(m_window->session().look.paint, Paint::QuadSizes);
}

TEST_F(WindowTest, TheSunSliderMakesItNight)
{
    const auto brightness = [&] {
        const QImage picture = fieldPicture();
        double sum = 0;
        for (int y = 0; y < picture.height(); y += 7)
            for (int x = 0; x < picture.width(); x += 7)
                sum += qGray(picture.pixel(x, y));
        return sum;
    };
    const double day = brightness();
    auto* sun = child<QSlider>("sun");
    sun->setFocus();
    QTest::keyClick(sun, Qt::Key_Home);
    EXPECT_EQ(m_window->session().look.sunHeight, -18);
    EXPECT_TRUE(child<QLabel>("sunText")->text().contains("night"));
    EXPECT_TRUE(QTest::qWaitFor([&] { return brightness() < day / 3; }, kPatienceMs))
        << "of " << day << " now " << brightness();
    trigger("Sun: late morning");
    EXPECT_EQ(sun->value(), 46);
    EXPECT_TRUE(QTest::qWaitFor([&] { return brightness() > day * 0.95; }, kPatienceMs));
}

TEST_F(WindowTest, LightIsShownByChannelFollowedToItsLampAndMeasured)
{
    ASSERT_TRUE(m_window->openWorld("gallery"));
    waitUntilThere();
    const RailLayout plates = m_window->rail().plates();
    QTest::mouseClick(&m_window->rail(), Qt::LeftButton, {}, plates.plate(1).center());
    ASSERT_EQ(m_window->bench().stage(), "light");
    EXPECT_GT(m_window->figures().stages()[1].number.toDouble(), 0);

    // What lies under the pointer: the levels before it, and the way to the lamp, which is drawn.
    const QPoint floor(field()->width() / 2, field()->height() - 60);
    QTest::mouseMove(field(), floor - QPoint(3, 0));
    QTest::mouseMove(field(), floor);
    ASSERT_TRUE(QTest::qWaitFor([&] { return field()->lightStory().has_value(); }, kPatienceMs));
    const LightStory story = *field()->lightStory();
    EXPECT_TRUE(story.levels.contains("red lamps") && story.levels.contains("sky")) << story.levels.toStdString();
    EXPECT_TRUE(story.source.contains("from lamp at")) << story.source.toStdString();
    ASSERT_GT(story.path.size(), 1u);
    EXPECT_EQ(story.path.front(), field()->pointed()->before);

    // The overlay: one channel, from the bench and from the menu.
    EXPECT_EQ(field()->levels(), nullptr);
    auto* paint = child<QComboBox>("look.paint");
    EXPECT_EQ(paint->count(), 4 + 4) << "one for each channel of the mode";
    paint->setFocus();
    for (int i = 0; i < 5; ++i)
        QTest::keyClick(paint, Qt::Key_Down);
    EXPECT_EQ(m_window->session().look.paint, Paint::Light);
    EXPECT_EQ(m_window->session().look.channel, 1);
    ASSERT_TRUE(QTest::qWaitFor([&] { return field()->levels() != nullptr; }, kPatienceMs));
    trigger("Surface: light of the sky");
    EXPECT_EQ(m_window->session().look.channel, 3);
    trigger("Surface: textures");
    EXPECT_TRUE(QTest::qWaitFor([&] { return field()->levels() == nullptr; }, kPatienceMs));

    // All modes beside each other.
    auto* measure = child<QPushButton>("measureLight");
    QTest::mouseClick(measure, Qt::LeftButton);
    EXPECT_TRUE(m_window->bench().lightTrial().isRunning());
    ASSERT_TRUE(QTest::qWaitFor([&] { return !m_window->bench().lightTrial().isRunning(); }, kPatienceMs));
    QTest::qWait(100);
    for (const char* mode : {"lamp-sky", "colour", "colour-sky"})
        EXPECT_TRUE(child<QLabel>((std::string("measured=") + mode).c_str())->text().contains("ms")) << mode;
    EXPECT_TRUE(child<QLabel>("lightCosts")->text().contains("flood"));

    // Without light nothing of it is left.
    auto* none = child<QRadioButton>("light.mode=none");
    QTest::mouseClick(none, Qt::LeftButton, {}, QPoint(8, none->height() / 2));
    EXPECT_EQ(m_window->session().setup().light.mode, "none");
    waitUntilThere();
    EXPECT_EQ(m_window->session().streamer()->counts().lightBytes, 0u);
    QEvent leave(QEvent::Leave);
    QCoreApplication::sendEvent(field(), &leave);
}

TEST_F(WindowTest, TheRailShowsMeasuredCosts)
{
    for (const StageFigure& stage : m_window->figures().stages()) {
        bool number = false;
        EXPECT_GE(stage.number.toDouble(&number), 0);
        EXPECT_TRUE(number) << stage.id.toStdString() << " shows " << stage.number.toStdString();
        if (stage.id == "draw") {
            EXPECT_GT(stage.number.toDouble(), 0.1) << "a frame of a software rasteriser takes more";
        }
    }
}

TEST_F(WindowTest, TheLongViewReachesEightKilometresAndShowsItsLevels)
{
    ASSERT_TRUE(m_window->openSetup("long-view"));
    emit m_window->rail().stageClicked("levels", false);
    auto* distance = child<QSlider>("distance");
    EXPECT_TRUE(child<QLabel>("distanceText")->text().contains("8.2 km"));
    distance->setValue(distance->maximum());
    EXPECT_TRUE(child<QLabel>("distanceText")->text().contains("16.4 km"));
    // To what a test has time for.
    ASSERT_TRUE(m_window->session().edited().set("stream.distance", 12));
    waitUntilThere();
    ASSERT_TRUE(QTest::qWaitFor([this] { return child<QLabel>("levelsShown")->text().contains("4 m"); }, kPatienceMs));
    EXPECT_FALSE(child<QLabel>("levelsShown")->text().contains("8 m")) << "12 chunks need three levels";
    const auto levels = std::find_if(m_window->figures().stages().begin(), m_window->figures().stages().end(),
        [](const StageFigure& stage) { return stage.id == "levels"; });
    EXPECT_EQ(levels->number, "3");
    // Somewhere below the sky the pointer finds a longer voxel and says so.
    int row = field()->height() / 3;
    EXPECT_TRUE(becomes([&] {
        row = row < field()->height() * 2 / 3 ? row + 12 : field()->height() / 3;
        QTest::mouseMove(field(), {field()->width() * 2 / 3, row});
        QTest::qWait(150);
        return field()->probeText().contains("level 1, a voxel is 2 m long");
    }));
    // The overlay: the nearest ground in level 0's violet, nothing in the red of cracks.
    auto* paint = child<QComboBox>("look.paint");
    paint->setCurrentIndex(3);
    emit paint->activated(3);
    EXPECT_EQ(m_window->session().look.paint, Paint::Levels);
    struct Seen {
        int red = 0, violet = 0;
    };
    const auto look = [this] {
        const QImage picture = fieldPicture();
        Seen seen;
        for (int y = 60; y < picture.height() - 60; ++y)
            for (int x = 0; x < picture.width(); ++x) {
                const QColor colour = picture.pixelColor(x, y);
                seen.red += colour.red() > 200 && colour.green() < 80;
                seen.violet += colour.blue() > colour.green() + 15 && colour.red() > colour.green();
            }
        return seen;
    };
    EXPECT_TRUE(becomes([&] { return look().violet > 1000; }));
    const Seen stitched = look();
    ASSERT_TRUE(m_window->session().edited().set("lod.seams", "open"));
    waitUntilThere();
    // A rasteriser leaves single pixels where rectangles of different sizes meet; cracks are another matter.
    EXPECT_LT(stitched.red, 200);
    EXPECT_TRUE(becomes([&] { return look().red > 2 * stitched.red; }));
    m_window->session().edited().undo();
    // Without levels the distance is what can be held so.
    ASSERT_TRUE(m_window->session().edited().set("stream.distance", 256));
    ASSERT_TRUE(m_window->session().edited().set("lod.scheme", "off"));
    EXPECT_EQ(m_window->session().setup().stream.distance, kFarthestPlain);
    m_window->session().edited().undo();
    m_window->session().edited().undo();
}

TEST_F(WindowTest, FullDetailIsShownBesideTheLevelsWithHowMuchThePicturesDiffer)
{
    ASSERT_TRUE(m_window->openSetup("long-view"));
    ASSERT_TRUE(m_window->session().edited().set("stream.distance", 6));
    emit m_window->rail().stageClicked("levels", false);
    EXPECT_EQ(field()->difference(), std::nullopt) << "nothing to compare with";
    auto* beside = child<QPushButton>("fullDetail");
    QTest::mouseClick(beside, Qt::LeftButton);
    ASSERT_TRUE(m_window->session().hasB());
    EXPECT_EQ(m_window->session().setupB().lod.scheme, "off");
    EXPECT_EQ(m_window->session().setupB().stream.distance, 6);
    ASSERT_TRUE(becomes([&] { return field()->difference().has_value(); }));
    const double withRings = *field()->difference();
    EXPECT_GT(withRings, 0) << "longer voxels are seen from 128 m on";
    EXPECT_LT(withRings, 20);
    // One that changes nothing of the picture, and a look elsewhere: found anew.
    m_window->session().setups().set("lod.scheme", "off");
    EXPECT_TRUE(becomes([&] { return field()->difference() == 0.0; })) << "both at full detail";
    m_window->session().eye.yaw += 40;
    EXPECT_TRUE(becomes([&] { return !field()->difference(); }));
    EXPECT_TRUE(becomes([&] { return field()->difference() == 0.0; }));
    m_window->compareWith(std::nullopt);
}

TEST_F(WindowTest, TheFrameStripNamesTheFrameUnderThePointer)
{
    ASSERT_TRUE(QTest::qWaitFor([&] { return m_window->strip().bars().count > 3; }, kPatienceMs));
    m_window->session().setPaused(true); // no bar moves on while it is pointed at
    const StripLayout bars = m_window->strip().bars();
    const int x = static_cast<int>(bars.left(bars.count - 2) + bars.barWidth() / 2);
    EXPECT_EQ(bars.frameAt(x), static_cast<int>(bars.count - 2));
    EXPECT_EQ(bars.frameAt(bars.plot.left() - 5), -1);
    const QImage before = m_window->strip().grab().toImage();
    QTest::mouseClick(&m_window->strip(), Qt::LeftButton, {}, QPoint(x, bars.plot.center().y()));
    const QImage after = m_window->strip().grab().toImage();
    EXPECT_NE(before, after) << "its story is shown and held";
}

TEST_F(WindowTest, ATransectIsWalkedSavedAndOpenedAgain)
{
    QTest::mouseClick(child<QWidget>("showTransect"), Qt::LeftButton);
    child<QLineEdit>("values")->setText("1, 2");
    child<QSpinBox>("rounds")->setValue(1);
    child<QSpinBox>("frames")->setValue(2);
    QTest::mouseClick(child<QPushButton>("walk"), Qt::LeftButton);
    EXPECT_TRUE(m_window->runner().isRunning());
    EXPECT_TRUE(m_window->session().isPaused()) << "the field rests";
    EXPECT_TRUE(child<QPushButton>("stop")->isVisible());
    ASSERT_TRUE(QTest::qWaitFor([&] { return !m_window->runner().isRunning(); }, kPatienceMs));
    auto* table = child<QTableView>("transectTable");
    EXPECT_EQ(table->model()->rowCount(), 2);
    EXPECT_GT(m_window->runner().result().rows[0].frameMs.p50, 0);
    EXPECT_TRUE(child<QPushButton>("walk")->isVisible());

    const test::TempFolder folder;
    const QString csv = QString::fromStdString((folder / "r.csv").string()),
                  png = QString::fromStdString((folder / "r.png").string());
    EXPECT_TRUE(m_window->transect().saveCsv(csv));
    EXPECT_TRUE(m_window->transect().savePlot(png));
    const QImage plots(png);
    EXPECT_GT(plots.width(), 800);
    EXPECT_TRUE(child<QLabel>("words")->text().contains("reaches"));
    EXPECT_TRUE(child<QPushButton>("saveReport")->isEnabled());
    EXPECT_TRUE(m_window->transect().saveReport(QString::fromStdString((folder / "r.html").string())));
    EXPECT_NE(test::textOf(folder / "r.html").find("<svg"), std::string::npos);
    EXPECT_TRUE(m_window->transect().saveReport(QString::fromStdString((folder / "r.md").string())));
    EXPECT_EQ(test::textOf(folder / "r.md").rfind("# Transect: stream.distance in Corrowdale", 0), 0u);
    const auto contains = [&](const QColor& colour) {
        for (int y = 0; y < plots.height(); ++y)
            for (int x = 0; x < plots.width(); ++x)
                if (plots.pixelColor(x, y) == colour)
                    return true;
        return false;
    };
    EXPECT_TRUE(contains(limewash().setupA)) << "a curve in tarn blue";
    QTest::mouseClick(child<QToolButton>("everySample"), Qt::LeftButton);
    EXPECT_NE(m_window->transect().plots().picture().toImage(), plots) << "points in place of the percentiles";
    QTest::mouseClick(child<QToolButton>("everySample"), Qt::LeftButton);
    const auto before = toCsv(m_window->runner().result());
    m_window->runner().show({});
    EXPECT_EQ(table->model()->rowCount(), 0);
    EXPECT_TRUE(m_window->transect().open(csv));
    EXPECT_EQ(table->model()->rowCount(), 2);
    EXPECT_EQ(toCsv(m_window->runner().result()), before);
}

TEST_F(WindowTest, EveryWalkIsKeptInTheLedgerAndTwoAreCompared)
{
    QTest::mouseClick(child<QWidget>("showTransect"), Qt::LeftButton);
    const test::TempFolder folder;
    m_window->ledger().openElsewhere(folder.path() / "ledger.db");
    child<QSpinBox>("rounds")->setValue(2);
    child<QSpinBox>("frames")->setValue(2);
    const auto walk = [this](const QString& values) {
        child<QLineEdit>("values")->setText(values);
        QTest::mouseClick(child<QPushButton>("walk"), Qt::LeftButton);
        return becomes([this] { return !m_window->runner().isRunning(); });
    };
    auto* table = child<QTableView>("ledgerTable");
    const auto holds = [&](int trials) { return becomes([&] { return table->model()->rowCount() == trials; }); };
    ASSERT_TRUE(walk("1, 2"));
    ASSERT_TRUE(holds(1));
    EXPECT_EQ(m_window->runner().result().audits.size(), 2u) << "the mesher and the light";
    QTest::mouseClick(child<QWidget>("showLedger"), Qt::LeftButton);
    EXPECT_TRUE(table->isVisible());
    const auto clickRow = [&](int row, Qt::KeyboardModifiers keys = {}) {
        const QRect at = table->visualRect(table->model()->index(row, 2));
        QTest::mouseClick(table->viewport(), Qt::LeftButton, keys, at.center());
    };
    clickRow(0);
    EXPECT_TRUE(child<QPushButton>("ledgerPin")->isEnabled());
    EXPECT_FALSE(child<QPushButton>("ledgerCompare")->isEnabled());
    QTest::mouseClick(child<QPushButton>("ledgerPin"), Qt::LeftButton);
    ASSERT_TRUE(becomes([&] { return table->model()->index(0, 1).data().toString() == "pinned"; }));
    // The next walk is held against the pinned one.
    ASSERT_TRUE(walk("1, 2"));
    ASSERT_TRUE(becomes([this] { return m_window->banner().text().contains("against the pinned baseline"); }));
    ASSERT_TRUE(holds(2));
    QTest::mouseClick(child<QWidget>("showLedger"), Qt::LeftButton);
    clickRow(0);
    clickRow(1, Qt::ControlModifier);
    ASSERT_TRUE(child<QPushButton>("ledgerCompare")->isEnabled());
    QTest::mouseClick(child<QPushButton>("ledgerCompare"), Qt::LeftButton);
    ASSERT_TRUE(becomes([this] { return m_window->runner().result().b.has_value(); }));
    EXPECT_EQ(m_window->runner().result().rows.size(), 4u);
    EXPECT_FALSE(m_window->runner().result().inTurn);
    EXPECT_FALSE(table->isVisible()) << "the rows are shown instead";
    // Found by words; carried out and in again; deleted after a question.
    QTest::mouseClick(child<QWidget>("showLedger"), Qt::LeftButton);
    QTest::keyClicks(child<QLineEdit>("ledgerSearch"), "no such word");
    ASSERT_TRUE(holds(0));
    child<QLineEdit>("ledgerSearch")->clear();
    ASSERT_TRUE(holds(2));
    const QString file = QString::fromStdString((folder / "trials.json").string());
    m_window->ledger().exportTo(file, {1, 2});
    ASSERT_TRUE(becomes([&] { return m_window->banner().text().contains("trials.json"); }));
    clickRow(0);
    QTimer::singleShot(0, [] { // the question is asked within the click
        ASSERT_TRUE(becomes([] { return qobject_cast<QMessageBox*>(QApplication::activeModalWidget()) != nullptr; }));
        auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
        EXPECT_TRUE(box->text().contains("Delete trial 2 for good?"));
        QTest::mouseClick(
            box->buttons().at(box->buttonRole(box->buttons()[0]) == QMessageBox::AcceptRole ? 0 : 1), Qt::LeftButton);
    });
    QTest::mouseClick(child<QPushButton>("ledgerRemove"), Qt::LeftButton);
    ASSERT_TRUE(holds(1));
    m_window->ledger().importFrom(file);
    ASSERT_TRUE(holds(2));
    m_window->ledger().importFrom("/no/such/file.json");
    ASSERT_TRUE(becomes([this] { return m_window->banner().text().contains("/no/such/file.json"); }));
}

TEST_F(WindowTest, TwoThingsVariedAreAHeatMapAndTheReachIsFound)
{
    QTest::mouseClick(child<QWidget>("showTransect"), Qt::LeftButton);
    const test::TempFolder folder;
    m_window->ledger().openElsewhere(folder.path() / "ledger.db");
    TransectSentence sentence;
    sentence.values = "1, 2";
    sentence.across = "chunk.edge";
    sentence.acrossValues = "16, 32";
    sentence.rounds = 1;
    sentence.frames = 2;
    m_window->transect().setSentence(sentence);
    QTest::mouseClick(child<QPushButton>("walk"), Qt::LeftButton);
    ASSERT_TRUE(becomes([this] { return !m_window->runner().isRunning(); }));
    ASSERT_EQ(m_window->runner().result().rows.size(), 4u);
    const QString png = QString::fromStdString((folder / "map.png").string()),
                  svg = QString::fromStdString((folder / "map.svg").string()),
                  raw = QString::fromStdString((folder / "raw.json").string());
    EXPECT_TRUE(m_window->transect().savePlot(png));
    EXPECT_TRUE(m_window->transect().savePlot(svg));
    EXPECT_NE(test::textOf(folder / "map.svg").find("rgb(24,60,82)"), std::string::npos) << "the dearest is darkest";
    const QImage map(png);
    int dark = 0;
    for (int y = 0; y < map.height(); ++y)
        for (int x = 0; x < map.width(); ++x)
            dark += map.pixelColor(x, y) == QColor(24, 60, 82);
    EXPECT_GT(dark, 1000) << "a whole field of it";
    EXPECT_TRUE(m_window->transect().saveCsv(raw));
    EXPECT_TRUE(m_window->transect().open(raw));
    EXPECT_EQ(m_window->runner().result().rows[3].across, 32);

    // The budget of the Draw bench is that of the rows; the slider's judges at once, and a reach is found by measuring.
    m_window->session().edited().set("draw.budget", 33.3);
    EXPECT_EQ(m_window->runner().result().a.draw.budget, 33.3);
    child<QSlider>("budget")->setValue(child<QSlider>("budget")->maximum());
    EXPECT_NEAR(m_window->runner().result().a.draw.budget, 501, 5);
    EXPECT_TRUE(m_window->runner().result().reach[0].beyond) << "half a second is enough for any of them";
    child<QSlider>("budget")->setValue(child<QSlider>("budget")->minimum());
    EXPECT_NEAR(m_window->runner().result().a.draw.budget, 2, 0.1);
    QTest::mouseClick(child<QPushButton>("findReach"), Qt::LeftButton);
    EXPECT_TRUE(m_window->runner().isRunning());
    ASSERT_TRUE(becomes([this] { return !m_window->runner().isRunning(); }));
    EXPECT_TRUE(child<QLabel>("words")->text().contains("within 2.00 ms at p95"))
        << child<QLabel>("words")->text().toStdString();
}

TEST_F(WindowTest, ATransectWhileBlocksChangeSaysWhatOneCosts)
{
    QTest::mouseClick(child<QWidget>("showTransect"), Qt::LeftButton);
    const test::TempFolder folder;
    m_window->ledger().openElsewhere(folder.path() / "ledger.db");
    TransectSentence sentence;
    sentence.values = "1";
    sentence.rounds = 1;
    sentence.frames = 3;
    m_window->transect().setSentence(sentence);
    auto* table = child<QTableView>("transectTable");
    EXPECT_EQ(table->model()->columnCount(), 14);
    EXPECT_FALSE(child<QSpinBox>("churnEach")->isVisible());
    auto* load = child<QComboBox>("churn");
    load->setFocus();
    QTest::keyClick(load, Qt::Key_Down);
    EXPECT_EQ(load->currentText(), "blocks come and go");
    auto* each = child<QSpinBox>("churnEach");
    ASSERT_TRUE(each->isVisible());
    each->setFocus();
    each->selectAll();
    QTest::keyClicks(each, "7");
    QTest::mouseClick(child<QPushButton>("walk"), Qt::LeftButton);
    ASSERT_TRUE(becomes([this] { return !m_window->runner().isRunning(); }));
    ASSERT_EQ(m_window->runner().result().rows.size(), 1u);
    EXPECT_EQ(m_window->runner().result().rows[0].churn.changes, 21u);
    EXPECT_EQ(table->model()->columnCount(), 17);
    EXPECT_NE(table->model()->index(0, 13).data().toString(), "–");
    EXPECT_TRUE(child<QLabel>("words")->text().contains("pays for one block"))
        << child<QLabel>("words")->text().toStdString();
}

TEST_F(WindowTest, TheBlockBookChangesAKindAndTheFieldShowsIt)
{
    QTest::mouseClick(child<QToolButton>("showBlocks"), Qt::LeftButton);
    auto* list = child<QListWidget>("blockList");
    ASSERT_TRUE(becomes([&] { return list->count() > 10 && list->item(0)->text().contains("voxels here"); }))
        << list->item(0)->text().toStdString();
    // Water is there: the tarn lies below.
    int water = 0;
    while (water < list->count() && !list->item(water)->text().startsWith("water\n"))
        ++water;
    ASSERT_LT(water, list->count());
    list->scrollToItem(list->item(water));
    QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->visualItemRect(list->item(water)).center());
    EXPECT_TRUE(child<QLabel>("blockName")->text().contains("water"));
    const QImage before = child<QWidget>("blockCube")->grab().toImage();
    child<QSlider>("blockSun")->setValue(-10);
    EXPECT_NE(child<QWidget>("blockCube")->grab().toImage(), before) << "it is night over it";
    auto* gives = child<QSpinBox>("block-gives-2");
    gives->setFocus();
    for (int i = 0; i < 9; ++i)
        QTest::keyClick(gives, Qt::Key_Up);
    BlockEditor& editor = m_window->blocks().editor();
    EXPECT_EQ(editor.set().kinds[m_window->blocks().selected()].light.gives[2], 9);
    EXPECT_TRUE(editor.isChanged());
    const std::uint64_t epoch = m_window->session().epoch();
    QTest::mouseClick(child<QPushButton>("blockApply"), Qt::LeftButton);
    EXPECT_GT(m_window->session().epoch(), epoch);
    const auto& kinds = m_window->session().terrain().recipe.blocks.kinds;
    EXPECT_EQ(kinds[*findMaterial(m_window->session().terrain().recipe.blocks, "water")].light.gives[2], 9);
    EXPECT_TRUE(editor.canUndo()) << "its history stays";
    trigger("Undo change of setup"); // Ctrl+Z
    EXPECT_EQ(kinds.size(), editor.set().kinds.size());
    EXPECT_NE(editor.set().kinds[m_window->blocks().selected()].light.gives[2], 9);
    QTest::mouseClick(child<QToolButton>("showField"), Qt::LeftButton);
    waitUntilThere();
}

TEST_F(WindowTest, AColourOfTheBlockBookIsInTheNextPictureAndNothingIsMeshedForIt)
{
    waitUntilThere();
    QTest::mouseClick(child<QToolButton>("showBlocks"), Qt::LeftButton);
    BlockEditor& editor = m_window->blocks().editor();
    const std::uint64_t epoch = m_window->session().epoch(), meshed = m_window->session().streamer()->counts().meshed;
    for (const char* kind : {"turf", "meadow", "bracken", "slate", "heather"})
        for (const char* side : {"/top", "/side", "/textures"})
            ASSERT_FALSE(editor.change(*findMaterial(editor.set(), kind), side,
                side[1] == 't' && side[2] == 'e' ? nlohmann::json() : nlohmann::json("#FF00FF")));
    auto* effect = child<QLabel>("blockEffect");
    ASSERT_TRUE(becomes([&] { return effect->text().contains("nothing was lit or meshed"); }))
        << effect->text().toStdString();
    EXPECT_TRUE(effect->isVisible());
    QTest::mouseClick(child<QToolButton>("showField"), Qt::LeftButton);
    const auto purple = [&] {
        const QImage image = fieldPicture();
        int count = 0;
        for (int y = 0; y < image.height(); y += 4)
            for (int x = 0; x < image.width(); x += 4) {
                const QColor colour(image.pixel(x, y));
                count += colour.red() > 2 * colour.green() && colour.blue() > 2 * colour.green();
            }
        return count;
    };
    EXPECT_TRUE(becomes([&] { return purple() > 200; })) << purple();
    EXPECT_EQ(m_window->session().epoch(), epoch) << "the same world";
    EXPECT_EQ(m_window->session().streamer()->counts().meshed, meshed);

    // Light is no matter of looks: it is in the field by itself too, which keeps its voxels and says what it took.
    QTest::mouseClick(child<QToolButton>("showBlocks"), Qt::LeftButton);
    ASSERT_FALSE(editor.change(*findMaterial(editor.set(), "turf"), "/light/gives", {15, 0, 0}));
    ASSERT_TRUE(becomes([&] { return m_window->session().epoch() > epoch; }));
    EXPECT_TRUE(effect->text().contains("as soon as it is shown")) << effect->text().toStdString();
    QTest::mouseClick(child<QToolButton>("showField"), Qt::LeftButton);
    ASSERT_TRUE(becomes([&] { return effect->text().contains("kept their voxels"); })) << effect->text().toStdString();
    const StreamCounts counts = m_window->session().streamer()->counts();
    EXPECT_GT(counts.known * 10, counts.generated * 9) << "nearly all of them";
    EXPECT_TRUE(effect->text().contains(QStringLiteral("%1 meshed").arg(countText(counts.meshed))))
        << effect->text().toStdString() << " of " << counts.meshed;

    // Another matter changes the ground: the field waits until it is asked for.
    QTest::mouseClick(child<QToolButton>("showBlocks"), Qt::LeftButton);
    const std::uint64_t lit = m_window->session().epoch();
    ASSERT_FALSE(editor.change(*findMaterial(editor.set(), "turf"), "/matter", "see-through"));
    EXPECT_TRUE(effect->text().contains("Not in the field yet")) << effect->text().toStdString();
    QTest::qWait(600);
    EXPECT_EQ(m_window->session().epoch(), lit);
    QTest::mouseClick(child<QPushButton>("blockApply"), Qt::LeftButton);
    EXPECT_GT(m_window->session().epoch(), lit);
    QTest::mouseClick(child<QToolButton>("showField"), Qt::LeftButton);
    ASSERT_TRUE(becomes([&] { return effect->text().contains(", 0 kept their voxels"); }))
        << effect->text().toStdString();
}

TEST_F(WindowTest, AHeightMapIsBroughtIn)
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
    m_window->bringIn(png);
    EXPECT_TRUE(said.contains("64 × 48 pixels: 256 m × 192 m of ground")) << said.toStdString();
    EXPECT_FALSE(m_window->importer().isRunning());

    ImportSpec spec;
    spec.in = png.toStdString();
    spec.out = world.toStdString();
    spec.like = m_window->session().terrain().recipe;
    spec.heights = {0, 51};
    m_window->importer().start(spec);
    ASSERT_TRUE(becomes([&] { return m_window->session().terrain().recipe.map.has_value(); }));
    EXPECT_EQ(m_window->windowTitle(), "Fell — dem");
    waitUntilThere();
    EXPECT_NEAR(groundHeight(m_window->session().terrain(), 0, 0), 51.0 * 4 * 32 / 255, 0.6);
    // Once more: it is there already.
    m_window->importer().start(spec);
    EXPECT_TRUE(becomes([&] { return m_window->banner().text().contains("is there already"); }));
}

TEST_F(WindowTest, ARouteIsRecordedByFlyingKeptWalkedAndFlownAgain)
{
    WorldSession& session = m_window->session();
    QTest::keyClick(field(), Qt::Key_R, Qt::ControlModifier);
    ASSERT_TRUE(becomes([&] { return session.recorder.has_value(); }));
    const Eye from = session.eye;
    QTest::keyPress(field(), Qt::Key_W);
    ASSERT_TRUE(becomes([&] { return session.recorder->points() >= 4; }));
    QTest::keyRelease(field(), Qt::Key_W);
    EXPECT_FALSE(m_window->keepRoute("../outside")) << "a name is no path";
    EXPECT_TRUE(m_window->banner().text().contains("no name for a route"));
    ASSERT_TRUE(m_window->keepRoute("a test flight"));
    EXPECT_EQ(m_window->transect().sentence().route, "a test flight");
    const auto kept = routeNamed("a test flight");
    ASSERT_TRUE(kept) << sentence(kept.problem());
    EXPECT_GE(kept.value().points.size(), 4u);
    session.recorder.reset();
    // Flown again it begins where the recording did, and a key ends it.
    session.flyAlong(kept.value());
    ASSERT_TRUE(becomes([&] { return chunkOf(session.eye.cell, 16) == chunkOf(from.cell, 16); }));
    EXPECT_TRUE(session.isFlyingAlong());
    QTest::keyClick(field(), Qt::Key_S, {}, 50);
    EXPECT_TRUE(becomes([&] { return !session.isFlyingAlong(); }));
}

/// Presses a button of a dialog by its text; false without it.
bool press(QWidget* dialog, const char* text)
{
    for (QPushButton* button : dialog->findChildren<QPushButton*>())
        if (button->text() == QString::fromUtf8(text)) {
            button->click();
            return true;
        }
    return false;
}

TEST_F(WindowTest, ARecordingIsLostOnlyByDiscard)
{
    WorldSession& session = m_window->session();
    QTest::keyClick(field(), Qt::Key_R, Qt::ControlModifier);
    ASSERT_TRUE(becomes([&] { return session.recorder.has_value(); }));
    QTest::keyPress(field(), Qt::Key_W);
    ASSERT_TRUE(becomes([&] { return session.recorder->points() >= 4; }));
    QTest::keyRelease(field(), Qt::Key_W);
    // A name with a slash, then Cancel, then "Name it", then a good name: as a person in a hurry.
    int step = 0;
    QTimer answers;
    QObject::connect(&answers, &QTimer::timeout, [&] {
        QWidget* dialog = QApplication::activeModalWidget();
        if (!dialog || !dialog->isVisible())
            return;
        auto* edit = dialog->findChild<QLineEdit*>();
        if (step == 0 && edit) {
            ++step;
            edit->setText(QStringLiteral("over/the beck"));
            QTest::keyClick(edit, Qt::Key_Return);
        } else if (step == 1 && edit) {
            EXPECT_EQ(edit->text(), "over/the beck") << "what was typed stands there again";
            ++step;
            QTest::keyClick(edit, Qt::Key_Escape);
        } else if (step == 2 && dialog->objectName() == QLatin1String("discardRecordingQuestion")) {
            ++step;
            EXPECT_TRUE(press(dialog, "Name it…"));
        } else if (step == 3 && edit) {
            ++step;
            edit->setText(QStringLiteral("over the beck"));
            QTest::keyClick(edit, Qt::Key_Return);
        }
    });
    answers.start(50);
    QTest::keyClick(field(), Qt::Key_R, Qt::ControlModifier);
    ASSERT_TRUE(becomes([&] { return !session.recorder.has_value(); }));
    EXPECT_EQ(step, 4);
    const auto kept = routeNamed("over the beck");
    ASSERT_TRUE(kept) << sentence(kept.problem());
    EXPECT_GE(kept.value().points.size(), 4u);
}

TEST_F(WindowTest, LettersGoToTheListThatHasTheFocus)
{
    WorldSession& session = m_window->session();
    QTest::keyClick(field(), Qt::Key_F9);
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
    QTest::keyClick(list, Qt::Key_F2);
    QTest::keyClick(field(), Qt::Key_B);
    EXPECT_TRUE(becomes([&] { return session.editor.tool().has_value(); })) << "in the field it takes the tool";
}

TEST_F(WindowTest, ARecipeThatWasChangedIsAskedAboutBeforeTheWindowCloses)
{
    QTest::keyClick(field(), Qt::Key_F9);
    RecipeEditor& editor = m_window->recipe().editor();
    ASSERT_TRUE(becomes([&] { return !editor.document().empty(); }));
    editor.change(withLayerNamed(editor.document(), layersOf(editor.document()).front().pointer, "another note"),
        QStringLiteral("note"));
    ASSERT_TRUE(editor.isChanged());
    QString asked;
    inDialog([&asked](QWidget* dialog) {
        asked = dialog->objectName();
        EXPECT_TRUE(press(dialog, "Stay here"));
    });
    m_window->close();
    EXPECT_EQ(asked, "unsavedDocumentsQuestion");
    EXPECT_TRUE(m_window->isVisible());
    inDialog([](QWidget* dialog) { EXPECT_TRUE(press(dialog, "Discard")); });
    m_window->close();
    EXPECT_FALSE(m_window->isVisible());
}

TEST_F(WindowTest, ARouteIsChangedOnThePlan)
{
    WorldSession& session = m_window->session();
    QTest::mouseClick(child<QWidget>("showPlan"), Qt::LeftButton);
    auto* routes = child<QComboBox>("planRoute");
    routes->setCurrentText("beck-to-summit");
    emit routes->activated(routes->currentIndex());
    ASSERT_TRUE(session.routeEditor.route().has_value());
    const Route before = *session.routeEditor.route();
    PlanCanvas& above = m_window->plan().above();
    ASSERT_TRUE(becomes([&] { return above.routePoints() == before.points.size(); }));
    // The point nearest to the viewer is on the plan.
    int point = 0;
    const QPointF middle(above.width() / 2.0, above.height() / 2.0);
    for (int i = 0; i < static_cast<int>(before.points.size()); ++i)
        if (QLineF(above.routePoint(i), middle).length() < QLineF(above.routePoint(point), middle).length())
            point = i;
    const auto index = static_cast<std::size_t>(point);
    const QPoint from = above.routePoint(point).toPoint();
    ASSERT_TRUE(above.rect().contains(from)) << from.x() << " " << from.y();
    const Eye eye = session.eye;
    QTest::mousePress(&above, Qt::LeftButton, {}, from);
    QTest::mouseMove(&above, from + QPoint(20, 0));
    QTest::mouseMove(&above, from + QPoint(40, 30));
    QTest::mouseRelease(&above, Qt::LeftButton, {}, from + QPoint(40, 30));
    const RoutePoint moved = session.routeEditor.route()->points[index];
    EXPECT_GT(moved.at[0], before.points[index].at[0] + 1) << "to the east";
    EXPECT_GT(moved.at[2], before.points[index].at[2] + 1) << "and to the south";
    EXPECT_EQ(moved.at[1], before.points[index].at[1]);
    EXPECT_EQ(session.eye, eye) << "the viewer was not dragged";
    EXPECT_NEAR(QLineF(above.routePoint(point), from + QPoint(40, 30)).length(), 0, 6) << "under the pointer";
    // A new point on the way, and away with it; all can be taken back.
    QTest::mouseClick(&above, Qt::RightButton, {}, above.routePoint(point).toPoint());
    EXPECT_EQ(session.routeEditor.route()->points.size(), before.points.size() - 1);
    QTest::mouseClick(child<QPushButton>("undoRoute"), Qt::LeftButton);
    EXPECT_EQ(session.routeEditor.route()->points.size(), before.points.size());
    session.routeEditor.add(index, 0.5);
    EXPECT_EQ(session.routeEditor.route()->points.size(), before.points.size() + 1);
    EXPECT_TRUE(m_window->keepEditedRoute("changed on the plan"));
    EXPECT_EQ(routeNamed("changed on the plan").value().points.size(), before.points.size() + 1);
    EXPECT_EQ(m_window->transect().sentence().route, "changed on the plan");
    QTest::mouseClick(child<QPushButton>("undoRoute"), Qt::LeftButton);
    QTest::mouseClick(child<QPushButton>("undoRoute"), Qt::LeftButton);
    EXPECT_EQ(session.routeEditor.route()->points[index].at, before.points[index].at);
    EXPECT_FALSE(child<QPushButton>("undoRoute")->isEnabled());
}

TEST_F(WindowTest, AWalkCanBeStoppedAndTheWindowStaysAlive)
{
    m_window->showTransect();
    TransectSentence sentence;
    sentence.values = "1, 2, 3";
    sentence.rounds = 50;
    m_window->transect().setSentence(sentence);
    m_window->transect().walk();
    // Alive: events come through all the while.
    int ticks = 0;
    QTimer timer;
    QObject::connect(&timer, &QTimer::timeout, [&] { ++ticks; });
    timer.start(20);
    ASSERT_TRUE(QTest::qWaitFor([&] { return m_window->runner().result().rows.size() >= 2; }, kPatienceMs));
    EXPECT_GT(ticks, 5);
    QTest::mouseClick(child<QPushButton>("stop"), Qt::LeftButton);
    ASSERT_TRUE(QTest::qWaitFor([&] { return !m_window->runner().isRunning(); }, kPatienceMs));
    EXPECT_TRUE(m_window->runner().result().stopped);
    m_window->showField();
    waitUntilThere();
}

TEST_F(WindowTest, WhatIsWrongIsSaidInOneSentenceAndChangesNothing)
{
    const test::TempFolder folder;
    const auto epoch = m_window->session().epoch();
    EXPECT_FALSE(m_window->openWorld(QString::fromStdString(folder.write("r.json", "{\"format\": 3}").string())));
    EXPECT_TRUE(m_window->banner().isVisible());
    EXPECT_TRUE(m_window->banner().text().contains("/format"));
    EXPECT_EQ(m_window->session().epoch(), epoch);
    EXPECT_FALSE(m_window->openSetup("nowhere"));
    EXPECT_TRUE(m_window->banner().text().contains("long-view, near or plain"));
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

TEST_F(WindowTest, AnotherWorldIsOneActionAway)
{
    trigger("Demo: Level ground");
    EXPECT_EQ(m_window->windowTitle(), "Fell — Level ground");
    waitUntilThere();
    EXPECT_GT(field()->lastFrame().triangles, 0u);
}

TEST_F(WindowTest, FindAnActionRunsItByName)
{
    inDialog([](QWidget* finder) {
        auto* edit = finder->findChild<QLineEdit*>();
        QTest::keyClicks(edit, "slate");
        EXPECT_EQ(finder->findChild<QListWidget*>()->count(), 1);
        QTest::keyClick(edit, Qt::Key_Return);
    });
    QTest::keyClick(field(), Qt::Key_K, Qt::ControlModifier);
    ASSERT_TRUE(QTest::qWaitFor([] { return currentTheme().dark; }, kPatienceMs));
    EXPECT_TRUE(currentTheme().dark);
    m_window->setDark(false);
}

TEST_F(WindowTest, BothThemesReachEveryPart)
{
    const auto backOf = [&] { return m_window->grab().toImage().pixelColor(4, 40); };
    EXPECT_EQ(backOf(), limewash().window);
    m_window->setDark(true);
    EXPECT_TRUE(becomes([&] { return backOf() == slate().window; }));
    EXPECT_EQ(m_window->strip().grab().toImage().pixelColor(2, 100), slate().panel);
    m_window->setDark(false);
}

TEST_F(WindowTest, ThePlanShowsEveryChunkAndAClickTellsItsLife)
{
    trigger(QStringLiteral("Plan"));
    PlanPanel& plan = m_window->plan();
    ASSERT_TRUE(plan.isVisible());
    EXPECT_FALSE(m_window->bench().isVisible());
    ASSERT_TRUE(becomes([&] { return plan.above().chunkAt(plan.above().rect().center()).has_value(); }));
    const ChunkPos viewer = chunkOf(m_window->session().eye.cell, 32);
    // By hand: a chunk of the south view is where its offset says, one square a chunk.
    PlanCanvas& side = plan.side();
    const QPointF here = side.pointOf(viewer), below = side.pointOf(viewer + ChunkPos{0, -1, 0});
    EXPECT_EQ(here.x(), below.x());
    EXPECT_GT(below.y(), here.y());
    QTest::mouseClick(&side, Qt::LeftButton, {}, below.toPoint());
    QEvent leave(QEvent::Leave); // the pointer may rest on the field: its chunk would be shown
    QCoreApplication::sendEvent(field(), &leave);
    const QString title = QStringLiteral("Chunk %1, %2, %3").arg(viewer.x).arg(viewer.y - 1).arg(viewer.z);
    EXPECT_TRUE(QTest::qWaitFor([&] { return child<QLabel>("storyTitle")->text() == title; }, kPatienceMs))
        << child<QLabel>("storyTitle")->text().toStdString();
    ASSERT_FALSE(plan.story().life.empty());
    EXPECT_EQ(plan.story().life.back().what, QStringLiteral("generating")) << "a life begins with it";
    EXPECT_TRUE(child<QLabel>("storyLife")->text().contains(QStringLiteral("generated")));
    EXPECT_TRUE(child<QLabel>("arenaText")->text().contains(QStringLiteral("in use")));
    // A chunk beyond the distance says so.
    QTest::mouseClick(&side, Qt::LeftButton, {}, side.pointOf(viewer + ChunkPos{-4, 0, 0}).toPoint());
    const auto why = [&] { return child<QLabel>("storyWhy")->text(); };
    EXPECT_TRUE(
        QTest::qWaitFor([&] { return why().contains(QStringLiteral("beyond the render distance")); }, kPatienceMs))
        << why().toStdString();
    trigger(QStringLiteral("Plan"));
    EXPECT_FALSE(plan.isVisible());
    EXPECT_TRUE(m_window->bench().isVisible());
}

TEST_F(WindowTest, DraggingOnThePlanMovesTheViewerAndTheWorldFollows)
{
    child<QToolButton>("showPlan")->click();
    PlanCanvas& above = m_window->plan().above();
    ASSERT_TRUE(becomes([&] { return above.chunkAt(above.rect().center()).has_value(); })) << "the map is looked at";
    const ChunkPos before = chunkOf(m_window->session().eye.cell, 32);
    const QPoint from = above.rect().center();
    const double square = above.pointOf(before + ChunkPos{1, 0, 0}).x() - above.pointOf(before).x();
    ASSERT_GT(square, 5);
    const QPoint to = from + QPoint(static_cast<int>(std::lround(3 * square)), 0);
    QTest::mousePress(&above, Qt::LeftButton, {}, from);
    QTest::mouseMove(&above, from + QPoint(20, 0));
    QTest::mouseMove(&above, to);
    QTest::mouseRelease(&above, Qt::LeftButton, {}, to);
    const ChunkPos after = chunkOf(m_window->session().eye.cell, 32);
    EXPECT_NEAR(static_cast<double>(after.x - before.x), 3, 1);
    EXPECT_EQ(after.z, before.z);
    waitUntilThere();
    const auto isThere = [&] { // a probe tells nothing while a worker has the map
        const auto probe = m_window->session().streamer()->probe(after);
        return probe && (probe->stage == ChunkStage::Meshed || probe->stage == ChunkStage::Bare);
    };
    EXPECT_TRUE(QTest::qWaitFor(isThere, kPatienceMs));
}

TEST_F(WindowTest, ARecordingIsSavedAsTraceEvents)
{
    const test::TempFolder folder;
    m_window->saveRecording(QString::fromStdString((folder / "lives.json").string()));
    ASSERT_TRUE(
        QTest::qWaitFor([&] { return m_window->banner().text().contains(QStringLiteral("events to")); }, kPatienceMs))
        << m_window->banner().text().toStdString();
    const std::string text = test::textOf(folder / "lives.json");
    EXPECT_NE(text.find("\"traceEvents\""), std::string::npos);
    EXPECT_NE(text.find("\"worker 1\""), std::string::npos);
    EXPECT_NE(text.find("\"upload\""), std::string::npos);
    m_window->saveRecording(QStringLiteral("/nowhere/lives.json"));
    EXPECT_TRUE(QTest::qWaitFor(
        [&] { return m_window->banner().text().contains(QStringLiteral("/nowhere/lives.json")); }, kPatienceMs));
}

TEST_F(WindowTest, AChangeThatWouldNotFitIsAskedForFirst)
{
    m_window->session().edited().set("stream.memory", 64);
    waitUntilThere();
    const auto answer = [this](const QString& button, QString& said) {
        inDialog([button, &said](QWidget* dialog) {
            auto* box = qobject_cast<QMessageBox*>(dialog);
            ASSERT_NE(box, nullptr);
            said = box->text();
            for (QAbstractButton* one : box->buttons())
                if (one->text() == button)
                    QTest::mouseClick(one, Qt::LeftButton);
        });
    };
    QString said;
    answer(QStringLiteral("Leave it"), said);
    child<QSlider>("distance")->setValue(24);
    EXPECT_TRUE(said.contains(QStringLiteral("24 chunks of edge 32"))) << said.toStdString();
    EXPECT_TRUE(said.contains(QStringLiteral("64.0 MiB"))) << said.toStdString();
    EXPECT_EQ(m_window->session().setup().stream.distance, 2);
    EXPECT_EQ(child<QSlider>("distance")->value(), 2) << "the slider goes back";
    said.clear();
    answer(QStringLiteral("Change it all the same"), said);
    m_window->session().edited().set("stream.distance", 20);
    EXPECT_FALSE(said.isEmpty());
    EXPECT_EQ(m_window->session().setup().stream.distance, 20);
    m_window->session().edited().set("stream.distance", 3);
    EXPECT_EQ(m_window->session().setup().stream.distance, 3) << "what needs less is not asked for";
}

TEST(OctreeSquares, AColumnIsEmptyOnlyIfAllOfItIs)
{
    using Kind = OctreeCell::Kind;
    const std::vector<OctreeCell> cells{{Kind::Node, {0, 0, 0}, 2}, {Kind::Leaf, {0, 0, 0}, 1},
        {Kind::Empty, {0, 1, 0}, 1}, {Kind::Empty, {1, 0, 0}, 1}, {Kind::Empty, {1, 1, 0}, 1},
        {Kind::Leaf, {1, 1, 1}, 1}};
    const auto above = octreeSquares(cells, {0, 0, 0}, true);
    const auto has = [](const std::vector<OctreeSquare>& all, const OctreeSquare& one) {
        return std::find(all.begin(), all.end(), one) != all.end();
    };
    EXPECT_EQ(above.size(), 4u);
    EXPECT_TRUE(has(above, {0, 0, 2, false}));
    EXPECT_TRUE(has(above, {0, 0, 1, false})) << "the empty place lies over a leaf";
    EXPECT_TRUE(has(above, {1, 0, 1, true}));
    EXPECT_TRUE(has(above, {1, 1, 1, false}));
    const auto side = octreeSquares(cells, {0, 0, 0}, false); // the cut at z = 0; up is less down
    EXPECT_TRUE(has(side, {0, -1, 2, false})) << "its top row";
    EXPECT_TRUE(has(side, {0, -1, 1, true}));
    EXPECT_FALSE(has(side, {1, -1, 1, false})) << "that leaf lies south of the cut";
}

TEST(RailLayout, PlatesFillTheWidthInOrderAndAreFoundAgain)
{
    const RailLayout layout{1280, 92, 5};
    for (int i = 0; i < 5; ++i) {
        EXPECT_EQ(layout.plateAt(layout.plate(i).center()), i);
        if (i > 0) {
            EXPECT_EQ(layout.plate(i).left() - layout.plate(i - 1).right() - 1, RailLayout::kGap);
        }
    }
    EXPECT_EQ(layout.plate(0).left(), RailLayout::kMargin);
    EXPECT_EQ(layout.plate(4).right() + 1, 1280 - RailLayout::kMargin);
    EXPECT_EQ(layout.plateAt({0, 0}), -1);
}

TEST(StripLayout, TheNewestFrameEndsAtTheRightEdge)
{
    const StripLayout layout{QRect(100, 10, 480, 80), 10, 20};
    EXPECT_EQ(layout.barWidth(), 2);
    EXPECT_EQ(layout.left(9), 578);
    EXPECT_EQ(layout.frameAt(579), 9);
    EXPECT_EQ(layout.frameAt(561), 0);
    EXPECT_EQ(layout.frameAt(558), -1);
    EXPECT_EQ(layout.y(20), 10);
    EXPECT_EQ(layout.y(0), 90);
}

TEST(FieldView, SaysWhatToInstallWhereThereIsNoOpenGl45)
{
    if (qgetenv("MESA_GL_VERSION_OVERRIDE") != "3.3")
        GTEST_SKIP() << "run with MESA_GL_VERSION_OVERRIDE=3.3, as CTest does";
    {
        MainWindow window(makeTerrain(findWorld("level", demoFolder()).take()), test::unlitSetup());
        window.show();
        ASSERT_TRUE(QTest::qWaitForWindowExposed(&window));
        EXPECT_EQ(window.field().window(), nullptr);
        const auto* message = window.findChild<QLabel*>("fieldMessage");
        ASSERT_NE(message, nullptr);
        EXPECT_TRUE(message->isVisible());
        EXPECT_TRUE(message->text().contains("libgl1-mesa-dri"));
        EXPECT_TRUE(message->text().contains("4.5"));
        // What needs no picture works.
        TransectSentence sentence;
        sentence.values = "1";
        sentence.rounds = 1;
        sentence.frames = 1;
        window.showTransect();
        window.transect().setSentence(sentence);
        window.transect().walk();
        EXPECT_TRUE(QTest::qWaitFor([&] { return !window.runner().isRunning(); }, kPatienceMs));
        ASSERT_EQ(window.runner().result().rows.size(), 1u);
        EXPECT_GT(window.runner().result().rows[0].meshNs.p50, 0);
        EXPECT_EQ(window.runner().result().rows[0].frameMs.count, 0u);
        EXPECT_TRUE(window.banner().text().contains("frames were not drawn"));
    }
    qunsetenv("MESA_GL_VERSION_OVERRIDE");
}

} // namespace
} // namespace fell::window_test
