// SPDX-License-Identifier: Apache-2.0
#include <fell/assets/shape_file.h>

#include "support/all_names.h"
#include "support/temp_folder.h"
#include <fell/assets/block_set_file.h>
#include <fell/demo/demo_folder.h>

#include <gtest/gtest.h>

#include <bit>

#include <glm/geometric.hpp>

namespace fell::shape_file_test {
namespace {

Coverage on(const BlockShape& shape, Side side)
{
    return shape.covers[static_cast<std::size_t>(side)];
}

TEST(ShapeFile, ReadsTheDemoModels)
{
    for (const char* name : {"cairn.gltf", "miners-lantern.gltf", "lantern-post.gltf", "drystone-wall.obj",
             "slate-wagon.obj", "tramway.obj"}) {
        const auto shape = loadShape(demoFolder() / "models" / name);
        ASSERT_TRUE(shape) << sentence(shape.problem());
        EXPECT_GT(shape.value().triangles.size(), 20u) << name;
        EXPECT_TRUE(shape.value().triangles[0].colour) << name;
        EXPECT_NE(shape.value().triangles[0].colour, (Rgb{0x9A, 0x9C, 0x98})) << name << ": its own colours are read";
    }
    // The wall's base fills the floor of its voxel.
    EXPECT_EQ(on(loadShape(demoFolder() / "models/drystone-wall.obj").value(), Side::Down), kCoversAll);
}

TEST(ShapeFile, PutsAnObjTriangleWhereItSays)
{
    const test::TempFolder folder;
    (void)folder.write("m.mtl", "newmtl red\nKd 1 0 0\n");
    const auto file
        = folder.write("one.obj", "mtllib m.mtl\nv -0.5 0 -0.5\nv -0.5 0 0.5\nv 0.5 1 0\nusemtl red\nf 1 2 3\n");
    const auto shape = loadShape(file);
    ASSERT_TRUE(shape) << sentence(shape.problem());
    ASSERT_EQ(shape.value().triangles.size(), 1u);
    EXPECT_EQ(shape.value().triangles[0].corners[0], glm::vec3(0, 0, 0));
    EXPECT_EQ(shape.value().triangles[0].corners[2], glm::vec3(1, 1, 0.5F));
    EXPECT_EQ(shape.value().triangles[0].colour, (Rgb{255, 0, 0}));
}

TEST(ShapeFile, SaysWhatIsWrongInOneSentence)
{
    const test::TempFolder folder;
    (void)folder.write("m.mtl", "");
    const std::pair<std::filesystem::path, const char*> wrong[]{{folder / "none.gltf", "there is no such model"},
        {folder.write("a.txt", ""), "allowed are .gltf, .glb or .obj"},
        {folder.write("b.gltf", "{"), "is no glTF 2.0 model"},
        {folder.write("c.obj", "v 0 0 0\n"), "holds no triangle"},
        {folder.write("d.obj", "v 0 0 0\nv 1 0 0\nv 0 99 0\nf 1 2 3\n"), "reaches farther than 8 voxels"},
        {folder.write("e.gltf", R"({"asset": {"version": "2.0"}, "scenes": [{"nodes": [0]}], "nodes": [{"mesh": 7}]})"),
            "it refers to data that it does not hold"}};
    for (const auto& [file, part] : wrong) {
        const auto shape = loadShape(file);
        ASSERT_FALSE(shape) << file;
        const std::string text = sentence(shape.problem());
        EXPECT_NE(text.find(part), std::string::npos) << text;
        EXPECT_EQ(text.find('\n'), std::string::npos) << text;
    }
}

TEST(BlockSet, NumbersFullSolidCubesFirstAndTurnsFourTimes)
{
    const auto set = parseBlockSet(R"({"format": "fell-blocks", "version": 1, "blocks": [
        {"name": "glass", "matter": "see-through", "side": "#FFFFFF"},
        {"name": "slate", "side": "#5F6773"},
        {"name": "ramp", "shape": "slope", "turns": true, "side": "#5F6773"},
        {"name": "water", "matter": "liquid", "opacity": 0.7, "side": "#4A6C7C"},
        {"name": "turf", "side": "#7A8458"}]})",
        "f");
    ASSERT_TRUE(set) << sentence(set.problem());
    std::vector<std::string> names;
    for (const BlockKind& kind : set.value().kinds)
        names.push_back(kind.name);
    EXPECT_EQ(names,
        (std::vector<std::string>{
            "open", "slate", "turf", "glass", "ramp", "ramp-90", "ramp-180", "ramp-270", "water"}));
    EXPECT_EQ(set.value().kinds[6].turn, 2);
    EXPECT_TRUE(isStoodOn(set.value().kinds[1]));
    EXPECT_TRUE(isStoodOn(set.value().kinds[3]));
    EXPECT_FALSE(isStoodOn(set.value().kinds[8])) << "liquids are not stood on";
    EXPECT_FALSE(isStoodOn(set.value().kinds[0]));
}

TEST(BlockSet, AMissingModelIsToldAndAStandInTakesItsPlace)
{
    const test::TempFolder folder;
    const std::string text = R"({"format": "fell-blocks", "version": 1, "blocks": [
        {"name": "slate", "side": "#5F6773"}, {"name": "cart", "shape": "gone.gltf", "side": "#5F6773"}]})";
    const auto set = parseBlockSet(text, "f", folder.path());
    ASSERT_TRUE(set);
    ASSERT_EQ(set.value().warnings.size(), 1u);
    EXPECT_NE(sentence(set.value().warnings[0]).find("gone.gltf"), std::string::npos);
    ASSERT_TRUE(set.value().kinds[2].shape);
    EXPECT_EQ(set.value().kinds[2].shape->triangles.size(), standInShape().triangles.size());
}

} // namespace
} // namespace fell::shape_file_test
