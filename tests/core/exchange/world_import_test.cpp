// SPDX-License-Identifier: Apache-2.0
// Heights and volumes become worlds: every voxel of what comes out against the file that went in.
#include <fell/exchange/world_import.h>

#include "support/all_names.h"
#include "support/make_png.h"
#include "support/sample_worlds.h"
#include "support/temp_folder.h"
#include <fell/save/changes.h>
#include <fell/save/world_file.h>

#include <gtest/gtest.h>

#include <cmath>
#include <functional>

namespace fell::world_import_test {
namespace {

namespace fs = std::filesystem;

class WorldImport : public ::testing::Test {
protected:
    /// A volume of bytes, x fastest, each by a function of its place.
    void makeVolume(int nx, int ny, int nz, const std::function<int(int, int, int)>& at)
    {
        std::string bytes;
        for (int z = 0; z < nz; ++z)
            for (int y = 0; y < ny; ++y)
                for (int x = 0; x < nx; ++x)
                    bytes += static_cast<char>(at(x, y, z));
        std::ofstream(folder / "v.nrrd", std::ios::binary)
            << "NRRD0004\ntype: uint8\ndimension: 3\nsizes: " << nx << " " << ny << " " << nz << "\nencoding: raw\n\n"
            << bytes;
    }

    [[nodiscard]] ImportSpec spec(const char* in) const
    {
        ImportSpec out;
        out.in = folder / in;
        out.out = folder / "w.fell";
        out.like = findWorld("level", demoFolder()).take();
        return out;
    }

    /// What the file says was changed.
    [[nodiscard]] std::unique_ptr<WorldChanges> changesOf(const fs::path& file) const
    {
        auto opened = WorldFile::open(file, WorldAccess::Read);
        EXPECT_TRUE(opened) << sentence(opened.problem());
        auto out = std::make_unique<WorldChanges>();
        out->replaceAll(changesFrom(opened.value()->load().take().chunks));
        return out;
    }

    /// The files of the folder but those that went in.
    [[nodiscard]] std::vector<std::string> left() const
    {
        std::vector<std::string> out;
        for (const auto& entry : fs::directory_iterator(folder.path()))
            if (const std::string name = entry.path().filename(); name != "v.nrrd" && name != "h.png")
                out.push_back(name);
        return out;
    }

    test::TempFolder folder;
};

TEST_F(WorldImport, AVolumeIsThereVoxelByVoxelWhereItWasPut)
{
    const auto value = [](int x, int y, int z) { return (x * 7 + y * 3 + z * 11) % 256; };
    makeVolume(37, 20, 41, value);
    ImportSpec with = spec("v.nrrd");
    with.threshold = 100;
    with.at = {-50, 1000, 12345};
    const auto made = importWorld(with);
    ASSERT_TRUE(made) << sentence(made.problem());
    EXPECT_EQ(made.value().size, (std::array<std::int64_t, 3>{37, 20, 41}));
    EXPECT_EQ(made.value().type, "uint8");
    EXPECT_EQ(made.value().bytes, fs::file_size(with.out));
    const auto changes = changesOf(with.out);
    std::uint64_t solid = 0;
    for (int z = 0; z < 41; ++z)
        for (int y = 0; y < 20; ++y)
            for (int x = 0; x < 37; ++x) {
                const auto there = changes->at(with.at + VoxelPos{x, y, z});
                const bool isSolid = value(x, y, z) > 100;
                ASSERT_EQ(there.value_or(kOpen) != kOpen, isSolid) << x << ", " << y << ", " << z;
                solid += isSolid;
            }
    EXPECT_EQ(made.value().voxels, solid);
    EXPECT_EQ(changes->voxels(), solid) << "and nothing else";
}

TEST_F(WorldImport, NumbersBecomeTheBlocksThatTheTableNames)
{
    makeVolume(9, 9, 9, [](int x, int, int) { return x % 3; });
    ImportSpec with = spec("v.nrrd");
    with.ids = {{2, 1}};
    ASSERT_TRUE(importWorld(with));
    const auto changes = changesOf(with.out);
    for (int x = 0; x < 9; ++x)
        EXPECT_EQ(changes->at({x, 4, 4}).value_or(kOpen), x % 3 == 2 ? 1 : kOpen) << x;
}

TEST_F(WorldImport, NothingIsLeftWhereItWasRefusedOrStopped)
{
    makeVolume(64, 64, 64, [](int, int, int) { return 1; });
    const auto problemOf = [](const auto& outcome) { return outcome ? std::string() : sentence(outcome.problem()); };
    ImportSpec with = spec("v.nrrd");
    with.threshold = 5;
    EXPECT_NE(problemOf(importWorld(with)).find("none of its 262144 voxels"), std::string::npos);
    with.threshold = std::nan("");
    EXPECT_NE(problemOf(importWorld(with)).find("not a number"), std::string::npos);
    with.threshold = 0.5;
    with.at = {2'000'000'000, 0, 0};
    EXPECT_NE(problemOf(importWorld(with)).find("1000000000 voxels"), std::string::npos);
    with.at = {};
    with.material = "nosuch";
    EXPECT_NE(problemOf(importWorld(with)).find("no block kind"), std::string::npos);
    with.material.clear();
    int asked = 0;
    EXPECT_FALSE(importWorld(with, [&asked](double share) {
        EXPECT_GE(share, 0);
        EXPECT_LE(share, 1);
        return ++asked < 2;
    }));
    EXPECT_EQ(left(), std::vector<std::string>{}) << "no half a world, no draft";
    ASSERT_TRUE(importWorld(with));
    EXPECT_NE(problemOf(importWorld(with)).find("is there already"), std::string::npos);
    with.in = folder / "x.txt";
    EXPECT_NE(problemOf(importWorld(with)).find("neither a height map"), std::string::npos);
}

TEST_F(WorldImport, HeightsLieAsFarApartAndAsHighAsWasSaid)
{
    // A slope towards the east: 0, 10, ... 250 over 26 pixels of 4 m.
    test::makePng(folder / "h.png", "8", 26, 16, "x * 10");
    ImportSpec with = spec("h.png");
    with.metresPerPixel = 4;
    with.heights = {100, 355}; // so that a grey level is a metre
    const auto made = importWorld(with);
    ASSERT_TRUE(made) << sentence(made.problem());
    EXPECT_EQ(made.value().size, (std::array<std::int64_t, 3>{26, 1, 16}));
    const auto opened = WorldFile::open(with.out, WorldAccess::Read);
    ASSERT_TRUE(opened);
    const auto recipe = recipeOf(opened.value()->header(), "w");
    ASSERT_TRUE(recipe) << sentence(recipe.problem());
    const auto terrain = makeTerrain(recipe.value());
    const double voxel = recipe.value().voxelMetres;
    // 10 m up for each 4 m east, within the map; the middle of the map is the origin.
    for (const double east : {-40.0, -20.0, 0.0, 20.0, 40.0}) {
        const auto x = static_cast<std::int64_t>(east / voxel);
        const double height = groundHeight(*terrain, x, 0) * voxel;
        const double pixel = east / 4 + 12.5;
        EXPECT_NEAR(height, 100 + pixel * 10, 6) << east << " m east";
    }
    EXPECT_LT(groundHeight(*terrain, static_cast<std::int64_t>(-20 / voxel), 0),
        groundHeight(*terrain, static_cast<std::int64_t>(20 / voxel), 0));
}

TEST_F(WorldImport, HeightsOutOfRangeLeaveNothing)
{
    test::makePng(folder / "h.png", "8", 8, 8, "x");
    for (const auto& [low, high] : {std::pair{5.0, 5.0}, {10.0, 0.0}, {-30000.0, 5.0}, {0.0, std::nan("")}}) {
        ImportSpec with = spec("h.png");
        with.heights = {low, high};
        const auto made = importWorld(with);
        ASSERT_FALSE(made);
        EXPECT_NE(sentence(made.problem()).find("the first below the second"), std::string::npos);
    }
    ImportSpec with = spec("h.png");
    with.metresPerPixel = 0;
    EXPECT_FALSE(importWorld(with));
    EXPECT_EQ(left(), std::vector<std::string>{});
}

TEST(ImportKind, IsSaidByTheEndingWhateverItsCase)
{
    EXPECT_EQ(importKindOf("a.png"), ImportKind::Heights);
    EXPECT_EQ(importKindOf("a.b.PNG"), ImportKind::Heights);
    EXPECT_EQ(importKindOf("scan.Nrrd"), ImportKind::Volume);
    EXPECT_EQ(importKindOf("scan.nrrd.gz"), std::nullopt);
    EXPECT_EQ(importKindOf("png"), std::nullopt);
    EXPECT_EQ(importKindOf("mine.chunks"), ImportKind::Chunks);
    EXPECT_EQ(importKindOf("-"), ImportKind::Chunks);
    EXPECT_EQ(importKindOf("a/fell-chunks.json"), ImportKind::Chunks);
}

} // namespace
} // namespace fell::world_import_test
