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
#include <random>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

namespace fell::damaged_world_test {
namespace {

using namespace test;

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
    const std::string content = compressed(bytes, 9);
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

} // namespace
} // namespace fell::damaged_world_test
