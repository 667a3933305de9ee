// SPDX-License-Identifier: GPL-3.0-or-later
// Saving and opening worlds, one after the other and at the same time. Files are read back without the keeper.
#include "support/all_names.h"
#include "support/event_loop.h"
#include "support/temp_folder.h"
#include <fell/app/models/world_keeper.h>
#include <fell/demo/demo_folder.h>

#include <QCoreApplication>
#include <QElapsedTimer>
#include <gtest/gtest.h>

namespace fell::world_keeper_test {
namespace {

std::shared_ptr<const Terrain> demo(const char* name)
{
    return makeTerrain(findWorld(name, demoFolder()).take());
}

/// Voxels of the row that begins at a place, one material each.
std::vector<VoxelChange> row(VoxelPos from, int count)
{
    std::vector<VoxelChange> out;
    for (int i = 0; i < count; ++i)
        out.push_back({from + VoxelPos{i, 0, 0}, kOpen, 1});
    return out;
}

class WorldKeeperTest : public test::EventLoopTest {
protected:
    void SetUp() override
    {
        QObject::connect(&keeper, &WorldKeeper::trouble, [this](const QString& said) { trouble = said; });
        QObject::connect(&keeper, &WorldKeeper::opened,
            [this](const std::shared_ptr<const Terrain>& terrain, const std::shared_ptr<WorldChanges>& changes,
                const auto&, const auto&, const auto&) {
                shown = changes;
                world = QString::fromStdString(terrain->recipe.name);
            });
        keeper.choose({"changed", "cube", 0});
        keeper.follow(shown);
    }
    /// Turns the event loop until `done`; false after ten seconds.
    template <typename Done> static bool wait(const Done& done)
    {
        QElapsedTimer clock;
        clock.start();
        while (!done()) {
            if (clock.elapsed() > 10'000)
                return false;
            QCoreApplication::processEvents(QEventLoop::AllEvents, 10);
        }
        return true;
    }
    QString at(const char* name) { return QString::fromStdString((folder / name).string()); }
    void saveAs(const char* name, const char* world_)
    {
        keeper.saveAs(at(name), headerOf(*demo(world_)));
        ASSERT_TRUE(wait([this] { return !keeper.isSaving(); }));
    }
    /// A world with enough changes that opening it takes a moment.
    void makeLarge(const char* name, const char* world_)
    {
        auto made = WorldFile::create(at(name).toStdString(), headerOf(*demo(world_))).take();
        std::vector<StoredChunk> chunks;
        for (int i = 0; i < 4000; ++i) {
            StoredChunk& one = chunks.emplace_back();
            one.chunk = {i % 64 + 1000, -1, i / 64};
            for (int v = 0; v < 200; ++v)
                one.changed.push_back({static_cast<std::uint16_t>(v * 100), kOpen});
        }
        ASSERT_FALSE(made->save(chunks));
    }
    /// Changed voxels that a file holds in the chunk of the origin's row; -1: it cannot be opened.
    int near(const char* name)
    {
        const auto file = WorldFile::open(at(name).toStdString());
        if (!file)
            return -1;
        int count = 0;
        const WorldContents all = file.value()->load().take();
        for (const StoredChunk& chunk : all.chunks)
            count += chunk.chunk.x < 500 ? static_cast<int>(chunk.changed.size()) : 0;
        return count;
    }
    void close()
    {
        keeper.follow(std::make_shared<WorldChanges>());
        ASSERT_TRUE(wait([this] { return !keeper.isSaving(); }));
        QElapsedTimer clock;
        clock.start();
        wait([&] { return clock.elapsed() > 200; });
    }

    test::TempFolder folder;
    WorldKeeper keeper;
    std::shared_ptr<WorldChanges> shown = std::make_shared<WorldChanges>();
    QString trouble, world;
};

TEST_F(WorldKeeperTest, ASaveWhileAnotherWorldIsReadGoesIntoItsOwnFile)
{
    makeLarge("b.fell", "level");
    saveAs("a.fell", "corrowdale");
    const auto ofA = shown;
    keeper.mayReplace = [] { return true; };
    keeper.open(at("b.fell"));
    ofA->set(row({0, 10, 0}, 500));
    keeper.save(false); // as the timer does
    ASSERT_TRUE(wait([&] { return shown != ofA; }));
    EXPECT_EQ(ofA->unsaved(), 0u);
    close();
    EXPECT_EQ(near("a.fell"), 500);
    EXPECT_EQ(near("b.fell"), 0) << "another world's changes were written into it";
}

TEST_F(WorldKeeperTest, ASaveAsWhileAnotherWorldIsReadKeepsBothApart)
{
    makeLarge("b.fell", "level");
    saveAs("a.fell", "corrowdale");
    const auto ofA = shown;
    keeper.open(at("b.fell"));
    ofA->set(row({0, 10, 0}, 60));
    keeper.saveAs(at("c.fell"), headerOf(*demo("corrowdale")));
    ASSERT_TRUE(wait([&] { return shown != ofA && !keeper.isSaving(); }));
    shown->set(row({0, -5, 64}, 77));
    keeper.save();
    ASSERT_TRUE(wait([this] { return !keeper.isSaving(); }));
    EXPECT_TRUE(keeper.state().contains("b.fell")) << keeper.state().toStdString();
    close();
    EXPECT_EQ(near("a.fell"), 0);
    EXPECT_EQ(near("b.fell"), 77);
    EXPECT_EQ(near("c.fell"), 60);
}

TEST_F(WorldKeeperTest, AWorldThatWasAskedForBeforeAnotherIsNotShownAfterIt)
{
    makeLarge("b.fell", "level");
    keeper.open(at("b.fell"));
    const auto chosen = std::make_shared<WorldChanges>();
    keeper.follow(chosen); // a demo, chosen before the file was read
    close();
    EXPECT_TRUE(world.isEmpty()) << world.toStdString();
    EXPECT_FALSE(keeper.hasFile());
}

TEST_F(WorldKeeperTest, ChangesThatCameMeanwhileAreAskedAboutAndMayKeepTheirWorld)
{
    makeLarge("b.fell", "level");
    int asked = 0;
    keeper.mayReplace = [&asked] { return ++asked > 1; };
    keeper.open(at("b.fell"));
    shown->set(row({0, 10, 0}, 5));
    ASSERT_TRUE(wait([&] { return asked == 1; }));
    EXPECT_TRUE(world.isEmpty());
    EXPECT_EQ(keeper.unsaved(), 1u) << "one chunk";
    shown->set(row({0, 10, 40}, 5));
    keeper.open(at("b.fell"));
    shown->set(row({0, 10, 80}, 5));
    ASSERT_TRUE(wait([&] { return !world.isEmpty(); }));
    EXPECT_EQ(asked, 2);
}

TEST_F(WorldKeeperTest, TheOpenFileIsReadAgainAndStaysOpenWhereThatFails)
{
    saveAs("a.fell", "level");
    shown->set(row({0, 10, 0}, 9));
    keeper.save();
    const auto first = shown;
    keeper.open(at("a.fell"));
    ASSERT_TRUE(wait([&] { return shown != first; }));
    EXPECT_EQ(shown->voxels(), 9u);
    keeper.open(at("none.fell"));
    ASSERT_TRUE(wait([this] { return !trouble.isEmpty(); }));
    EXPECT_TRUE(trouble.contains("no such file")) << trouble.toStdString();
    shown->set(row({0, 20, 0}, 3));
    keeper.save();
    ASSERT_TRUE(wait([this] { return !keeper.isSaving(); }));
    close();
    EXPECT_EQ(near("a.fell"), 12);
}

TEST_F(WorldKeeperTest, ASaveAsThatFailsLeavesNoFileAndTheChangesUnsaved)
{
    shown->set(row({0, 10, 0}, 9));
    std::filesystem::create_directory(folder / "there.fell");
    keeper.saveAs(at("there.fell"), headerOf(*demo("level")));
    ASSERT_TRUE(wait([this] { return !keeper.isSaving(); }));
    EXPECT_TRUE(trouble.contains("is there already")) << trouble.toStdString();
    WorldHeader bad = headerOf(*demo("level"));
    bad.recipe = "{";
    keeper.saveAs(at("bad.fell"), bad);
    ASSERT_TRUE(wait([this] { return !keeper.isSaving(); }));
    EXPECT_FALSE(std::filesystem::exists(folder / "bad.fell"));
    EXPECT_FALSE(std::filesystem::exists(folder / "bad.fell.part"));
    EXPECT_EQ(keeper.unsaved(), 1u);
    saveAs("good.fell", "level");
    EXPECT_EQ(keeper.unsaved(), 0u);
    close();
    EXPECT_EQ(near("good.fell"), 9);
}

} // namespace
} // namespace fell::world_keeper_test
