// SPDX-License-Identifier: Apache-2.0
#include <fell/save/world_pack.h>

#include "support/all_names.h"
#include "support/sample_worlds.h"
#include "support/temp_folder.h"
#include <fell/assets/block_set_file.h>
#include <fell/save/world_file.h>
#include <fell/terrain/height_map.h>

#include <SQLiteCpp/SQLiteCpp.h>
#include <nlohmann/json.hpp>

#include <gtest/gtest.h>

namespace fell::world_pack_test {
namespace {

namespace fs = std::filesystem;

WorldHeader headerOf(const Recipe& recipe)
{
    return {recipe.name, recipe.text, recipe.blocks.text, fs::absolute(recipe.blocks.folder).string(), recipe.seed,
        "changed", "cube"};
}

TEST(PackedNames, LeadNowhereElse)
{
    for (const char* good : {"a.png", "blocks/models/rail.obj", "blocks/a b.png"})
        EXPECT_TRUE(isPackedName(good)) << good;
    for (const char* bad : {"", "/etc/passwd", "../a", "a/../b", "a//b", "./a", "a/.", "a\\b", "a\nb"})
        EXPECT_FALSE(isPackedName(bad)) << bad;
    EXPECT_FALSE(isPackedName(std::string(401, 'a')));
    const test::TempFolder folder;
    EXPECT_TRUE(putPacked(folder.path(), "../outside", "x"));
    EXPECT_FALSE(putPacked(folder.path(), "d/inside", "x"));
    EXPECT_TRUE(fs::exists(folder / "d/inside"));
}

TEST(WorldPack, CarriesTheDemosPicturesAndModelsToWhereTheyAreNot)
{
    const test::TempFolder folder;
    fs::copy(demoFolder(), folder / "elsewhere", fs::copy_options::recursive);
    {
        const auto recipe = findWorld("corrowdale", folder / "elsewhere");
        ASSERT_TRUE(recipe);
        ASSERT_TRUE(recipe.value().blocks.warnings.empty());
        ASSERT_TRUE(WorldFile::create(folder / "dale.fell", headerOf(recipe.value())));
    }
    fs::remove_all(folder / "elsewhere"); // as on another machine
    fs::create_directories(folder / "moved/here");
    fs::rename(folder / "dale.fell", folder / "moved/here/dale.fell");
    fs::path unpacked;
    {
        const auto file = WorldFile::open(folder / "moved/here/dale.fell", WorldAccess::Read);
        ASSERT_TRUE(file) << sentence(file.problem());
        const auto recipe = recipeOf(file.value()->header(), "dale.fell");
        ASSERT_TRUE(recipe) << sentence(recipe.problem());
        EXPECT_TRUE(recipe.value().blocks.warnings.empty()) << sentence(recipe.value().blocks.warnings[0]);
        unpacked = recipe.value().blocks.folder;
        std::size_t pictures = 0, models = 0;
        for (const BlockKind& kind : recipe.value().blocks.kinds) {
            models += kind.shape && kind.shapeName.find('.') != std::string::npos;
            for (const std::string& texture : kind.textures)
                if (!texture.empty())
                    pictures += fs::is_regular_file(unpacked / texture);
        }
        EXPECT_GT(pictures, 3u);
        EXPECT_GT(models, 3u);
        // Packed again from where it was unpacked, it is still whole.
        ASSERT_TRUE(WorldFile::create(folder / "again.fell", file.value()->header()));
        EXPECT_EQ(WorldFile::open(folder / "again.fell").value()->packed().value().size(),
            file.value()->packed().value().size());
    }
    EXPECT_FALSE(fs::exists(unpacked)) << "it goes with the last who uses it";
}

/// A world of heights whose map lies next to it.
struct HeightsWorld {
    test::TempFolder folder;
    WorldHeader header;
    HeightsWorld()
    {
        fs::create_directories(folder / "maps");
        HeightMapWriter writer(folder / "maps/dem.heights", 2, 2);
        for (int row = 0; row < 2; ++row)
            writer.add(std::vector<std::uint16_t>{0, 65535});
        EXPECT_FALSE(writer.finish());
        Recipe recipe = findWorld("level", demoFolder()).take();
        header = headerOf(recipe);
        header.recipe = R"({"format": "fell-recipe", "version": 2, "name": "dem", "seed": 1, "voxel_metres": 1,
            "blocks": "blocks.json", "height": {"base": 0, "map": {"file": ")"
            + (folder / "maps/dem.heights").string() + R"(", "metres_per_pixel": 1, "range": [0, 50]}},
            "strata": [{"material": ")"
            + recipe.blocks.kinds.at(1).name + R"("}]})";
    }
};

TEST(WorldPack, AMapBesideTheFileIsNamedFromItAndMovesWithIt)
{
    HeightsWorld world;
    ASSERT_TRUE(WorldFile::create(world.folder / "w.fell", world.header));
    SQLite::Database base((world.folder / "w.fell").string());
    EXPECT_NE(base.execAndGet("SELECT value FROM header WHERE key = 'recipe'").getString().find("\"maps/dem.heights\""),
        std::string::npos);
    EXPECT_EQ(base.execAndGet("SELECT count(*) FROM document").getInt(), 0);
    fs::create_directories(world.folder / "b");
    fs::rename(world.folder / "w.fell", world.folder / "b/w.fell");
    EXPECT_FALSE(recipeOf(WorldFile::open(world.folder / "b/w.fell").value()->header(), "w"))
        << "the map stayed behind";
    fs::rename(world.folder / "maps", world.folder / "b/maps");
    const auto recipe = recipeOf(WorldFile::open(world.folder / "b/w.fell").value()->header(), "w");
    ASSERT_TRUE(recipe) << sentence(recipe.problem());
    EXPECT_TRUE(recipe.value().map);
}

TEST(WorldPack, AMapElsewhereOrOneThatIsToBePackedGoesIntoTheFile)
{
    HeightsWorld world;
    fs::create_directories(world.folder / "b");
    ASSERT_TRUE(WorldFile::create(world.folder / "b/w.fell", world.header)) << "the map is in no folder below b";
    {
        auto draft = WorldFile::createDraft(world.folder / "p.fell", world.header, true);
        ASSERT_TRUE(draft);
        ASSERT_FALSE(draft.value()->publish());
    }
    fs::remove_all(world.folder / "maps");
    for (const char* name : {"b/w.fell", "p.fell"}) {
        const auto file = WorldFile::open(world.folder / name, WorldAccess::Read);
        ASSERT_TRUE(file) << sentence(file.problem());
        EXPECT_EQ(file.value()->packed().value().size(), 1u);
        const auto recipe = recipeOf(file.value()->header(), name);
        ASSERT_TRUE(recipe) << sentence(recipe.problem());
        EXPECT_TRUE(recipe.value().map);
    }
}

TEST(WorldPack, AFileThatLeadsOutOfItsFolderIsRefused)
{
    HeightsWorld world;
    ASSERT_TRUE(WorldFile::create(world.folder / "w.fell", world.header));
    const auto change = [&](const std::string& from, const std::string& to) {
        SQLite::Database base((world.folder / "w.fell").string(), SQLite::OPEN_READWRITE);
        SQLite::Statement put(base, "UPDATE header SET value = replace(value, ?, ?) WHERE key = 'recipe'");
        put.bind(1, from);
        put.bind(2, to);
        put.exec();
    };
    for (const char* outside : {"../../../etc/passwd", "/etc/passwd"}) {
        change("maps/dem.heights", outside);
        const auto opened = WorldFile::open(world.folder / "w.fell");
        ASSERT_FALSE(opened) << outside;
        EXPECT_NE(sentence(opened.problem()).find("outside of the world's folder"), std::string::npos);
        change(outside, "maps/dem.heights");
    }
    // A packed file whose name leads elsewhere, and one that is no compressed file.
    const auto add = [&](const std::string& name, const std::string& content) {
        SQLite::Database base((world.folder / "w.fell").string(), SQLite::OPEN_READWRITE);
        SQLite::Statement put(base, "INSERT OR REPLACE INTO document(kind, name, json) VALUES('file', ?, ?)");
        put.bind(1, name);
        put.bind(2, content.data(), static_cast<int>(content.size()));
        put.exec();
    };
    add("../../evil", "not compressed");
    ASSERT_FALSE(WorldFile::open(world.folder / "w.fell"));
    EXPECT_FALSE(fs::exists(world.folder.path().parent_path() / "evil"));
}

TEST(WorldPack, TexturesOutsideOfTheWorldAreNotRead)
{
    const test::TempFolder folder;
    std::ofstream(folder / "secret.png") << "x";
    fs::create_directories(folder / "world");
    const std::string json = R"({"format": "fell-blocks", "version": 1, "blocks": [
        {"name": "stone", "top": "#808080", "side": "#808080", "bottom": "#808080", "textures": {"side": "../secret.png"}},
        {"name": "thing", "top": "#808080", "side": "#808080", "bottom": "#808080", "shape": "../secret.obj"}]})";
    const auto trusted = parseBlockSet(json, "b", folder / "world");
    ASSERT_TRUE(trusted) << sentence(trusted.problem());
    EXPECT_EQ(trusted.value().kinds[1].textures[1], "../secret.png");
    const auto foreign = parseBlockSet(json, "b", folder / "world", folder / "world");
    ASSERT_TRUE(foreign);
    EXPECT_TRUE(foreign.value().kinds[1].textures[1].empty());
    std::size_t outside = 0;
    for (const Problem& warning : foreign.value().warnings)
        outside += sentence(warning).find("outside of the world's folder") != std::string::npos;
    EXPECT_EQ(outside, 4u) << "three sides of a block, and a model";
}

} // namespace
} // namespace fell::world_pack_test
