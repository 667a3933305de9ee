// SPDX-License-Identifier: GPL-3.0-or-later
// The models without a window.
#include <fell/app/models/flight.h>
#include <fell/app/models/frame_history.h>
#include <fell/app/models/live_figures.h>
#include <fell/app/models/setup_history.h>
#include <fell/app/models/text.h>
#include <fell/app/models/transect_runner.h>
#include <fell/app/models/transect_table.h>
#include <fell/app/models/world_session.h>

#include "support/all_names.h"
#include "support/sample_setups.h"

#include <QAbstractItemModelTester>
#include <QCoreApplication>
#include <QElapsedTimer>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include <glm/geometric.hpp>

namespace fell::models_test {
namespace {

TEST(Text, ShowsThreeFiguresAndAUnit)
{
    EXPECT_EQ(figureText(0.314), "0.31");
    EXPECT_EQ(figureText(8.94), "8.9");
    EXPECT_EQ(figureText(47.1), "47.1");
    EXPECT_EQ(figureText(211.6), "212");
    EXPECT_EQ(countText(9999), "9999");
    EXPECT_EQ(countText(41230), "41.2 k");
    EXPECT_EQ(countText(1310000), "1.31 M");
    EXPECT_EQ(bytesText(512), "0.50 KiB");
    EXPECT_EQ(bytesText(6501171), "6.2 MiB");
    EXPECT_EQ(bytesText(3ull << 30), "3.00 GiB");
}

TEST(Flight, GoesWhereTheEyeLooksAtItsSpeed)
{
    Flight flight;
    flight.speed = 10;
    flight.keys.forward = true;
    const Eye east{{0, 0, 0}, {0, 0, 0}, 90, 0};
    const Eye after = flight.step(east, 0.5, 2); // 5 metres, two voxels a metre
    EXPECT_EQ(after.cell.x, 10);
    flight.keys.right = true; // diagonally: not faster
    const Eye diagonal = flight.step(east, 1, 1);
    const glm::dvec3 way(static_cast<double>(diagonal.cell.x) + diagonal.within.x, 0,
        static_cast<double>(diagonal.cell.z) + diagonal.within.z);
    EXPECT_NEAR(glm::length(way), 10, 1e-9);
    flight.keys = {.forward = true, .back = true};
    EXPECT_EQ(flight.step(east, 1, 1).cell, east.cell);
}

TEST(Flight, LooksNoFurtherThanStraightUpAndDown)
{
    const Eye up = Flight::look({}, 0, -100000);
    EXPECT_EQ(up.pitch, 90);
    EXPECT_EQ(Flight::look({}, 0, 100000).pitch, -90);
    EXPECT_GT(Flight::look({}, 100, 0).yaw, 0) << "to the right";
    EXPECT_LE(std::abs(Flight::look({}, 5000, 0).yaw), 180);
}

TEST(Flight, TheWheelChangesTheSpeedWithinItsLimits)
{
    Flight flight;
    const double before = flight.speed;
    flight.changeSpeed(1);
    EXPECT_NEAR(flight.speed, before * 1.25, 1e-9);
    flight.changeSpeed(-1);
    EXPECT_NEAR(flight.speed, before, 1e-9);
    flight.changeSpeed(1000);
    EXPECT_EQ(flight.speed, Flight::kFastest);
    flight.changeSpeed(-1000);
    EXPECT_EQ(flight.speed, Flight::kSlowest);
}

FrameRecord frame(std::uint64_t number, double upload, double draw)
{
    FrameRecord out;
    out.number = number;
    out.uploadMs = upload;
    out.drawMs = draw;
    return out;
}

TEST(FrameHistory, KeepsTheLastFramesAndFindsHitches)
{
    FrameHistory history;
    for (std::uint64_t i = 0; i < 300; ++i)
        history.add(frame(i, 0, 10));
    EXPECT_EQ(history.frames().size(), FrameHistory::kKept);
    EXPECT_EQ(history.frames().back().number, 299u);
    EXPECT_EQ(history.hitches(), 0u);
    history.add(frame(300, 13, 8)); // 21 ms of a median of 10
    EXPECT_EQ(history.hitches(), 1u);
    EXPECT_TRUE(history.isHitch(history.frames().back()));
    EXPECT_EQ(history.percentiles().p50, 10);
}

TEST(FrameHistory, AHitchsCauseIsThePartThatIsMostAboveItsOwnMedian)
{
    // Drawing always takes most; the hitch is the upload's.
    FrameHistory history;
    EXPECT_EQ(history.lastHitch(), nullptr);
    for (std::uint64_t i = 0; i < 50; ++i)
        history.add(frame(i, 0.2, 8));
    EXPECT_EQ(history.lastHitch(), nullptr);
    FrameRecord hitch = frame(50, 9, 9);
    hitch.meshesUploaded = 41;
    hitch.bytesUploaded = 6501171;
    history.add(hitch);
    history.add(frame(51, 0.2, 8));
    ASSERT_NE(history.lastHitch(), nullptr);
    EXPECT_EQ(history.lastHitch()->number, 50u);
    EXPECT_EQ(history.causeOf(*history.lastHitch()), "upload took 9.0 ms in place of 0.20: 41 meshes, 6.2 MiB");
    history.add(frame(52, 0.2, 30));
    EXPECT_EQ(history.causeOf(*history.lastHitch()), "drawing took 30.0 ms in place of 8.0");
}

TEST(FrameHistory, NamesWhatTookTheTime)
{
    FrameRecord hitch = frame(18204, 13, 8);
    hitch.meshesUploaded = 41;
    hitch.bytesUploaded = 6501171;
    EXPECT_EQ(storyOf(hitch), "Frame 18,204 · 21.0 ms\nupload 13.0 ms: 41 meshes, 6.2 MiB, 0 released");
    EXPECT_TRUE(storyOf(frame(1, 1, 8)).contains("draw 8.0 ms"));
}

LiveSample sampleWith(StreamCounts now, std::vector<FrameRecord> frames)
{
    LiveSample sample;
    sample.seconds = 0.5;
    sample.now = now;
    sample.frames = std::move(frames);
    sample.workers = 2;
    return sample;
}

const StageFigure& figure(const LiveFigures& figures, const char* id)
{
    return *std::find_if(figures.stages().begin(), figures.stages().end(), [id](const auto& f) { return f.id == id; });
}

TEST(LiveFigures, ShowsCostQueueAndRate)
{
    LiveFigures figures;
    StreamCounts counts;
    counts.generated = 500;
    counts.generateNs = 100000000; // 200 us each; a tenth of what two workers have in half a second
    counts.toGenerate = 48;
    figures.update(sampleWith(counts, {frame(1, 2, 8), frame(2, 4, 12)}));
    EXPECT_EQ(figure(figures, "generate").number, "200");
    EXPECT_EQ(figure(figures, "generate").unit, "µs/chunk");
    EXPECT_EQ(figure(figures, "generate").detail, "queue 48 · 1000/s");
    EXPECT_NEAR(figure(figures, "generate").share, 0.1, 1e-9);
    EXPECT_EQ(figure(figures, "upload").number, "3.0");
    EXPECT_EQ(figure(figures, "draw").number, "10.0");
    EXPECT_NEAR(figure(figures, "draw").share, 10 / 16.6, 1e-9);
    EXPECT_TRUE(figure(figures, "mesh").idle);
}

TEST(LiveFigures, MarksTheStageThatHoldsTheOthersBack)
{
    LiveFigures figures;
    StreamCounts filling;
    filling.generated = 100;
    filling.generateNs = 90000000;
    filling.toGenerate = 1000;
    figures.update(sampleWith(filling, {frame(1, 0, 30)}));
    EXPECT_TRUE(figure(figures, "generate").isBottleneck);
    EXPECT_FALSE(figure(figures, "draw").isBottleneck);
    StreamCounts there;
    there.settled = true;
    figures.update(sampleWith(there, {frame(1, 0, 30)}));
    EXPECT_TRUE(figure(figures, "draw").isBottleneck) << "30 ms of 16.6";
    figures.update(sampleWith(there, {frame(1, 0, 9)}));
    for (const auto& stage : figures.stages())
        EXPECT_FALSE(stage.isBottleneck) << "within the budget nothing does";
    there.full = true;
    figures.update(sampleWith(there, {frame(1, 0, 9)}));
    EXPECT_TRUE(figure(figures, "generate").detail.contains("memory full"));
}

TEST(LiveFigures, AtRestWhatThePictureCostStandsAndStillHoldsTheOthersBack)
{
    LiveFigures figures;
    StreamCounts there;
    there.settled = true;
    figures.update(sampleWith(there, {}));
    EXPECT_TRUE(figure(figures, "draw").idle) << "nothing was ever drawn";
    figures.update(sampleWith(there, {frame(1, 0, 30)}));
    figures.update(sampleWith(there, {})); // no frame is drawn while nothing moves
    EXPECT_EQ(figure(figures, "draw").number, "30.0");
    EXPECT_FALSE(figure(figures, "draw").idle) << "the picture that is shown has cost it";
    EXPECT_TRUE(figure(figures, "draw").isBottleneck);
    EXPECT_EQ(figure(figures, "draw").curve.size(), 1u) << "and its curve has no second value";
}

TEST(LiveFigures, NamesTheMethodsOfTheSetup)
{
    fell::Setup setup = test::unlitSetup();
    EXPECT_EQ(methodTitles(setup, "mesh"), "greedy, bits");
    setup.cull.steps = {"facing", "distance"};
    EXPECT_EQ(methodTitles(setup, "cull"), "back-facing directions + 1 more") << "in the order of the setup";
    setup.cull.steps.clear();
    EXPECT_EQ(methodTitles(setup, "cull"), "none");
}

TEST(SetupHistory, UndoesAndRedoesExactly)
{
    SetupHistory history{test::unlitSetup()};
    int changes = 0;
    QObject::connect(&history, &SetupHistory::changed, [&] { ++changes; });
    EXPECT_TRUE(history.set("mesh.mesher", "every"));
    EXPECT_TRUE(history.set("chunk.edge", 16));
    EXPECT_FALSE(history.set("chunk.edge", 17));
    EXPECT_EQ(changes, 2);
    history.undo();
    EXPECT_EQ(history.current().chunk.edge, 32);
    EXPECT_EQ(history.current().mesh.mesher, "every");
    history.undo();
    EXPECT_EQ(history.current(), test::unlitSetup());
    EXPECT_FALSE(history.canUndo());
    history.undo();
    history.redo();
    history.redo();
    EXPECT_EQ(history.current().chunk.edge, 16);
    EXPECT_FALSE(history.canRedo());
    history.undo();
    history.set("mesh.layout", "floats");
    EXPECT_FALSE(history.canRedo()) << "a new way leaves the old one";
}

TEST(SetupHistory, DraggingTheDistanceIsOneStep)
{
    SetupHistory history{test::unlitSetup()};
    history.set("mesh.mesher", "every");
    for (int distance = 9; distance < 20; ++distance)
        history.set("stream.distance", distance);
    EXPECT_EQ(history.current().stream.distance, 19);
    history.undo();
    EXPECT_EQ(history.current().stream.distance, 8);
    EXPECT_EQ(history.current().mesh.mesher, "every");
}

std::shared_ptr<const Terrain> level()
{
    return makeTerrain(findWorld("level", demoFolder()).take());
}

TEST(WorldSession, ADistanceKeepsTheMeshesAndAnotherMesherDoesNot)
{
    WorldSession session(level(), test::unlitSetup());
    const auto epoch = session.epoch();
    session.setups().set("stream.distance", 3);
    EXPECT_EQ(session.epoch(), epoch);
    session.setups().set("draw.budget", 33);
    EXPECT_EQ(session.epoch(), epoch);
    session.setups().set("mesh.mesher", "every");
    EXPECT_EQ(session.epoch(), epoch + 1);
    session.setups().undo();
    EXPECT_EQ(session.epoch(), epoch + 2);
}

TEST(WorldSession, RestsWhilePaused)
{
    WorldSession session(level(), test::unlitSetup());
    session.setPaused(true);
    EXPECT_EQ(session.streamer(), nullptr);
    session.advance(0.1);
    const auto epoch = session.epoch();
    session.setPaused(false);
    EXPECT_NE(session.streamer(), nullptr);
    EXPECT_GT(session.epoch(), epoch) << "its meshes are rebuilt";
}

TEST(WorldSession, AnEditThatAFrameHasBroughtIsTakenOverWhenTheSetupChanges)
{
    fell::Setup setup = test::unlitSetup();
    setup.stream.distance = 1;
    WorldSession session(level(), setup);
    session.advance(0.01);
    const auto draw = [&] { // as the render thread does it
        const StreamerShare share = session.share();
        share.streamer->deliver({}, [&share](const StreamEvent& event) {
            if (event.kind == StreamEvent::Kind::Edited)
                share.arrivals->add(event.edited);
        });
    };
    const auto drawUntil = [&](const auto& holds) {
        QElapsedTimer patience;
        patience.start();
        while (!holds() && patience.elapsed() < 60000)
            draw();
        return holds();
    };
    ASSERT_TRUE(drawUntil([&] { return session.streamer()->settled(); }));
    session.editor.take(ToolKind::Place);
    const VoxelPos before = session.eye.cell;
    session.editor.target = Picked{};
    session.editor.target->before = before;
    session.editor.target->voxel = before - VoxelPos{0, 1, 0};
    ASSERT_TRUE(session.useTool());
    ASSERT_TRUE(drawUntil([&] { return session.streamer()->settled(); }));
    EXPECT_TRUE(session.editor.undoTitle().isEmpty()) << "its frame is not on the screen yet";
    session.setups().set("mesh.mesher", "every"); // another streamer
    EXPECT_FALSE(session.editor.undoTitle().isEmpty()) << "it was made, and can be undone";
    EXPECT_FALSE(session.editor.isBusy());
}

TEST(TransectTable, IsAProperModel)
{
    TransectTable table;
    const QAbstractItemModelTester tester(&table, QAbstractItemModelTester::FailureReportingMode::Fatal);
    TransectResult result;
    result.vary = "stream.distance";
    TransectRow row;
    row.setup = "near";
    row.value = 4;
    row.meshNs.p50 = 46789;
    row.frameMs.count = 3;
    row.frameMs.p99 = 21.26;
    row.triangles = 161000;
    result.rows = {row, row};
    table.show(result);
    EXPECT_EQ(table.rowCount(), 2);
    EXPECT_EQ(table.headerData(1, Qt::Horizontal, Qt::DisplayRole), "render distance");
    EXPECT_EQ(table.index(0, 0).data(), "A near");
    EXPECT_EQ(table.index(0, 2).data(), "46.8");
    EXPECT_EQ(table.index(0, 4).data(), "") << "the reference was not taken";
    EXPECT_EQ(table.index(0, 9).data(), "21.3");
    EXPECT_EQ(table.index(1, 12).data(), "161 k");
    table.show({});
    EXPECT_EQ(table.rowCount(), 0);
}

TEST(TransectSentence, BecomesASpecOrSaysWhatIsWrong)
{
    TransectSentence sentence;
    sentence.values = "2, 4,6 ";
    fell::Setup mine = test::unlitSetup();
    mine.mesh.mesher = "every";
    const auto spec = specFrom(sentence, {level(), nullptr}, mine);
    ASSERT_TRUE(spec) << fell::sentence(spec.problem());
    EXPECT_EQ(spec.value().values.size(), 3u);
    EXPECT_EQ(spec.value().a.mesh.mesher, "every") << "the setup of the field goes under its own name";
    sentence.setupB = "plain";
    EXPECT_EQ(specFrom(sentence, {level(), nullptr}, mine).value().b->name, "plain");
    sentence.values = "2, many";
    EXPECT_FALSE(specFrom(sentence, {level(), nullptr}, mine));
    sentence.values = "";
    EXPECT_FALSE(specFrom(sentence, {level(), nullptr}, mine));
    sentence.vary = "cull.steps";
    sentence.values = "distance+view-planes, distance";
    const auto lists = specFrom(sentence, {level(), nullptr}, mine);
    ASSERT_TRUE(lists) << fell::sentence(lists.problem());
    EXPECT_EQ(lists.value().values[0].size(), 2u);
}

TEST(TransectRunner, MeasuresOnItsOwnThreadAndCanBeStopped)
{
    int argc = 0;
    QCoreApplication app(argc, nullptr);
    TransectRunner runner;
    int progress = 0, results = 0;
    QString trouble = "not ended";
    QObject::connect(&runner, &TransectRunner::progressed, [&](double share) {
        EXPECT_GE(share, 0);
        EXPECT_LE(share, 1);
        if (++progress == 3)
            runner.stop();
    });
    QObject::connect(&runner, &TransectRunner::resultChanged, [&] { ++results; });
    QObject::connect(&runner, &TransectRunner::finished, [&](const QString& why) {
        trouble = why;
        app.quit();
    });
    TransectSentence sentence;
    sentence.values = "1, 2";
    sentence.rounds = 50;
    sentence.frames = 2;
    runner.start(specFrom(sentence, {level(), nullptr}, test::unlitSetup()).take(), 160, 100);
    EXPECT_TRUE(runner.isRunning());
    app.exec();
    EXPECT_EQ(trouble, "");
    EXPECT_FALSE(runner.isRunning());
    EXPECT_TRUE(runner.result().stopped);
    EXPECT_GE(runner.result().rows.size(), 1u);
    EXPECT_GE(results, 3);
}

} // namespace
} // namespace fell::models_test
