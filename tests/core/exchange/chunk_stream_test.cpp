// SPDX-License-Identifier: Apache-2.0
// Containers that are written here, byte by byte, as docs/fell-chunks.md says; what is read is compared with what went
// in.
#include <fell/exchange/chunk_stream.h>
#include <fell/exchange/world_import.h>

#include "support/all_names.h"
#include "support/sample_worlds.h"
#include "support/temp_folder.h"
#include <fell/save/world_file.h>

#include <gtest/gtest.h>

#include <fstream>
#include <functional>
#include <zstd.h>

namespace fell::chunk_stream_test {
namespace {

namespace fs = std::filesystem;

using Ids = std::vector<std::uint16_t>;

std::string little(std::uint64_t value, int bytes)
{
    std::string out;
    for (int i = 0; i < bytes; ++i)
        out += static_cast<char>(value >> (8 * i) & 0xFF);
    return out;
}

std::string raw(const Ids& ids)
{
    std::string out;
    for (const std::uint16_t id : ids)
        out += little(id, 2);
    return out;
}

std::string runs(const Ids& ids)
{
    std::string out;
    for (std::size_t i = 0; i < ids.size();) {
        std::size_t end = i;
        while (end < ids.size() && ids[end] == ids[i])
            ++end;
        out += little(end - i, 4) + little(ids[i], 2);
        i = end;
    }
    return out;
}

/// Bit by bit, with no word in between.
std::string bits(const Ids& ids, const Ids& palette)
{
    int width = 0;
    while ((std::size_t{1} << width) < palette.size())
        ++width;
    std::string packed((ids.size() * static_cast<std::size_t>(width) + 7) / 8, '\0');
    for (std::size_t i = 0; i < ids.size(); ++i) {
        const auto entry
            = static_cast<std::size_t>(std::find(palette.begin(), palette.end(), ids[i]) - palette.begin());
        for (int b = 0; b < width; ++b) {
            const std::size_t bit = i * static_cast<std::size_t>(width) + static_cast<std::size_t>(b);
            packed[bit / 8] = static_cast<char>(packed[bit / 8] | static_cast<int>(entry >> b & 1) << bit % 8);
        }
    }
    return little(palette.size(), 2) + raw(palette) + packed;
}

std::string record(const std::array<int, 3>& at, int encoding, const std::string& payload, bool isZipped = false)
{
    std::string bytes = payload;
    if (isZipped) {
        bytes.resize(ZSTD_compressBound(payload.size()));
        bytes.resize(ZSTD_compress(bytes.data(), bytes.size(), payload.data(), payload.size(), 3));
    }
    std::string out = "CHNK";
    for (const int along : at)
        out += little(static_cast<std::uint32_t>(along), 4);
    return out + little(static_cast<std::uint64_t>(encoding), 1) + little(isZipped ? 1 : 0, 1) + little(0, 2)
        + little(bytes.size(), 4) + bytes;
}

const char* const kPalette = R"([{"id": 1, "name": "Dark Slate"}, {"id": 7, "name": "Tarn water", "colour": "#336699",
    "matter": "liquid"}, {"id": 300, "name": "dark slate"}])";

std::string header(const std::string& edge = "[4, 3, 2]", const std::string& more = "")
{
    const std::string json = R"({"edge": )" + edge + more + R"(, "palette": )" + kPalette + "}";
    return "fell-chunks 1 " + std::to_string(json.size()) + "\n" + json;
}

std::string end(int count)
{
    return "END." + little(static_cast<std::uint64_t>(count), 4);
}

Ids some(std::size_t count)
{
    constexpr std::array<std::uint16_t, 4> kIds{0, 1, 7, 300};
    Ids out(count);
    for (std::size_t i = 0; i < count; ++i)
        out[i] = kIds[i * i / 3 % 4];
    return out;
}

TEST(ForeignChunks, EachEncodingGivesTheSameIds)
{
    const Ids ids = some(24), flat(24, 7);
    const auto read = ForeignChunks::parse(header() + record({1, -2, 3}, 0, raw(ids)) + record({0, 0, 0}, 1, runs(ids))
            + record({0, 0, 1}, 2, bits(ids, {300, 0, 7, 1})) + record({0, 0, 2}, 2, bits(ids, {300, 0, 7, 1}), true)
            + record({0, 0, 3}, 0, raw(ids), true) + record({0, 0, 4}, 2, bits(flat, {7})) + end(6),
        "c");
    ASSERT_TRUE(read) << sentence(read.problem());
    ForeignChunk chunk;
    for (int i = 0; i < 6; ++i) {
        const auto next = read.value()->next(chunk);
        ASSERT_TRUE(next && next.value()) << i << (next ? "" : sentence(next.problem()));
        EXPECT_EQ(chunk.ids, i == 5 ? flat : ids) << i;
        if (i == 0) {
            EXPECT_EQ(chunk.at, (std::array<std::int64_t, 3>{1, -2, 3}));
        }
    }
    const auto last = read.value()->next(chunk);
    ASSERT_TRUE(last) << sentence(last.problem());
    EXPECT_FALSE(last.value());
}

TEST(ForeignChunks, NamesBecomeBlocks)
{
    const auto read = ForeignChunks::parse(header() + end(0), "c");
    ASSERT_TRUE(read) << sentence(read.problem());
    const auto blocks = blocksOf(read.value()->header(), "c");
    ASSERT_TRUE(blocks) << sentence(blocks.problem());
    for (const char* part : {R"("dark-slate")", R"("dark-slate-2")", R"("tarn-water")", R"("#336699")", R"("liquid")"})
        EXPECT_NE(blocks.value().json.find(part), std::string::npos) << part << blocks.value().json;
    // Solid cubes have the first numbers.
    EXPECT_EQ(blocks.value().materials[1], 1);
    EXPECT_EQ(blocks.value().materials[300], 2);
    EXPECT_EQ(blocks.value().materials[7], 3);
    EXPECT_EQ(blocks.value().materials[2], kOpen);
}

TEST(ForeignChunks, AxesGoWhereTheHeaderSays)
{
    const auto read = ForeignChunks::parse(header("[4, 3, 2]", R"(, "axes": ["-z", "x", "y"])") + end(0), "c");
    ASSERT_TRUE(read) << sentence(read.problem());
    // First axis: voxels 4 to 7 of chunk 1 lie at z = -5 to -8. Second: x; third: y, up.
    EXPECT_EQ(read.value()->header().placeOf({1, 2, -1}, {0, 0, 0}), (VoxelPos{6, -2, -5}));
    EXPECT_EQ(read.value()->header().placeOf({1, 2, -1}, {3, 2, 1}), (VoxelPos{8, -1, -8}));
}

TEST(ForeignChunks, WhatIsWrongIsOneSentenceWithItsPlace)
{
    const Ids ids = some(24);
    const std::string good = record({0, 0, 0}, 0, raw(ids));
    const std::pair<std::string, const char*> kCases[]{{"", "begins not with"}, {"hello\n", "begins not with"},
        {"fell-chunks 1 99999999\n", "begins not with"}, {"fell-chunks 1 9999999\n", "at most 1048576"},
        {"fell-chunks 1 10\n{}", "ends within its header"}, {"fell-chunks 1 2\n{}", "/edge"},
        {header("[0, 3, 2]"), "/edge"}, {header("[256, 256, 256]"), "comes to more than"},
        {header("[4, 3, 2]", R"(, "axes": ["x", "x", "y"])"), "/axes"},
        {header("[4, 3, 2]", R"(, "axes": "xyz")"), "/axes"}, {header("[4, 3, 2]", R"(, "up": 1)"), "up"},
        {header() + good, "ends without its last record"}, {header() + good + end(2), "has 1 chunks and says"},
        {header() + "CHNX", "neither CHNK nor END."}, {header() + good.substr(0, 12), "ends within a record"},
        {header() + good.substr(0, 40), "ends within a chunk"},
        {header() + record({0, 0, 0}, 3, raw(ids)), "has encoding 3"},
        {header() + record({0, 0, 0}, 0, raw(ids) + "x"), "not those of 24 voxels"},
        {header() + record({0, 0, 0}, 1, little(25, 4) + little(1, 2)), "not those of 24 voxels"},
        {header() + record({0, 0, 0}, 1, little(0, 4) + little(1, 2)), "not those of 24 voxels"},
        {header() + record({0, 0, 0}, 2, little(0, 2)), "not those of 24 voxels"},
        {header() + record({0, 0, 0}, 2, little(3, 2) + raw({1, 7, 0}) + std::string(6, '\xFF')),
            "not those of 24 voxels"},
        {header() + record({2000000000, 0, 0}, 0, raw(ids)), "farther than"}};
    for (const auto& [bytes, part] : kCases) {
        const auto read = ForeignChunks::parse(bytes, "c.chunks");
        std::optional<Problem> problem;
        if (!read)
            problem = read.problem();
        ForeignChunk chunk;
        for (bool isThere = true; !problem && isThere;) {
            const auto next = read.value()->next(chunk);
            isThere = next && next.value();
            if (!next)
                problem = next.problem();
        }
        ASSERT_TRUE(problem) << part;
        EXPECT_NE(sentence(*problem).find(part), std::string::npos) << sentence(*problem);
        EXPECT_EQ(sentence(*problem).rfind("c.chunks", 0), 0u) << sentence(*problem);
    }
}

class ChunkImport : public ::testing::Test {
protected:
    ImportSpec spec(const fs::path& in) const
    {
        ImportSpec out;
        out.in = in;
        out.out = m_folder.path() / "w.fell";
        out.like = findWorld("level", demoFolder()).take();
        return out;
    }
    fs::path write(const std::string& name, const std::string& bytes) const
    {
        std::ofstream(m_folder.path() / name, std::ios::binary) << bytes;
        return m_folder.path() / name;
    }
    /// All voxels of the world that are not air, by place, as names.
    static std::map<std::array<std::int64_t, 3>, std::string> voxelsOf(const fs::path& file)
    {
        std::map<std::array<std::int64_t, 3>, std::string> out;
        const auto world = WorldFile::open(file, WorldAccess::Read);
        EXPECT_TRUE(world) << sentence(world.problem());
        const auto recipe = recipeOf(world.value()->header(), "w");
        EXPECT_TRUE(recipe) << sentence(recipe.problem());
        for (const StoredChunk& chunk : world.value()->load().take().chunks)
            for (const KeptVoxel& one : chunk.changed) {
                const VoxelPos at = originOf(chunk.chunk, kKeptEdge)
                    + VoxelPos{one.voxel % 32, one.voxel / 1024, one.voxel / 32 % 32};
                out[{at.x, at.y, at.z}] = recipe.value().blocks.kinds[one.material].name;
            }
        return out;
    }
    test::TempFolder m_folder;
};

/// Chunks of 5 x 7 x 3 lie across the borders of the chunks that are kept.
TEST_F(ChunkImport, EveryVoxelIsWhereTheEngineHadIt)
{
    constexpr std::array<std::uint16_t, 4> kIds{0, 1, 7, 300};
    const std::array<const char*, 4> names{"", "dark-slate", "tarn-water", "dark-slate-2"};
    const auto valueAt = [](std::int64_t i, std::int64_t j, std::int64_t k) {
        return static_cast<std::size_t>((i * 3 + j * 5 + k * k + 900) % 4);
    };
    std::map<std::array<std::int64_t, 3>, std::string> wanted;
    std::string bytes = header("[5, 7, 3]", R"(, "axes": ["x", "-z", "y"], "metres": 0.5, "name": "Corrowdale mine")");
    int count = 0;
    for (int a = -8; a < 8; ++a)
        for (int b = -3; b < 3; ++b)
            for (int c = -4; c < 6; ++c, ++count) {
                Ids ids;
                for (int k = 0; k < 3; ++k)
                    for (int j = 0; j < 7; ++j)
                        for (int i = 0; i < 5; ++i) {
                            const std::int64_t x = a * 5 + i, z = -1 - (b * 7 + j), y = c * 3 + k;
                            const std::size_t value = valueAt(x, y, z);
                            ids.push_back(kIds[value]);
                            if (value != 0)
                                wanted[{x + 100, y + 50, z - 200}] = names[value];
                        }
                bytes
                    += record({a, b, c}, count % 2 == 0 ? 1 : 0, count % 2 == 0 ? runs(ids) : raw(ids), count % 3 == 0);
            }
    ImportSpec with = spec(write("c.chunks", bytes + end(count)));
    with.at = {100, 50, -200};
    const auto made = importWorld(with);
    ASSERT_TRUE(made) << sentence(made.problem());
    EXPECT_EQ(made.value().size, (std::array<std::int64_t, 3>{80, 30, 42}));
    EXPECT_EQ(made.value().type, "chunks of 5 x 7 x 3");
    EXPECT_EQ(made.value().voxels, wanted.size());
    EXPECT_EQ(made.value().bytes, fs::file_size(with.out));
    EXPECT_EQ(voxelsOf(with.out), wanted);
    const auto world = WorldFile::open(with.out, WorldAccess::Read).take();
    EXPECT_EQ(world->header().name, "Corrowdale mine");
    EXPECT_DOUBLE_EQ(recipeOf(world->header(), "w").value().voxelMetres, 0.5);
}

TEST_F(ChunkImport, AFolderIsReadLikeAFileAndTheLaterChunkCounts)
{
    const fs::path folder = m_folder.path() / "world";
    fs::create_directory(folder);
    std::ofstream(folder / "fell-chunks.json") << R"({"edge": [2, 1, 1], "palette": )" << kPalette << "}";
    std::ofstream(folder / "a.chunk", std::ios::binary) << record({0, 0, 0}, 0, raw({1, 1}));
    std::ofstream(folder / "b.chunk", std::ios::binary)
        << record({3, 0, 0}, 0, raw({7, 0})) << record({0, 0, 0}, 0, raw({0, 300}));
    for (const fs::path& in : {folder, folder / "fell-chunks.json"}) {
        const auto made = importWorld(spec(in));
        ASSERT_TRUE(made) << sentence(made.problem());
        EXPECT_EQ(voxelsOf(m_folder.path() / "w.fell"),
            (std::map<std::array<std::int64_t, 3>, std::string>{
                {{1, 0, 0}, "dark-slate-2"}, {{6, 0, 0}, "tarn-water"}}));
        fs::remove(m_folder.path() / "w.fell");
    }
}

/// More chunks than are held at once, each touched twice: what was written is read back and completed.
TEST_F(ChunkImport, ChunksThatComeAgainAreCompleted)
{
    std::string bytes = header("[32, 16, 32]");
    constexpr int kAcross = 50; // 2,500 kept chunks, more than 2,048
    for (const int half : {0, 1})
        for (int i = 0; i < kAcross * kAcross; ++i) {
            Ids ids(32 * 16 * 32);
            ids[static_cast<std::size_t>(half)] = half == 0 ? 1 : 7;
            bytes += record({i % kAcross, half, i / kAcross}, 1, runs(ids));
        }
    const auto made = importWorld(spec(write("c.chunks", bytes + end(2 * kAcross * kAcross))));
    ASSERT_TRUE(made) << sentence(made.problem());
    EXPECT_EQ(made.value().voxels, 2u * kAcross * kAcross);
    const auto voxels = voxelsOf(m_folder.path() / "w.fell");
    for (const int i : {0, 17, kAcross * kAcross - 1}) {
        const std::int64_t x = i % kAcross * 32, z = i / kAcross * 32;
        EXPECT_EQ(voxels.at({x, 0, z}), "dark-slate");
        EXPECT_EQ(voxels.at({x + 1, 16, z}), "tarn-water");
    }
}

TEST_F(ChunkImport, WhatCannotBeAWorldLeavesNothing)
{
    const std::string good = record({0, 0, 0}, 0, raw(some(24)));
    const std::pair<std::string, const char*> kCases[]{{header() + end(0), "contains no chunk"},
        {header() + record({0, 0, 0}, 0, raw(Ids(24))) + end(1), "is anything but air"},
        {header() + good + record({0, 0, 0}, 0, raw(Ids(24, 5))) + end(2), "material 5: is not in the palette"},
        {header() + good, "ends without its last record"},
        {header() + record({0, -3000, 0}, 0, raw(some(24))) + end(1), "not below -4096 are allowed: move it by --at"}};
    for (const auto& [bytes, part] : kCases) {
        const auto made = importWorld(spec(write("c.chunks", bytes)));
        ASSERT_FALSE(made) << part;
        EXPECT_NE(sentence(made.problem()).find(part), std::string::npos) << sentence(made.problem());
        const auto files = fs::directory_iterator(m_folder.path());
        EXPECT_EQ(std::distance(begin(files), fs::directory_iterator()), 1) << "only what went in";
    }
    int calls = 0;
    ImportSpec with = spec(write("c.chunks", header() + good + good + end(2)));
    const auto stopped = importWorld(with, [&calls](double) { return ++calls < 2; });
    EXPECT_FALSE(stopped);
    EXPECT_FALSE(fs::exists(with.out));
}

} // namespace
} // namespace fell::chunk_stream_test
