// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/block_editor.h>

#include "support/all_names.h"
#include "support/temp_folder.h"
#include <fell/app/models/world_session.h>
#include <fell/assets/block_set_file.h>
#include <fell/terrain/generate.h>

#include <QImage>
#include <gtest/gtest.h>

namespace fell::block_editor_test {
namespace {

class BlockEditorTest : public ::testing::Test {
protected:
    BlockEditorTest()
        : terrain(makeTerrain(findWorld("corrowdale", demoFolder()).take()))
    {
        editor.begin(terrain->recipe.blocks);
    }
    Material named(const char* name) const { return *findMaterial(editor.set(), name); }

    std::shared_ptr<const Terrain> terrain;
    BlockEditor editor;
};

TEST_F(BlockEditorTest, EveryKindHasItsEntryAndTurnedOnesTheirBlocks)
{
    const auto& kinds = editor.set().kinds;
    EXPECT_FALSE(editor.entryOf(kOpen));
    for (std::size_t m = 1; m < kinds.size(); ++m) {
        const auto entry = editor.entryOf(static_cast<Material>(m));
        ASSERT_TRUE(entry) << kinds[m].name;
        EXPECT_EQ(kinds[m].name.rfind(editor.document()["blocks"][*entry]["name"].get<std::string>(), 0), 0u)
            << kinds[m].name;
    }
    EXPECT_EQ(editor.entryOf(named("slate-slope")), editor.entryOf(named("slate-slope-90")));
    EXPECT_NE(editor.entryOf(named("slate")), editor.entryOf(named("slate-blue")));
}

TEST_F(BlockEditorTest, ChangesAreReadUndoneAndRefusedWithTheReadersSentence)
{
    const Material turf = named("turf");
    EXPECT_FALSE(editor.change(turf, "/light/gives", {3, 2, 1}));
    EXPECT_EQ(editor.set().kinds[turf].light.emission, (std::array<std::uint8_t, 3>{3, 2, 1}));
    EXPECT_TRUE(editor.isChanged());
    const auto wrong = editor.change(turf, "/light/opacity", 16);
    ASSERT_TRUE(wrong);
    EXPECT_TRUE(wrong->contains("/light/opacity")) << wrong->toStdString();
    EXPECT_TRUE(editor.change(turf, "/top", "green")) << "no colour";
    editor.undo();
    EXPECT_FALSE(editor.canUndo());
    EXPECT_EQ(editor.set().kinds[turf].light.emission, (std::array<std::uint8_t, 3>{}));
    editor.redo();
    EXPECT_EQ(editor.set().kinds[turf].light.emission[0], 3);
    EXPECT_TRUE(editor.addLike(turf, "turf")) << "the name is taken";
    EXPECT_FALSE(editor.addLike(turf, "turf-2"));
    EXPECT_EQ(editor.set().kinds[named("turf-2")].light.emission[0], 3);
}

TEST_F(BlockEditorTest, SaysWhatToBewareOf)
{
    for (std::size_t m = 1; m < editor.set().kinds.size(); ++m)
        EXPECT_TRUE(editor.findingsOf(static_cast<Material>(m)).isEmpty())
            << editor.set().kinds[m].name << ": "
            << editor.findingsOf(static_cast<Material>(m)).join(' ').toStdString();
    const auto says = [&](const char* words) { return editor.findingsOf(named("slate")).join(' ').contains(words); };
    EXPECT_FALSE(editor.change(named("slate"), "/light/gives", {9, 9, 9}));
    EXPECT_TRUE(says("A lamp that takes all light"));
    EXPECT_FALSE(editor.change(named("slate"), "/light/opacity", 3));
    EXPECT_TRUE(says("A solid cube that light passes"));
    EXPECT_FALSE(editor.change(named("slate"), "/matter", "see-through"));
    EXPECT_FALSE(editor.change(named("slate"), "/opacity", 1));
    EXPECT_TRUE(says("hides what is behind"));
    EXPECT_FALSE(editor.change(named("slate"), "/textures/side", "textures/missing.png"));
    EXPECT_TRUE(says("There is no"));
}

TEST_F(BlockEditorTest, IsSavedAsASetThatOpensAsTheSame)
{
    const test::TempFolder folder;
    EXPECT_FALSE(editor.change(named("turf"), "/grain", 0.3));
    ASSERT_FALSE(editor.save(folder / "mine.json"));
    EXPECT_FALSE(editor.isChanged());
    const auto again = parseBlockSet(test::textOf(folder / "mine.json"), "mine.json", folder.path());
    ASSERT_TRUE(again) << sentence(again.problem());
    ASSERT_EQ(again.value().kinds.size(), editor.set().kinds.size());
    EXPECT_TRUE(again.value().warnings.empty()) << "models are found";
    for (std::size_t m = 1; m < editor.set().kinds.size(); ++m) {
        const BlockKind &one = again.value().kinds[m], &two = editor.set().kinds[m];
        EXPECT_EQ(one.name, two.name);
        EXPECT_EQ(one.grain, two.grain);
        EXPECT_EQ(one.light.opacity, two.light.opacity);
        if (!one.textures[1].empty()) {
            EXPECT_EQ(one.textures[1].rfind("textures/", 0), 0u) << one.textures[1];
            EXPECT_TRUE(std::filesystem::exists(folder.path() / one.textures[1])) << one.textures[1];
        }
    }
    EXPECT_TRUE(editor.save("/proc/nowhere/mine.json"));
}

TEST_F(BlockEditorTest, PicturesComeAlongAsPngAndNoOtherIsLost)
{
    const test::TempFolder folder, elsewhere;
    const auto painted = [&](const char* name, QRgb colour) {
        QImage picture(16, 16, QImage::Format_RGB32);
        picture.fill(colour);
        const std::string file = (elsewhere / name).string();
        EXPECT_TRUE(picture.save(QString::fromStdString(file)));
        return file;
    };
    EXPECT_FALSE(editor.change(named("turf"), "/textures/side", painted("moss.bmp", 0xFF336633)));
    EXPECT_FALSE(editor.change(named("scree"), "/textures/side", painted("moss.png", 0xFF993333)));
    for (int i = 0; i < 2; ++i) // the second time they are there
        ASSERT_FALSE(editor.save(folder / "mine.json"));
    const auto again = parseBlockSet(test::textOf(folder / "mine.json"), "mine.json", folder.path());
    ASSERT_TRUE(again);
    const auto colourOf = [&](const char* kind) {
        const std::string name = again.value().kinds[*findMaterial(again.value(), kind)].textures[1];
        EXPECT_TRUE(QString::fromStdString(name).endsWith(".png")) << name;
        return QImage(QString::fromStdString((folder.path() / name).string())).pixel(3, 3);
    };
    EXPECT_EQ(colourOf("turf"), 0xFF336633);
    EXPECT_EQ(colourOf("scree"), 0xFF993333);
    int moss = 0;
    for (const auto& file : std::filesystem::directory_iterator(folder / "textures"))
        moss += file.path().filename().string().rfind("moss", 0) == 0;
    EXPECT_EQ(moss, 2);
}

/// A cube that becomes glass changes the numbers of others: recipe and edits go by names.
TEST_F(BlockEditorTest, TheSameWorldOfOtherBlocksGoesByNames)
{
    WorldChanges changes;
    const VoxelChange edits[]{{{3, 70, 3}, kOpen, named("turf")}, {{4, 70, 3}, kOpen, named("scree")}};
    changes.set(edits);
    EXPECT_FALSE(editor.change(named("slate"), "/matter", "see-through"));
    ASSERT_NE(named("turf"), *findMaterial(terrain->recipe.blocks, "turf")) << "the numbers have moved";
    const auto other = withBlocks(*terrain, changes, editor.set());
    ASSERT_TRUE(other) << sentence(other.problem());
    EXPECT_EQ(other.value().changes->voxels(), 2u);
    EXPECT_EQ(other.value().changes->unsaved(), 1u) << "a chunk that is in no file with these blocks";
    std::vector<Material> voxels(std::size_t{32} * 32 * 32);
    other.value().changes->apply(chunkOf({3, 70, 3}, 32), 32, voxels);
    EXPECT_EQ(voxels[(6 * 32 + 3) * 32 + 3], named("turf"));
    EXPECT_EQ(voxels[(6 * 32 + 3) * 32 + 4], named("scree"));
    const auto nameAt = [](const Terrain& of, int x, int y, int z) {
        const ChunkPos chunk = chunkOf({x, y, z}, 32);
        const VoxelPos in = VoxelPos{x, y, z} - originOf(chunk, 32);
        return of.recipe.blocks
            .kinds[generateChunk(*findGenerator("blocks"), of, chunk, 32)
                       .at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z))]
            .name;
    };
    for (int i = 0; i < 12; ++i)
        EXPECT_EQ(nameAt(*terrain, i * 7, 8 + i, 40), nameAt(*other.value().terrain, i * 7, 8 + i, 40)) << i;
    EXPECT_EQ(other.value().lost, 0u);
    ASSERT_FALSE(editor.addLike(named("slate"), "slate-2").has_value());
    const auto added = withBlocks(*terrain, changes, editor.set());
    const VoxelChange built[]{{{3, 71, 3}, kOpen, named("slate-2")}, {{4, 71, 3}, kOpen, named("turf")}};
    added.value().changes->set(built);
    editor.undo();
    const auto gone = withBlocks(*added.value().terrain, *added.value().changes, editor.set());
    ASSERT_TRUE(gone);
    EXPECT_EQ(gone.value().lost, 1u) << "the voxel of slate-2 is open air";
    EXPECT_EQ(gone.value().gone, std::vector<std::string>{"slate-2"});
    BlockSet few = editor.set();
    few.kinds.resize(3);
    EXPECT_FALSE(withBlocks(*terrain, changes, few)) << "the recipe wants what is gone";
}

} // namespace
} // namespace fell::block_editor_test
