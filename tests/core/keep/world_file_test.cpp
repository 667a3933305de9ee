// SPDX-License-Identifier: Apache-2.0
// The world file: what was said to be saved is there, whatever happens to the process, the disk or the bytes.
#include "demo/demo_folder.h"
#include "keep/world_file.h"

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

namespace fs = std::filesystem;

std::string textOf(const fs::path& file)
{
    std::ifstream in(file);
    return {std::istreambuf_iterator<char>(in), {}};
}

WorldHeader header(const std::string& group = "cube")
{
    const fs::path demo = demoFolder() / "corrowdale";
    return {
        "Corrowdale", textOf(demo / "recipe.json"), textOf(demo / "blocks.json"), demo.string(), 77, "changed", group};
}

StoredChunk chunkAt(ChunkPos at, std::uint16_t first, Material material)
{
    return {at, {{first, material}, {static_cast<std::uint16_t>(first + 3), 2}}, nullptr};
}

std::map<ChunkPos, KeptVoxels> contentsOf(const WorldFile& file)
{
    std::map<ChunkPos, KeptVoxels> out;
    const auto loaded = file.load();
    EXPECT_TRUE(loaded) << (loaded ? "" : sentence(loaded.problem()));
    if (loaded) {
        EXPECT_TRUE(loaded.value().damaged.empty());
        for (const StoredChunk& chunk : loaded.value().chunks)
            out[chunk.chunk] = chunk.changed;
    }
    return out;
}

class WorldFileTest : public testing::Test {
protected:
    test::TempFolder folder;
    fs::path file = folder.path() / "dale.fell";
};

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

TEST_F(WorldFileTest, OtherTablesViewsAndTriggersAreRefused)
{
    const auto refusedWith = [&](const char* sql) {
        fs::remove(file);
        EXPECT_TRUE(WorldFile::create(file, header()));
        SQLite::Database(file.string(), SQLite::OPEN_READWRITE).exec(sql);
        const auto opened = WorldFile::open(file);
        EXPECT_FALSE(opened) << sql;
        EXPECT_NE(
            (opened ? std::string() : sentence(opened.problem())).find("its tables are others"), std::string::npos)
            << sql;
    };
    refusedWith("DROP TABLE header; CREATE VIEW header(key, value) AS WITH RECURSIVE n(i) AS (VALUES(1) UNION ALL "
                "SELECT i + 1 FROM n) SELECT i, i FROM n");
    refusedWith("CREATE TRIGGER t AFTER INSERT ON kept BEGIN DELETE FROM kept; END");
    refusedWith("CREATE TABLE more(a)");
    refusedWith("DROP TABLE document");
}

/// Writes one row as a crafted file might hold it: whole by its checksum, whatever is in it.
void putRow(const fs::path& file, ChunkPos place, const std::vector<StoredChunk>& chunks)
{
    std::string bytes;
    for (const StoredChunk& chunk : chunks)
        appendChunk(chunk, bytes);
    const std::string content = squeezed(bytes, 9);
    SQLite::Database base(file.string(), SQLite::OPEN_READWRITE);
    SQLite::Statement put(base, "INSERT OR REPLACE INTO kept VALUES(?, ?, ?, 1, 1, ?, ?)");
    put.bind(1, place.x);
    put.bind(2, place.y);
    put.bind(3, place.z);
    put.bind(4, static_cast<std::int64_t>(XXH3_64bits(content.data(), content.size())));
    put.bindNoCopy(5, content.data(), static_cast<int>(content.size()));
    put.exec();
}

TEST_F(WorldFileTest, ARowThatNoWorldCanHaveIsDamagedThoughItsChecksumHolds)
{
    const auto whyOf = [&](ChunkPos place, const std::vector<StoredChunk>& chunks) -> std::string {
        fs::remove(file);
        EXPECT_TRUE(WorldFile::create(file, header()));
        putRow(file, place, chunks);
        const auto world = WorldFile::open(file).take();
        const auto damaged = world->verify();
        EXPECT_TRUE(world->load().value().chunks.empty() || damaged.value().empty());
        return damaged.value().empty() ? "sound" : damaged.value()[0].why;
    };
    EXPECT_EQ(whyOf({0, 0, 0}, {chunkAt({1, 2, 3}, 9, 1)}), "sound");
    const auto types = static_cast<Material>(recipeOf(header(), "").value().blocks.kinds.size());
    EXPECT_EQ(whyOf({0, 0, 0}, {chunkAt({1, 2, 3}, 9, static_cast<Material>(types - 1))}), "sound") << "its last type";
    EXPECT_NE(whyOf({0, 0, 0}, {chunkAt({1, 2, 3}, 9, types)}).find("block type"), std::string::npos);
    EXPECT_NE(whyOf({0, 0, 0}, {chunkAt({1, 2, 3}, 9, 60000)}).find("block type"), std::string::npos);
    const auto whole = std::make_shared<const VoxelChunk>(kKeptEdge, Material{60000});
    EXPECT_NE(whyOf({0, 0, 0}, {{{1, 2, 3}, {}, whole}}).find("block type"), std::string::npos);
    EXPECT_NE(whyOf({0, 0, 0}, {chunkAt({4, 2, 3}, 9, 1)}).find("another place"), std::string::npos);
    EXPECT_NE(
        whyOf({0, 0, 0}, {chunkAt({1, 2, 3}, 9, 1), chunkAt({1, 2, 3}, 9, 1)}).find("more chunks"), std::string::npos);
}

TEST_F(WorldFileTest, ASmallFileCannotTakeMoreMemoryThanIsAllowed)
{
    // 64 chunks with every voxel changed to one material: some hundred bytes in the file, 8 MiB in memory.
    KeptVoxels every(32 * 32 * 32);
    for (std::size_t i = 0; i < every.size(); ++i)
        every[i] = {static_cast<std::uint16_t>(i), 1};
    std::vector<StoredChunk> cube;
    for (int i = 0; i < 64; ++i)
        cube.push_back({{i % 4, i / 16, i / 4 % 4}, every, nullptr});
    ASSERT_TRUE(WorldFile::create(file, header()));
    putRow(file, {0, 0, 0}, cube);
    const auto world = WorldFile::open(file).take();
    EXPECT_TRUE(world->load({}, 64 * 32768));
    const auto refused = world->load({}, 64 * 32768 - 1);
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.problem().what.find("changed voxels"), std::string::npos);
}

TEST_F(WorldFileTest, WhatIsNoWorldIsRefusedInOneSentenceAndStaysAsItIs)
{
    const auto refused = [&](const std::string& content) {
        std::ofstream(file, std::ios::binary) << content;
        const auto opened = WorldFile::open(file);
        EXPECT_FALSE(opened);
        EXPECT_EQ(textOf(file), content);
        return opened ? std::string() : sentence(opened.problem());
    };
    EXPECT_NE(refused("no database").find("is no world of Fell"), std::string::npos);
    EXPECT_NE(refused("SQLite format 3 and then nothing").find("cannot be read as a world"), std::string::npos);
    fs::remove(file);
    EXPECT_NE(sentence(WorldFile::open(file).problem()).find("no such file"), std::string::npos);
    {
        SQLite::Database other(file.string(), SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
        other.exec("CREATE TABLE t(a)");
    }
    EXPECT_NE(sentence(WorldFile::open(file).problem()).find("something else"), std::string::npos);
    EXPECT_NE(sentence(WorldFile::create(file, header()).problem()).find("is there already"), std::string::npos);
    WorldHeader bad = header();
    bad.recipe = "{";
    EXPECT_FALSE(WorldFile::create(folder.path() / "bad.fell", bad));
    EXPECT_FALSE(fs::exists(folder.path() / "bad.fell"));
}

TEST_F(WorldFileTest, ANewerVersionIsLookedAtAndNotChanged)
{
    ASSERT_FALSE(WorldFile::create(file, header()).take()->save(std::vector{chunkAt({1, 2, 3}, 9, 1)}));
    SQLite::Database(file.string(), SQLite::OPEN_READWRITE).exec("PRAGMA user_version = 99");
    const std::string before = textOf(file);
    const auto world = WorldFile::open(file).take();
    EXPECT_NE(world->whyReadOnly().find("newer Fell"), std::string::npos);
    EXPECT_EQ(contentsOf(*world).size(), 1u);
    const auto problem = world->save(std::vector{chunkAt({0, 0, 0}, 9, 1)});
    ASSERT_TRUE(problem);
    EXPECT_NE(sentence(*problem).find("newer Fell"), std::string::npos);
    EXPECT_EQ(textOf(file), before);
}

TEST_F(WorldFileTest, AFileOfVersionOneIsReadAndIsOfThisVersionOnceItIsSaved)
{
    const auto version = [this] { return SQLite::Database(file.string()).execAndGet("PRAGMA user_version").getInt(); };
    ASSERT_FALSE(WorldFile::create(file, header()).take()->save(std::vector{chunkAt({1, 2, 3}, 9, 1)}));
    const int newest = version();
    ASSERT_GT(newest, 1);
    SQLite::Database(file.string(), SQLite::OPEN_READWRITE).exec("PRAGMA user_version = 1");
    {
        const auto world = WorldFile::open(file).take();
        EXPECT_TRUE(world->whyReadOnly().empty());
        EXPECT_EQ(contentsOf(*world).size(), 1u);
    }
    EXPECT_EQ(version(), 1) << "looked at only";
    ASSERT_FALSE(WorldFile::open(file).take()->save(std::vector{chunkAt({5, 2, 3}, 9, 1)}));
    EXPECT_EQ(version(), newest);
    EXPECT_EQ(contentsOf(*WorldFile::open(file).take()).size(), 2u);
}

TEST_F(WorldFileTest, ADamagedRowIsNamedSkippedAndDroppedWhenAsked)
{
    {
        const auto world = WorldFile::create(file, header("chunk")).take();
        for (std::int64_t i = 0; i < 20; ++i)
            ASSERT_FALSE(world->save(std::vector{chunkAt({i, 0, 0}, 7, 1)}));
    }
    {
        SQLite::Database base(file.string(), SQLite::OPEN_READWRITE);
        base.exec("UPDATE kept SET content = substr(content, 1, 5) || x'FF' || substr(content, 7) WHERE x = 4");
    }
    const auto world = WorldFile::open(file).take();
    const auto loaded = world->load();
    ASSERT_TRUE(loaded);
    EXPECT_EQ(loaded.value().chunks.size(), 19u);
    ASSERT_EQ(loaded.value().damaged.size(), 1u);
    EXPECT_EQ(loaded.value().damaged[0].where, "chunk 4, 0, 0");
    EXPECT_EQ(world->verify().value().size(), 1u);
    EXPECT_FALSE(world->drop(loaded.value().damaged));
    EXPECT_TRUE(world->verify().value().empty());
    EXPECT_EQ(contentsOf(*world).size(), 19u);
}

TEST_F(WorldFileTest, BytesBrokenAnywhereLeaveTheRestReadableOrASentence)
{
    {
        const auto world = WorldFile::create(file, header("chunk")).take();
        std::vector<StoredChunk> many;
        for (std::int64_t i = 0; i < 400; ++i)
            many.push_back(chunkAt({i, i % 7, -i}, static_cast<std::uint16_t>(i * 11), Material(i % 5)));
        ASSERT_FALSE(world->save(many));
    }
    const std::string sound = textOf(file);
    std::mt19937_64 dice(8);
    for (int round = 0; round < 60; ++round) {
        std::string broken = sound;
        for (int i = 0; i < 20; ++i)
            broken[100 + dice() % (broken.size() - 100)] = static_cast<char>(dice());
        std::ofstream(file, std::ios::binary | std::ios::trunc) << broken;
        const auto opened = WorldFile::open(file);
        if (!opened) {
            EXPECT_FALSE(sentence(opened.problem()).empty());
            continue;
        }
        if (const auto loaded = opened.value()->load()) {
            for (const StoredChunk& chunk : loaded.value().chunks) { // a chunk that is read is as it was saved
                const std::int64_t i = chunk.chunk.x;
                EXPECT_EQ(
                    chunk.changed, chunkAt(chunk.chunk, static_cast<std::uint16_t>(i * 11), Material(i % 5)).changed);
            }
        }
    }
}

TEST_F(WorldFileTest, AFullDiskIsSaidAndLosesNothing)
{
    const auto world = WorldFile::create(file, header("chunk")).take();
    ASSERT_FALSE(world->save(std::vector{chunkAt({1, 1, 1}, 3, 1)}));
    std::mt19937_64 dice(4);
    std::vector<StoredChunk> many;
    for (std::int64_t i = 0; i < 300; ++i) {
        std::vector<Material> voxels(32 * 32 * 32);
        for (Material& voxel : voxels)
            voxel = static_cast<Material>(dice() % 60); // does not get small
        many.push_back({{i, 0, 9}, {}, std::make_shared<const VoxelChunk>(kKeptEdge, std::move(voxels))});
    }
    // The system refuses to let any file of this process grow beyond a megabyte.
    rlimit before{};
    ASSERT_EQ(::getrlimit(RLIMIT_FSIZE, &before), 0);
    const auto ignored = std::signal(SIGXFSZ, SIG_IGN);
    const rlimit small{1 << 20, before.rlim_max};
    ASSERT_EQ(::setrlimit(RLIMIT_FSIZE, &small), 0);
    const auto problem = world->save(many);
    ::setrlimit(RLIMIT_FSIZE, &before);
    std::signal(SIGXFSZ, ignored);
    ASSERT_TRUE(problem);
    EXPECT_NE(sentence(*problem).find("stays in memory"), std::string::npos) << sentence(*problem);
    EXPECT_EQ(contentsOf(*world).size(), 1u) << "nothing of it is there";
    EXPECT_FALSE(world->save(many)) << "with room again it goes through";
    EXPECT_EQ(world->figures().value().chunks, 301u);
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
                if (world->save(keptOf(changes.takeUnsaved())))
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
        ASSERT_TRUE(WIFSIGNALED(status)) << "the child gave up by itself: " << WEXITSTATUS(status);
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

std::shared_ptr<const VoxelChunk> numbered(ChunkPos chunk, int edge)
{
    std::vector<Material> voxels;
    const VoxelPos low = originOf(chunk, edge);
    for (int y = 0; y < edge; ++y)
        for (int z = 0; z < edge; ++z)
            for (int x = 0; x < edge; ++x)
                voxels.push_back(static_cast<Material>(((low.x + x) * 3 + (low.y + y) * 5 + (low.z + z) * 7) & 255));
    return std::make_shared<const VoxelChunk>(edge, std::move(voxels));
}

TEST(WholeChunks, ArePutTogetherFromChunksOfAnyEdgeWhereAllOfThemAreThere)
{
    const auto all = [](ChunkPos) { return true; };
    const std::vector<Material> expected = numbered({-1, 0, 2}, kKeptEdge)->voxels();
    ResidentVoxels small, large{{{-1, 0, 1}, numbered({-1, 0, 1}, 64)}}, same{{{-1, 0, 2}, numbered({-1, 0, 2}, 32)}};
    for (int i = 0; i < 8; ++i) {
        const ChunkPos at{-2 + (i & 1), i >> 1 & 1, 4 + (i >> 2)};
        small.emplace_back(at, numbered(at, 16));
    }
    for (const ResidentVoxels* from : {&small, &same}) {
        const auto whole = wholeOf(*from, all);
        ASSERT_EQ(whole.size(), 1u);
        EXPECT_EQ(whole[0].chunk, (ChunkPos{-1, 0, 2}));
        ASSERT_TRUE(whole[0].whole);
        EXPECT_EQ(whole[0].whole->voxels(), expected);
    }
    const auto eight = wholeOf(large, all);
    ASSERT_EQ(eight.size(), 8u);
    for (const StoredChunk& one : eight)
        EXPECT_EQ(one.whole->voxels(), numbered(one.chunk, kKeptEdge)->voxels())
            << one.chunk.x << one.chunk.y << one.chunk.z;
    small.pop_back();
    EXPECT_TRUE(wholeOf(small, all).empty()) << "a part of it is not there";
    EXPECT_TRUE(wholeOf(same, [](ChunkPos) { return false; }).empty());
}

TEST(WholeChunks, AreHeldAsWhatDiffersFromTheRecipeWhereThatIsKnown)
{
    std::vector<Material> voxels(std::size_t{32} * 32 * 32, 1);
    voxels[7] = 3;
    voxels[900] = kOpen;
    std::vector<StoredChunk> stored{{{0, 0, 0}, {}, std::make_shared<const VoxelChunk>(kKeptEdge, voxels)},
        {{1, 0, 0}, {}, std::make_shared<const VoxelChunk>(kKeptEdge, Material{1})}, {{2, 0, 0}, {{5, 2}}, nullptr}};
    const auto made = [&](ChunkPos) { return std::vector<Material>(voxels.size(), 1); };
    EXPECT_EQ(changesFrom(stored)[0].second.size(), voxels.size());
    const auto few = changesFrom(stored, made);
    ASSERT_EQ(few.size(), 2u) << "the second chunk is as the recipe says";
    EXPECT_EQ(few[0].second, (KeptVoxels{{7, 3}, {900, kOpen}}));
    EXPECT_EQ(few[1].second, (KeptVoxels{{5, 2}}));
}

} // namespace
} // namespace fell::world_file_test
