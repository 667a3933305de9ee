// SPDX-License-Identifier: GPL-3.0-or-later
// What the pages of the window show, without a window: the table of trials, the route that is changed, the setup with
// its undo, an export next to the window.
#include "support/all_names.h"
#include "support/event_loop.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include "support/temp_folder.h"
#include <fell/app/models/export_runner.h>
#include <fell/app/models/ledger_table.h>
#include <fell/app/models/route_editor.h>
#include <fell/app/models/setup_history.h>

#include <QAbstractItemModelTester>
#include <QCoreApplication>
#include <QElapsedTimer>
#include <QSignalSpy>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include <cmath>

namespace fell::tables_and_editors_test {
namespace {

TrialEntry entryOf(std::int64_t id)
{
    TrialEntry out;
    out.id = id;
    out.world = "Corrowdale";
    out.varied = "stream.distance";
    out.setups = "near, plain";
    out.date = "2026-11-30T10:20:00Z";
    out.seed = 1847;
    out.frameMs = 21.26;
    out.meshNs = 46789;
    out.finding = "A near reaches 6 chunks";
    return out;
}

QString headerOf(const LedgerTable& table, int column)
{
    return table.headerData(column, Qt::Horizontal, Qt::DisplayRole).toString();
}

int columnNamed(const LedgerTable& table, const char* title)
{
    for (int column = 0; column < table.columnCount(); ++column)
        if (headerOf(table, column) == QString::fromUtf8(title))
            return column;
    return -1;
}

TEST(LedgerTable, IsAProperModelThatShowsWhatATrialFound)
{
    LedgerTable table;
    const QAbstractItemModelTester tester(&table, QAbstractItemModelTester::FailureReportingMode::Fatal);
    TrialEntry audited = entryOf(2), failed = entryOf(3);
    audited.auditDifferences = 0;
    failed.auditDifferences = 7;
    failed.isStopped = true;
    failed.isPinned = true;
    failed.frameMs = 0; // nothing was drawn
    table.show({entryOf(1), audited, failed});
    ASSERT_EQ(table.rowCount(), 3);
    const auto shown = [&table](int row, const char* title) {
        return table.data(table.index(row, columnNamed(table, title)), Qt::DisplayRole).toString();
    };
    EXPECT_EQ(shown(0, "no."), "1");
    EXPECT_EQ(shown(0, "mesh µs"), "46.8");
    EXPECT_EQ(shown(0, "frame ms"), "21.3");
    EXPECT_EQ(shown(2, "frame ms"), "–");
    EXPECT_EQ(shown(0, "audit"), "none");
    EXPECT_EQ(shown(1, "audit"), "held");
    EXPECT_EQ(shown(2, "audit"), "FAILED: 7");
    EXPECT_EQ(shown(2, "setups"), "near, plain (stopped)");
    EXPECT_EQ(shown(2, "baseline"), "pinned");
    EXPECT_EQ(shown(1, "baseline"), "");
    EXPECT_TRUE(table.data(table.index(0, 0), Qt::ToolTipRole).toString().contains("seed 1847"));
    EXPECT_EQ(table.entry(1).id, 2);
    EXPECT_FALSE(table.data(table.index(9, 0), Qt::DisplayRole).isValid());
    table.show({});
    EXPECT_EQ(table.rowCount(), 0);
}

TEST(LedgerTable, OnlyTagsAreWrittenAndWhoeverKeepsThemIsTold)
{
    LedgerTable table;
    table.show({entryOf(5), entryOf(6)});
    QSignalSpy tagged(&table, &LedgerTable::tagged);
    for (int column = 0; column < table.columnCount(); ++column) {
        const QModelIndex cell = table.index(1, column);
        EXPECT_EQ(table.flags(cell).testFlag(Qt::ItemIsEditable), column == LedgerTable::tagsColumn());
        EXPECT_EQ(table.setData(cell, "quarry greedy", Qt::EditRole), column == LedgerTable::tagsColumn());
    }
    ASSERT_EQ(tagged.count(), 1);
    EXPECT_EQ(tagged[0][0].toLongLong(), 6);
    EXPECT_EQ(tagged[0][1].toString(), "quarry greedy");
    EXPECT_FALSE(table.setData(table.index(1, LedgerTable::tagsColumn()), "x", Qt::DisplayRole));
    EXPECT_FALSE(table.setData({}, "x", Qt::EditRole));
}

Route threePoints()
{
    return {"r", "R", {{{0, 10, 0}, 0, 0}, {{100, 10, 0}, 90, 0}, {{100, 10, 100}, 180, 0}}, 2};
}

TEST(RouteEditor, MovementsUntilTheNextGrabAreOneChange)
{
    RouteEditor editor;
    editor.open(threePoints());
    EXPECT_FALSE(editor.isChanged());
    editor.grab();
    for (int i = 0; i < 5; ++i)
        editor.move(1, {1, 0, -2});
    EXPECT_EQ(editor.route()->points[1].at, (std::array<double, 3>{105, 10, -10}));
    EXPECT_TRUE(editor.isChanged());
    editor.grab();
    editor.move(0, {0, 3, 0});
    editor.undo();
    EXPECT_EQ(editor.route()->points[0].at, (std::array<double, 3>{0, 10, 0}));
    EXPECT_EQ(editor.route()->points[1].at, (std::array<double, 3>{105, 10, -10})) << "the first drag is still there";
    editor.undo();
    EXPECT_EQ(editor.route()->points[1].at, (std::array<double, 3>{100, 10, 0})) << "all five steps at once";
    EXPECT_FALSE(editor.isChanged());
    editor.undo(); // nothing is left
    EXPECT_EQ(editor.route()->points.size(), 3u);
}

TEST(RouteEditor, AnAddedPointLiesOnTheCurveAndTwoPointsAlwaysStay)
{
    RouteEditor editor;
    editor.open(threePoints());
    const RoutePoint half = pointOn(threePoints(), 0.25); // of two spans: the middle of the first
    editor.add(0, 0.5);
    ASSERT_EQ(editor.route()->points.size(), 4u);
    for (std::size_t axis = 0; axis < 3; ++axis)
        EXPECT_NEAR(editor.route()->points[1].at[axis], half.at[axis], 1e-9);
    EXPECT_NEAR(editor.route()->points[1].yaw, half.yaw, 1e-9);
    for (int i = 0; i < 5; ++i)
        editor.remove(0);
    EXPECT_EQ(editor.route()->points.size(), 2u) << "a route keeps two";
    QSignalSpy changed(&editor, &RouteEditor::changed);
    editor.open(std::nullopt);
    EXPECT_EQ(changed.count(), 1);
    EXPECT_FALSE(editor.route());
}

TEST(RouteEditor, APointIsAddedBetweenTwoOnly)
{
    RouteEditor editor;
    Route one = threePoints();
    one.points.resize(1);
    for (const Route& route : {one, threePoints()}) {
        editor.open(route);
        editor.add(route.points.size() - 1, 0.5);
        editor.add(static_cast<std::size_t>(-1), 0.5); // of a key pressed where no point is chosen
        EXPECT_EQ(editor.route()->points.size(), route.points.size());
    }
}

TEST(SetupHistory, MetresFollowTheChunkEdgeAndTheWorldsVoxels)
{
    SetupHistory history{test::unlitSetup()};
    history.inWorldOf(0.5);
    ASSERT_TRUE(history.set("chunk.edge", 32));
    ASSERT_TRUE(history.set("stream.metres", 96));
    EXPECT_EQ(history.current().stream.distance, 6) << "chunks of 16 m";
    ASSERT_TRUE(history.set("chunk.edge", 16));
    EXPECT_EQ(history.current().stream.distance, 12) << "the same ground";
    history.inWorldOf(1);
    EXPECT_EQ(history.current().stream.distance, 6) << "voxels twice as long";
    ASSERT_TRUE(history.set("stream.distance", 3));
    EXPECT_EQ(history.current().stream.metres, 0) << "what was said last holds";
    ASSERT_TRUE(history.set("chunk.edge", 64));
    EXPECT_EQ(history.current().stream.distance, 3);
    history.undo();
    EXPECT_EQ(history.current().chunk.edge, 16);
}

class ExportRunnerTest : public test::EventLoopTest {
protected:
    void SetUp() override
    {
        QObject::connect(&runner, &ExportRunner::written, [this](const QString& said) { written = said; });
        QObject::connect(&runner, &ExportRunner::refused, [this](const QString& said) { refused = said; });
        QObject::connect(&runner, &ExportRunner::progressed, [this](double share) {
            EXPECT_GE(share, 0);
            EXPECT_LE(share, 1);
            ++progress;
        });
    }
    [[nodiscard]] ExportOrder order(const char* format, const VoxelBox& box) const
    {
        return {test::demoTerrain("level"), nullptr, test::unlitSetup(), box, format,
            folder / (std::string("box.") + format)};
    }
    bool waitUntilDone()
    {
        QElapsedTimer clock;
        clock.start();
        while (runner.isRunning() && clock.elapsed() < 20'000)
            QCoreApplication::processEvents(QEventLoop::AllEvents, 10);
        return !runner.isRunning();
    }

    test::TempFolder folder;
    ExportRunner runner;
    QString written, refused;
    int progress = 0;
};

TEST_F(ExportRunnerTest, WritesABoxInEveryFormatAndSaysWhatIsInIt)
{
    for (const MeshFileFormat& format : meshFileFormats()) {
        written.clear();
        runner.start(order(format.id, {{0, -4, 0}, {40, 4, 24}}));
        ASSERT_TRUE(waitUntilDone());
        EXPECT_TRUE(written.contains(QStringLiteral("Exported"))) << format.id << ": " << refused.toStdString();
        EXPECT_TRUE(written.contains(QStringLiteral("box.%1").arg(QLatin1String(format.id)))) << written.toStdString();
        EXPECT_TRUE(std::filesystem::exists(folder / (std::string("box.") + format.id)));
    }
    EXPECT_TRUE(std::filesystem::exists(folder / "box.mtl"));
    EXPECT_GT(progress, 0);
    EXPECT_TRUE(refused.isEmpty());
}

TEST_F(ExportRunnerTest, AnEmptyBoxIsRefusedWithTheHeightOfTheGround)
{
    runner.start(order("glb", {{0, 400, 0}, {8, 408, 8}}));
    ASSERT_TRUE(waitUntilDone());
    EXPECT_TRUE(refused.contains(QStringLiteral("holds no surface"))) << refused.toStdString();
    EXPECT_TRUE(refused.contains(QStringLiteral("y = 0"))) << refused.toStdString();
    EXPECT_FALSE(std::filesystem::exists(folder / "box.glb"));
}

TEST_F(ExportRunnerTest, ThatIsStoppedWritesNothing)
{
    ExportOrder large = order("glb", {{-500, -4, -500}, {500, 4, 500}});
    large.terrain = test::testTerrain();
    QObject::connect(&runner, &ExportRunner::progressed, [this](double) { runner.stop(); });
    runner.start(large);
    ASSERT_TRUE(waitUntilDone());
    EXPECT_TRUE(written.isEmpty());
    EXPECT_TRUE(refused.isEmpty());
    EXPECT_FALSE(std::filesystem::exists(large.out));
}

TEST_F(ExportRunnerTest, AFolderThatCannotBeWrittenIsASentence)
{
    ExportOrder nowhere = order("ply", {{0, -4, 0}, {8, 4, 8}});
    nowhere.out = "/proc/nowhere/box.ply";
    runner.start(nowhere);
    ASSERT_TRUE(waitUntilDone());
    EXPECT_FALSE(refused.isEmpty());
    EXPECT_TRUE(written.isEmpty());
}

} // namespace
} // namespace fell::tables_and_editors_test
