// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/height_map.h>

#include "support/all_names.h"
#include "support/sample_worlds.h"
#include "support/temp_folder.h"
#include <fell/terrain/generate.h>

#include <csignal>
#include <fstream>
#include <gtest/gtest.h>

namespace fell::height_map_test {
namespace {

std::uint16_t valueAt(int x, int z)
{
    return static_cast<std::uint16_t>((x * 131 + z * 977) & 0xFFFF);
}

void write(const std::filesystem::path& file, int width, int height)
{
    HeightMapWriter writer(file, width, height);
    std::vector<std::uint16_t> row(static_cast<std::size_t>(width));
    for (int z = 0; z < height; ++z) {
        for (int x = 0; x < width; ++x)
            row[static_cast<std::size_t>(x)] = valueAt(x, z);
        writer.add(row);
    }
    const auto problem = writer.finish();
    EXPECT_FALSE(problem) << sentence(*problem);
}

TEST(HeightMap, ReadsBackEverySampleWhateverItsSize)
{
    const test::TempFolder folder;
    for (const auto& [width, height] : {std::pair{1, 1}, {3, 700}, {256, 256}, {257, 255}, {600, 300}}) {
        const auto file = folder / "a.heights";
        write(file, width, height);
        const auto map = HeightMap::open(file);
        ASSERT_TRUE(map) << sentence(map.problem());
        EXPECT_EQ(map.value()->width(), width);
        for (int z = 0; z < height; ++z)
            for (int x = 0; x < width; ++x)
                ASSERT_DOUBLE_EQ(map.value()->at(x, z), valueAt(x, z) / 65535.0) << x << ", " << z;
    }
}

TEST(HeightMap, IsBilinearBetweenSamplesAndFlatBeyondTheEdge)
{
    const test::TempFolder folder;
    const auto file = folder / "a.heights";
    {
        HeightMapWriter writer(file, 2, 2);
        writer.add(std::array<std::uint16_t, 2>{0, 65535});
        writer.add(std::array<std::uint16_t, 2>{65535, 0});
        ASSERT_FALSE(writer.finish());
    }
    const auto opened = HeightMap::open(file);
    const HeightMap& map = *opened.value();
    EXPECT_DOUBLE_EQ(map.at(0.5, 0), 0.5);
    EXPECT_DOUBLE_EQ(map.at(0.5, 0.5), 0.5);
    EXPECT_DOUBLE_EQ(map.at(0.25, 0.25), 0.375) << "x (1 - z) + z (1 - x), by hand";
    EXPECT_DOUBLE_EQ(map.at(-7, -3), 0);
    EXPECT_DOUBLE_EQ(map.at(100, -3), 1);
}

TEST(HeightMap, WhatIsNoneOrTooShortIsOneSentence)
{
    const test::TempFolder folder;
    EXPECT_FALSE(HeightMap::open(folder / "missing"));
    std::ofstream(folder / "text") << "hello, this is some text";
    EXPECT_NE(HeightMap::open(folder / "text").problem().what.find("is no height map"), std::string::npos);
    EXPECT_FALSE(HeightMap::open(folder.path()));
    write(folder / "a", 300, 300);
    std::filesystem::resize_file(folder / "a", 1000);
    EXPECT_NE(HeightMap::open(folder / "a").problem().what.find("shorter"), std::string::npos);
    {
        HeightMapWriter writer(folder / "b", 4, 4);
        writer.add(std::array<std::uint16_t, 4>{});
        EXPECT_TRUE(writer.finish()) << "rows are missing";
    }
    EXPECT_FALSE(std::filesystem::exists(folder / "b"));
    EXPECT_FALSE(std::filesystem::exists(folder / "b.part"));
}

/// A world of it: the ground is where the map says, in both generators and on coarser levels.
/// Before, the process ended with SIGBUS.
TEST(HeightMap, AFileThatIsCutWhileItIsOpenIsFlatWhereItIsMissing)
{
    const test::TempFolder folder;
    const auto file = folder / "a.heights";
    write(file, 600, 300);
    const auto map = HeightMap::open(file);
    ASSERT_TRUE(map);
    EXPECT_FALSE(HeightMap::isCut());
    std::filesystem::resize_file(file, 8192);
    EXPECT_DOUBLE_EQ(map.value()->at(5, 0), valueAt(5, 0) / 65535.0) << "what is left of the file";
    EXPECT_EQ(map.value()->at(599, 299), 0);
    EXPECT_TRUE(HeightMap::isCut());
    const auto again = HeightMap::open(file);
    ASSERT_FALSE(again);
    EXPECT_NE(sentence(again.problem()).find("shorter than its header says"), std::string::npos);
    EXPECT_DEATH( // by the signal, or by what a sanitizer makes of it
        {
            ::raise(SIGBUS);
            ::raise(SIGBUS);
        },
        "")
        << "what has nothing to do with a height map ends the process as before";
}

TEST(HeightMap, IsTheGroundOfARecipe)
{
    const test::TempFolder folder;
    write(folder / "a.heights", 40, 30);
    auto recipe = test::parseTestRecipe(R"({"format": "fell-recipe", "version": 1, "name": "map", "seed": 1,
        "blocks": "b.json", "height": {"base": 5, "map": {"file": ")"
        + (folder / "a.heights").string() + R"(", "metres_per_pixel": 2, "range": [-10, 60], "at": [7, 3]}},
        "strata": [{"material": "slate"}]})");
    ASSERT_TRUE(recipe) << sentence(recipe.problem());
    const auto terrain = makeTerrain(recipe.take());
    const auto map = HeightMap::open(folder / "a.heights").take();
    for (std::int64_t x = -30; x < 40; x += 7)
        for (std::int64_t z = -30; z < 30; z += 5) {
            const double px = (static_cast<double>(x) + 0.5 - 7) / 2 + 19.5,
                         pz = (static_cast<double>(z) + 0.5 - 3) / 2 + 14.5;
            EXPECT_NEAR(groundHeight(*terrain, x, z), 5 - 10 + 70 * map->at(px, pz), 1e-4) << x << ", " << z;
        }
    for (const int level : {0, 1, 2}) {
        const auto coarse = coarserTerrain(*terrain, level);
        for (const ChunkPos chunk : {ChunkPos{0, 0, 0, level}, ChunkPos{-1, 1, 0, level}})
            EXPECT_EQ(digestOf(generateChunk(*findGenerator("blocks"), *coarse, chunk, 16)),
                digestOf(generateChunk(*findGenerator("samples"), *coarse, chunk, 16)));
    }
    const auto missing = test::parseTestRecipe(R"({"format": "fell-recipe", "version": 1, "name": "map", "seed": 1,
        "blocks": "b.json", "height": {"map": {"file": "/nowhere.heights", "metres_per_pixel": 2, "range": [0, 1]}},
        "strata": [{"material": "slate"}]})");
    ASSERT_FALSE(missing);
    EXPECT_NE(sentence(missing.problem()).find("/height/map/file"), std::string::npos) << sentence(missing.problem());
}

} // namespace
} // namespace fell::height_map_test
