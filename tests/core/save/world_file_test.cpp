// SPDX-License-Identifier: Apache-2.0
// The world file: what was said to be saved is there, whatever happens to the process, the disk or the bytes.
#include <fell/save/world_file.h>

#include "core/save/world_file_fixture.h"
#include "support/all_names.h"
#include "support/temp_folder.h"

#include <SQLiteCpp/SQLiteCpp.h>
#include <gtest/gtest.h>
#include <sys/wait.h>
#include <unistd.h>
#include <xxhash.h>

#include <csignal>
#include <fstream>
#include <map>
#include <random>
#include <sys/resource.h>
#include <sys/wait.h>
#include <thread>
#include <unistd.h>

namespace fell::world_file_test {
namespace {

using namespace test;

TEST_F(WorldFileTest, WhatWasSavedIsThereWhicheverWayItIsGrouped)
{
    for (const KeepMethod& group : keepGroups()) {
        const fs::path at = folder.path() / (std::string(group.id) + ".fell");
        std::map<ChunkPos, KeptVoxels> expected;
        {
            auto made = WorldFile::create(at, header(group.id));
            ASSERT_TRUE(made) << sentence(made.problem());
            const auto world = made.take();
            for (int round = 0; round < 5; ++round) {
                std::vector<StoredChunk> some;
                for (std::int64_t i = -6; i < 6; ++i)
                    some.push_back(
                        chunkAt({i, round - 2, -i * 3}, static_cast<std::uint16_t>(i + 100), Material(round)));
                some.push_back(chunkAt({0, 0, 0}, 5, static_cast<Material>(round))); // again and again
                ASSERT_FALSE(world->save(some));
                for (const StoredChunk& one : some)
                    expected[one.chunk] = one.changed;
            }
        }
        auto opened = WorldFile::open(at);
        ASSERT_TRUE(opened) << sentence(opened.problem());
        const auto world = opened.take();
        WorldHeader made = header(group.id);
        made.folder = world->header().folder; // its pictures lie there unpacked: world_pack_test
        EXPECT_EQ(world->header(), made);
        EXPECT_EQ(contentsOf(*world), expected) << group.id;
        EXPECT_TRUE(world->verify().value().empty());
        const WorldFigures figures = world->figures().value();
        EXPECT_EQ(figures.chunks, expected.size());
        EXPECT_EQ(figures.voxels, 2 * expected.size());
        const auto box = world->loadBox({-2, -2, -4}, {3, 3, 7});
        std::size_t inBox = 0;
        for (const auto& [chunk, unused] : expected)
            inBox += chunk.x >= -2 && chunk.x < 3 && chunk.y >= -2 && chunk.y < 3 && chunk.z >= -4 && chunk.z < 7;
        EXPECT_EQ(box.value().chunks.size(), inBox);
    }
}

TEST_F(WorldFileTest, TheRecipeInItMakesTheSameWorldWithItsSeed)
{
    ASSERT_TRUE(WorldFile::create(file, header()));
    const auto world = WorldFile::open(file).take();
    const auto recipe = recipeOf(world->header(), "dale.fell");
    ASSERT_TRUE(recipe) << sentence(recipe.problem());
    EXPECT_EQ(recipe.value().seed, 77u);
    EXPECT_GT(recipe.value().blocks.kinds.size(), 20u) << "those of Corrowdale";
}

TEST_F(WorldFileTest, AWindowThatHasItOpenKeepsOthersOut)
{
    const auto first = WorldFile::create(file, header()).take();
    const auto second = WorldFile::open(file);
    ASSERT_FALSE(second);
    EXPECT_NE(sentence(second.problem()).find("is open in another window"), std::string::npos)
        << sentence(second.problem());
}

TEST_F(WorldFileTest, TheLockStaysWhenAnotherDescriptorOfTheFileIsClosed)
{
    // What a file dialog does that looks into the files of a folder: it opens and closes them.
    const auto first = WorldFile::create(file, header()).take();
    EXPECT_FALSE(textOf(file).empty());
    EXPECT_TRUE(isDatabase(file));
    EXPECT_FALSE(WorldFile::open(folder.path() / "." / file.filename())) << "by another spelling";
    // Another process tries: this one, forked.
    const pid_t child = ::fork();
    if (child == 0)
        ::_exit(WorldFile::open(file) ? 1 : 0);
    int status = 0;
    ::waitpid(child, &status, 0);
    EXPECT_EQ(WEXITSTATUS(status), 0) << "another process could open it for writing";
    EXPECT_FALSE(first->save(std::vector{chunkAt({1, 2, 3}, 9, 1)}));
}

TEST_F(WorldFileTest, SeveralMayReadAtOnceAndNobodyWritesThen)
{
    ASSERT_TRUE(WorldFile::create(file, header()));
    {
        const auto one = WorldFile::open(file, WorldAccess::Read), two = WorldFile::open(file, WorldAccess::Read);
        ASSERT_TRUE(one);
        ASSERT_TRUE(two);
        EXPECT_TRUE(one.value()->load());
        EXPECT_TRUE(two.value()->load());
        EXPECT_TRUE(two.value()->whyReadOnly().empty()) << "nothing is wrong with the file";
        EXPECT_FALSE(WorldFile::open(file)) << "to be written";
    }
    const auto reader = WorldFile::open(file, WorldAccess::Read).take();
    EXPECT_TRUE(reader->save(std::vector{chunkAt({1, 2, 3}, 9, 1)})) << "it was opened to be read";
}

TEST_F(WorldFileTest, ADraftHasItsNameOnlyWhenPublished)
{
    {
        const auto draft = WorldFile::createDraft(file, header()).take();
        ASSERT_FALSE(draft->save(std::vector{chunkAt({1, 2, 3}, 9, 1)}));
        EXPECT_FALSE(fs::exists(file));
        EXPECT_FALSE(WorldFile::createDraft(file, header())) << "two write it at once";
    }
    EXPECT_TRUE(fs::is_empty(folder.path())) << "an unpublished one leaves nothing";
    {
        // One that a killed process left is written over.
        std::ofstream(fs::path(file) += ".part") << "half a world";
        const auto draft = WorldFile::createDraft(file, header()).take();
        ASSERT_FALSE(draft->save(std::vector{chunkAt({1, 2, 3}, 9, 1)}));
        ASSERT_FALSE(draft->publish());
        EXPECT_TRUE(fs::exists(file));
        EXPECT_FALSE(WorldFile::open(file)) << "published, it is still open here";
        ASSERT_FALSE(draft->save(std::vector{chunkAt({7, 2, 3}, 9, 1)})) << "and can be written on";
    }
    EXPECT_EQ(contentsOf(*WorldFile::open(file).take()).size(), 2u);
    EXPECT_EQ(std::distance(fs::directory_iterator(folder.path()), {}), 1);
}

TEST_F(WorldFileTest, OneThatLosesTheRaceForANameLeavesTheWinnersFile)
{
    const auto draft = WorldFile::createDraft(file, header()).take();
    std::ofstream(file) << "the winner's";
    const auto problem = draft->publish();
    ASSERT_TRUE(problem);
    EXPECT_NE(problem->what.find("is there already"), std::string::npos) << problem->what;
    EXPECT_EQ(textOf(file), "the winner's");
}

TEST_F(WorldFileTest, NamesThatMeanSomethingToTheDatabaseAreFileNames)
{
    EXPECT_FALSE(WorldFile::create("", header()));
    const fs::path before = fs::current_path();
    fs::current_path(folder.path());
    for (const char* name : {":memory:", "file:other.fell"}) {
        const auto made = WorldFile::create(name, header());
        EXPECT_TRUE(made) << name;
        EXPECT_TRUE(fs::exists(folder.path() / name)) << name;
        EXPECT_LT(made ? made.value()->figures().value().bytes : 0, 1u << 20) << name;
    }
    fs::current_path(before);
}

TEST_F(WorldFileTest, CompactingForgetsWhatIsAsTheRecipeSaysAndGivesSpaceBack)
{
    const auto world = WorldFile::create(file, header("cube")).take();
    std::vector<StoredChunk> many;
    for (std::int64_t i = 0; i < 64; ++i) {
        StoredChunk chunk{{i, 0, 0}, {}, nullptr};
        for (std::uint16_t v = 0; v < 3000; ++v)
            chunk.changed.push_back({v, static_cast<Material>(v * 7 % 5 + i % 2)});
        many.push_back(std::move(chunk));
    }
    ASSERT_FALSE(world->save(many));
    const auto saved = world->compact([](ChunkPos) { return std::vector<Material>(32 * 32 * 32, 2); });
    ASSERT_TRUE(saved) << sentence(saved.problem());
    for (const auto& [chunk, voxels] : contentsOf(*world))
        for (const KeptVoxel& one : voxels)
            EXPECT_NE(one.material, 2);
    EXPECT_EQ(world->figures().value().chunks, 64u);
    EXPECT_TRUE(world->compact([](ChunkPos) { return std::vector<Material>(32 * 32 * 32, 1); }));
    EXPECT_FALSE(world->compact({}, {}).value() > (std::uint64_t{1} << 30));
    EXPECT_EQ(
        world->compact(
                 [](ChunkPos) { return std::vector<Material>(32 * 32 * 32, 1); }, [](auto, auto) { return false; })
            .problem()
            .what,
        "was not made smaller: it was stopped");
}

TEST_F(WorldFileTest, SetupsAndRoutesAreKeptByName)
{
    const auto world = WorldFile::create(file, header()).take();
    ASSERT_FALSE(world->putText("route", "round", "{\"a\": 1}"));
    ASSERT_FALSE(world->putText("setup", "mine", "{}"));
    ASSERT_FALSE(world->putText("route", "round", "{\"a\": 2}"));
    const auto texts = world->texts().value();
    ASSERT_EQ(texts.size(), 2u);
    EXPECT_EQ(texts[0].json, "{\"a\": 2}");
    EXPECT_EQ(texts[1].kind, "setup");
}

/// What the child of the next test has changed in step i: a few voxels of a few chunks.
std::vector<VoxelChange> stepOf(std::uint64_t seed, std::uint64_t step)
{
    std::mt19937_64 dice(mix64(seed) + step);
    std::vector<VoxelChange> out;
    for (int i = 0; i < 40; ++i) {
        const auto roll = [&] { return static_cast<std::int64_t>(dice() % 200) - 100; };
        out.push_back({{roll(), roll() / 4, roll()}, 0, static_cast<Material>(dice() % 3)});
    }
    return out;
}

TEST_F(WorldFileTest, KilledAtAnyMomentItHasEverythingThatWasReportedAsSaved)
{
    constexpr int kRounds = 200;
    ASSERT_TRUE(WorldFile::create(file, header("cube")));
    std::mt19937_64 dice(42);
    std::uint64_t step = 0; // the first that the next child makes
    WorldChanges truth;
    for (int round = 0; round < kRounds; ++round) {
        std::array<int, 2> report{};
        ASSERT_EQ(::pipe(report.data()), 0);
        const pid_t child = ::fork();
        ASSERT_GE(child, 0);
        if (child == 0) { // edits and saves until it is killed
            auto opened = WorldFile::open(file);
            if (!opened)
                ::_exit(3);
            const auto world = opened.take();
            auto loaded = world->load();
            if (!loaded || !loaded.value().damaged.empty())
                ::_exit(4);
            WorldChanges changes;
            changes.replaceAll(changesFrom(loaded.take().chunks));
            for (std::uint64_t i = step;; ++i) {
                changes.set(stepOf(7, i));
                if (world->save(storedFromChanges(changes.takeUnsaved())))
                    ::_exit(5);
                if (::write(report[1], &i, sizeof i) != sizeof i)
                    ::_exit(6);
            }
        }
        ::close(report[1]);
        // Every second round waits for the first save, so that saves go on on a machine of any speed.
        std::uint64_t reported = 0; // the step after the last that was reported
        if (std::uint64_t i = 0; round % 2 == 1 && ::read(report[0], &i, sizeof i) == sizeof i)
            reported = i + 1;
        std::this_thread::sleep_for(std::chrono::microseconds(500 + dice() % 25000));
        ::kill(child, SIGKILL);
        int status = 0;
        ::waitpid(child, &status, 0);
        ASSERT_TRUE(WIFSIGNALED(status)) << "the child ended normally: " << WEXITSTATUS(status);
        for (std::uint64_t i = 0; ::read(report[0], &i, sizeof i) == sizeof i;)
            reported = i + 1;
        ::close(report[0]);
        for (; step < reported; ++step)
            truth.set(stepOf(7, step));
        const auto world = WorldFile::open(file).take();
        ASSERT_TRUE(world->verify().value().empty()) << "round " << round;
        WorldChanges found;
        found.replaceAll(changesFrom(world->load().take().chunks));
        // The step that was under way when it was killed may be there, as a whole, or not.
        const auto same = [&](const WorldChanges& a) {
            if (a.chunks() != found.chunks())
                return false;
            for (const auto& [chunk, voxels] : a.all())
                if (const auto there = found.of(chunk); !there || *there != *voxels)
                    return false;
            return true;
        };
        if (!same(truth)) {
            truth.set(stepOf(7, step));
            ++step;
            ASSERT_TRUE(same(truth)) << "round " << round << ", step " << step;
        }
    }
    EXPECT_GE(step, kRounds / 2u) << "a save in every second round at least";
}

} // namespace
} // namespace fell::world_file_test
