// SPDX-License-Identifier: GPL-3.0-or-later
// The field: what is seen, and how one moves through it. The real window: real mouse and key events, then what the user
// would see.
#include "window_fixture.h"
#include <fell/app/models/text.h>

#include "support/all_names.h"
#include "support/sample_setups.h"

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace fell::field_window_test {
namespace {

class FieldWindowTest : public WindowTest { };

TEST_F(FieldWindowTest, ShowsTheWorld)
{
    EXPECT_GT(coloursOf(fieldPicture()), 200) << "a sky and ground of many shades";
    EXPECT_EQ(m_window->windowTitle(), "Corrowdale[*] — Fell");
    EXPECT_TRUE(becomes([&] { return child<QLabel>("resident")->text().contains("all loaded"); }))
        << child<QLabel>("resident")->text().toStdString();
    EXPECT_TRUE(child<QLabel>("distanceText")->text().contains("64 m"));
}

TEST_F(FieldWindowTest, DraggingLooksRoundAndKeysFly)
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

TEST_F(FieldWindowTest, TheWheelChangesTheSpeed)
{
    const double before = m_window->session().flight.speed;
    QWheelEvent up(
        {100, 100}, field()->mapToGlobal(QPoint(100, 100)), {}, {0, 120}, Qt::NoButton, {}, Qt::NoScrollPhase, false);
    QCoreApplication::sendEvent(field(), &up);
    EXPECT_NEAR(m_window->session().flight.speed, before * 1.25, 1e-9);
}

TEST_F(FieldWindowTest, TheDistanceSliderGrowsAndShrinksTheWorld)
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

TEST_F(FieldWindowTest, AClickOnAPlateOpensItsBenchAndAMethodIsExchanged)
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
    EXPECT_TRUE(becomes([&] { return m_window->figures().stages()[2].method.contains("every face"); }));
    QTest::keyClick(field(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(QTest::qWaitFor([&] { return m_window->session().setup().mesh.mesher == "greedy-bits"; }, kPatienceMs));
}

TEST_F(FieldWindowTest, AnotherLensOrFilterKeepsTheWorldThatIsThere)
{
    WorldSession& session = m_window->session();
    const std::uint64_t epoch = session.epoch(), meshed = session.streamer()->counts().meshed;
    for (const auto& [path, value] : {std::pair<const char*, nlohmann::json>{"draw.fieldOfView", 90},
             {"draw.filter", "linear"}, {"draw.seeThrough", "within"}}) {
        const auto allowed = findField(path)->allowed;
        const nlohmann::json to = allowed.empty() || std::find(allowed.begin(), allowed.end(), value) != allowed.end()
            ? value
            : nlohmann::json(allowed.back());
        ASSERT_TRUE(session.setups().set(path, to)) << path;
    }
    QTest::qWait(200);
    EXPECT_EQ(session.epoch(), epoch);
    EXPECT_EQ(session.streamer()->counts().meshed, meshed) << "nothing was meshed again for a lens";
    EXPECT_EQ(session.setup().draw.fieldOfView, 90);
}

TEST_F(FieldWindowTest, AnotherNumberOfWorkersMemoryOrderOrEditMethodKeepsTheWorldThatIsThere)
{
    WorldSession& session = m_window->session();
    ASSERT_TRUE(becomes([&] { return session.streamer()->settled(); }));
    const std::uint64_t epoch = session.epoch(), meshed = session.streamer()->counts().meshed;
    for (const auto& [path, value] : {std::pair<const char*, nlohmann::json>{"stream.workers", 3},
             {"stream.workers", 1}, {"stream.memory", 4096}, {"stream.order", "view"}, {"edit.method", "each"}})
        ASSERT_TRUE(session.setups().set(path, value)) << path;
    session.compareWith(session.setup());
    session.edit(true);
    ASSERT_TRUE(becomes([&] { return session.streamerB() && session.streamerB()->settled(); }));
    const auto* besides = session.streamerB();
    ASSERT_TRUE(session.edited().set("stream.workers", 2));
    EXPECT_EQ(session.streamerB(), besides) << "of setup B too";
    QTest::qWait(200);
    ASSERT_TRUE(becomes([&] { return session.streamer()->settled(); }));
    EXPECT_EQ(session.epoch(), epoch);
    EXPECT_EQ(session.streamer()->counts().meshed, meshed) << "no chunk was meshed a second time";
}

TEST_F(FieldWindowTest, AChoiceThatDoesNotGoWithTheOthersIsRefusedInOneSentence)
{
    WorldSession& session = m_window->session();
    session.setups().set("mesh.mesher", "bevelled");
    ASSERT_TRUE(becomes([&] { return session.streamer()->settled(); }));
    ASSERT_EQ(session.setup().mesh.mesher, "bevelled");
    session.setups().set("lod.scheme", "rings");
    EXPECT_EQ(session.setup().lod.scheme, "off");
    EXPECT_TRUE(m_window->banner().isVisible());
    EXPECT_TRUE(m_window->banner().text().contains("another mesher")) << m_window->banner().text().toStdString();
}

TEST_F(FieldWindowTest, ASecondSetupIsDrawnBesideTheFirstWithAWipe)
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
    m_window->setups().compareWith(std::nullopt);
    EXPECT_FALSE(m_window->session().editsB());
    EXPECT_EQ(field()->wipeAt(), -1);
}

TEST_F(FieldWindowTest, WhatIsUnderThePointerIsNamedWithItsChunksCosts)
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
    EXPECT_TRUE(becomes([&] { return field()->probeText().contains("quads"); })) << field()->probeText().toStdString();
    EXPECT_TRUE(field()->probeText().contains("meshed in"));
}

TEST_F(FieldWindowTest, TheSurfaceShowsQuadsBySizeAndAWireframe)
{
    QTest::mouseClick(&m_window->rail(), Qt::LeftButton, {}, m_window->rail().plates().plate(2).center());
    auto* wire = child<QCheckBox>("look.wireframe");
    QTest::mouseClick(wire, Qt::LeftButton, {}, QPoint(8, wire->height() / 2));
    EXPECT_TRUE(m_window->session().look->wireframe);
    QTest::keyClick(field(), Qt::Key_F5);
    EXPECT_TRUE(QTest::qWaitFor([&] { return !m_window->session().look->wireframe; }, kPatienceMs));
    EXPECT_EQ(child<QCheckBox>("look.wireframe"), wire) << "the control itself stays";
    EXPECT_FALSE(wire->isChecked());
    auto* paint = child<QComboBox>("look.paint");
    paint->setFocus();
    trigger("surface=1");
    EXPECT_EQ(child<QComboBox>("look.paint"), paint);
    EXPECT_EQ(paint->currentIndex(), static_cast<int>(Paint::Normals));
    EXPECT_EQ(m_window->focusWidget(), paint) << "arrow keys go on where they were";
    trigger("surface=0");
    QTest::keyClick(paint, Qt::Key_Down);
    QTest::keyClick(paint, Qt::Key_Down);
    EXPECT_EQ(m_window->session().look->paint, Paint::QuadSizes);
}

TEST_F(FieldWindowTest, TheSunSliderMakesItNight)
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
    EXPECT_EQ(m_window->session().look->sunHeight, -18);
    EXPECT_TRUE(child<QLabel>("sunText")->text().contains("night"));
    EXPECT_TRUE(QTest::qWaitFor([&] { return brightness() < day / 3; }, kPatienceMs))
        << "of " << day << " now " << brightness();
    trigger("sun=morning");
    EXPECT_EQ(sun->value(), 46);
    EXPECT_TRUE(QTest::qWaitFor([&] { return brightness() > day * 0.95; }, kPatienceMs));
}

TEST_F(FieldWindowTest, LightIsShownByChannelFollowedToItsLampAndMeasured)
{
    ASSERT_TRUE(m_window->world().open("gallery"));
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
    EXPECT_TRUE(story.source.contains("from miners-lantern at")) << story.source.toStdString();
    ASSERT_GT(story.path.size(), 1u);
    EXPECT_EQ(story.path.front(), field()->pointed()->before);

    // The overlay: one channel, from the bench and from the menu.
    EXPECT_EQ(field()->levels(), nullptr);
    auto* paint = child<QComboBox>("look.paint");
    EXPECT_EQ(paint->count(), 5 + 4) << "one for each channel of the mode";
    paint->setFocus();
    for (int i = 0; i < 6; ++i)
        QTest::keyClick(paint, Qt::Key_Down);
    EXPECT_EQ(m_window->session().look->paint, Paint::Light);
    EXPECT_EQ(m_window->session().look->channel, 1);
    ASSERT_TRUE(QTest::qWaitFor([&] { return field()->levels() != nullptr; }, kPatienceMs));
    trigger("surface=sky");
    EXPECT_EQ(m_window->session().look->channel, 3);
    trigger("surface=0");
    EXPECT_TRUE(QTest::qWaitFor([&] { return field()->levels() == nullptr; }, kPatienceMs));

    // All modes next to each other.
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

TEST_F(FieldWindowTest, TheRailShowsMeasuredCosts)
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

TEST_F(FieldWindowTest, TheLongViewReachesEightKilometresAndShowsItsLevels)
{
    ASSERT_TRUE(m_window->setups().open("long-view"));
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
    EXPECT_EQ(m_window->session().look->paint, Paint::Levels);
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

TEST_F(FieldWindowTest, TheLeastErrorOnScreenCanBeTyped)
{
    m_window->session().setups().set("lod.scheme", "error");
    emit m_window->rail().stageClicked("levels", false);
    auto* error = child<QDoubleSpinBox>("lod.error");
    error->setFocus();
    error->selectAll();
    QTest::keyClicks(error, "0.25");
    QTest::keyClick(error, Qt::Key_Return);
    EXPECT_EQ(m_window->session().setup().lod.error, 0.25);
    EXPECT_TRUE(becomes([this] { return child<QDoubleSpinBox>("lod.error")->text().contains("25"); }));
}

TEST_F(FieldWindowTest, FullDetailIsShownBesideTheLevelsWithHowMuchThePicturesDiffer)
{
    ASSERT_TRUE(m_window->setups().open("long-view"));
    ASSERT_TRUE(m_window->session().edited().set("stream.distance", 6));
    emit m_window->rail().stageClicked("levels", false);
    EXPECT_EQ(field()->difference(), std::nullopt) << "nothing to compare with";
    auto* compare = child<QPushButton>("fullDetail");
    QTest::mouseClick(compare, Qt::LeftButton);
    ASSERT_TRUE(m_window->session().hasB());
    EXPECT_EQ(m_window->session().setupB().lod.scheme, "off");
    EXPECT_EQ(m_window->session().setupB().stream.distance, 6);
    ASSERT_TRUE(becomes([&] { return field()->difference().has_value(); }));
    const double withRings = *field()->difference();
    EXPECT_GT(withRings, 0) << "longer voxels are seen from 128 m on";
    EXPECT_LT(withRings, 20);
    // One that changes nothing of the picture, and another camera: computed again.
    m_window->session().setups().set("lod.scheme", "off");
    EXPECT_TRUE(becomes([&] { return field()->difference() == 0.0; })) << "both at full detail";
    m_window->session().eye.yaw += 40;
    EXPECT_TRUE(becomes([&] { return !field()->difference(); }));
    EXPECT_TRUE(becomes([&] { return field()->difference() == 0.0; }));
    m_window->setups().compareWith(std::nullopt);
}

TEST_F(FieldWindowTest, TheFrameStripNamesTheFrameUnderThePointer)
{
    ASSERT_TRUE(QTest::qWaitFor(
        [&] {
            m_window->session().eye.yaw += 1; // a frame is only drawn where something changes
            return m_window->strip().bars().count > 3;
        },
        kPatienceMs));
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

} // namespace
} // namespace fell::field_window_test
