// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/temp_folder.h"
#include <fell/assets/block_set_file.h>
#include <fell/demo/demo_folder.h>
#include <fell/gpu/mesh_store.h>
#include <fell/gpu/textures.h>

#include <gtest/gtest.h>

#include <random>
#include <set>

namespace fell::mesh_store_test {
namespace {

TEST(PieceStore, PiecesNeverOverlapAndTheWordsAgreeWithThem)
{
    constexpr std::uint32_t kPage = 7;
    PieceStore store(1000, kPage); // 142 pages a slab
    std::mt19937 dice(5);
    std::vector<StorePiece> held;
    std::set<std::pair<std::uint32_t, std::uint32_t>> used; // slab, element: whole pages
    const auto whole = [&](const StorePiece& piece) { return (piece.count + kPage - 1) / kPage * kPage; };
    for (int step = 0; step < 6000; ++step) {
        if (held.empty() || dice() % 9 < 5) {
            const auto taken = store.take(1 + dice() % 90);
            EXPECT_EQ(taken.piece.first % kPage, 0u);
            for (std::uint32_t i = 0; i < whole(taken.piece); ++i)
                ASSERT_TRUE(used.insert({taken.piece.slab, taken.piece.first + i}).second);
            held.push_back(taken.piece);
        } else {
            std::swap(held[dice() % held.size()], held.back());
            for (std::uint32_t i = 0; i < whole(held.back()); ++i)
                used.erase({held.back().slab, held.back().first + i});
            store.release(held.back());
            held.pop_back();
        }
        if (step % 500 == 0) { // the slow way: runs of free elements, slab by slab
            std::uint64_t longest = 0, pages = 0;
            for (std::uint32_t slab = 0; slab < store.slabs(); ++slab) {
                pages += store.pagesOf(slab);
                for (std::uint64_t page = 0, run = 0; page < store.pagesOf(slab); ++page) {
                    run = used.contains({slab, static_cast<std::uint32_t>(page * kPage)}) ? 0 : run + 1;
                    longest = std::max(longest, run);
                }
            }
            const StoreFill fill = store.fill();
            EXPECT_EQ(fill.used * kPage, used.size());
            EXPECT_EQ(fill.pages, pages);
            EXPECT_EQ(fill.longestFree, longest);
        }
    }
    std::set<std::uint32_t> slabs;
    for (const StorePiece& piece : held)
        slabs.insert(piece.slab);
    std::size_t gone = 0;
    for (const StorePiece& piece : held)
        gone += store.release(piece);
    EXPECT_EQ(gone, slabs.size()) << "a slab is gone once, with its last piece";
    EXPECT_EQ(store.fill().pages, 0u);
}

TEST(PieceStore, FreePagesBesideEachOtherAreOneRunAtOnce)
{
    PieceStore store(200); // pages of one element
    const auto a = store.take(70).piece, b = store.take(60).piece, c = store.take(70).piece;
    EXPECT_EQ(store.fill().longestFree, 0u);
    EXPECT_EQ(store.fill().fragmentation(), 0);
    store.release(a);
    store.release(c);
    EXPECT_EQ(store.fill().longestFree, 70u);
    EXPECT_EQ(store.fill().fragmentation(), 0.5);
    store.take(1);
    store.release(b);
    EXPECT_EQ(store.fill().longestFree, 199u) << "across word borders";
    EXPECT_EQ(store.take(199).newSlab, std::nullopt);
}

TEST(PieceStore, SlabsMadeAheadStayWhenTheyAreEmpty)
{
    PieceStore store(100);
    EXPECT_EQ(store.addAhead(), 0u);
    EXPECT_EQ(store.addAhead(), 1u);
    const auto a = store.take(90), b = store.take(90), c = store.take(90);
    EXPECT_EQ(a.newSlab, std::nullopt);
    EXPECT_EQ(b.newSlab, std::nullopt);
    EXPECT_EQ(c.newSlab, 100u);
    EXPECT_TRUE(store.release(a.piece)) << "three are held, two are kept";
    EXPECT_FALSE(store.release(b.piece));
    EXPECT_FALSE(store.release(c.piece));
    EXPECT_EQ(store.fill().slabs, 2u);
    EXPECT_EQ(store.fill().used, 0u);
}

TEST(PieceStore, GrowsInStepsAndGivesALargeRequestASlabOfItsOwn)
{
    PieceStore arena(100), each(0);
    EXPECT_EQ(arena.take(250).newSlab, 250u);
    EXPECT_EQ(arena.take(40).newSlab, 100u);
    EXPECT_EQ(arena.take(60).newSlab, std::nullopt);
    EXPECT_EQ(arena.take(1).newSlab, 100u);
    EXPECT_EQ(arena.fill().slabs, 3u);
    const auto a = each.take(7), b = each.take(7);
    EXPECT_EQ(a.newSlab, 7u);
    EXPECT_NE(a.piece.slab, b.piece.slab);
    EXPECT_TRUE(each.release(a.piece));
    EXPECT_EQ(each.take(3).piece.slab, a.piece.slab) << "its number is used again";
}

TEST(Textures, OfCorrowdaleAreAllRead)
{
    const auto text = [] {
        std::ifstream file(demoFolder() / "corrowdale/blocks.json");
        return std::string{std::istreambuf_iterator<char>(file), {}};
    }();
    const auto blocks = parseBlockSet(text, "blocks.json", demoFolder() / "corrowdale");
    ASSERT_TRUE(blocks);
    EXPECT_TRUE(blocks.value().warnings.empty());
    const TextureLayers layers = loadTextures(blocks.value());
    EXPECT_TRUE(layers.warnings.empty()) << sentence(layers.warnings[0]);
    EXPECT_EQ(layers.pixels.size(), static_cast<std::size_t>(layers.count) * 32 * 32 * 4);
    EXPECT_GT(layers.count, 50);
    const Material turf = *findMaterial(blocks.value(), "turf");
    EXPECT_NE(layers.layerOf[turf][0], layers.layerOf[turf][1]);
}

TEST(Textures, AFileIsReadAgainOnlyWhereItHasChanged)
{
    const test::TempFolder folder;
    namespace fs = std::filesystem;
    const fs::path demo = demoFolder() / "corrowdale/textures", mine = folder / "a.png";
    fs::copy_file(demo / "bracken-bottom.png", mine);
    BlockSet blocks;
    blocks.folder = folder.path();
    blocks.kinds.push_back({.name = "slate", .side = {1, 2, 3}});
    blocks.kinds[1].textures = {"a.png", "a.png", "a.png"};
    ReadPictures known;
    const TextureLayers first = loadTextures(blocks, INT_MAX, &known);
    blocks.kinds[1].grain = 0.5F;
    blocks.kinds[1].side = {9, 9, 9}; // as when a colour is dragged
    for (int i = 0; i < 10; ++i)
        EXPECT_EQ(loadTextures(blocks, INT_MAX, &known).pixels, first.pixels);
    EXPECT_EQ(known.reads, 1u);
    fs::copy_file(demo / "bracken-side.png", mine, fs::copy_options::overwrite_existing);
    fs::last_write_time(mine, fs::file_time_type::clock::now() + std::chrono::seconds(5));
    EXPECT_NE(loadTextures(blocks, INT_MAX, &known).pixels, first.pixels) << "it was painted over";
    EXPECT_EQ(known.reads, 2u);
    fs::remove(mine);
    EXPECT_EQ(loadTextures(blocks, INT_MAX, &known).warnings.size(), 1u);
}

TEST(Textures, ABrokenFileIsToldAndTheColourStandsIn)
{
    const test::TempFolder folder;
    (void)folder.write("broken.png", "no picture");
    BlockSet blocks;
    blocks.folder = folder.path();
    BlockKind kind{.name = "slate", .top = {1, 2, 3}, .side = {1, 2, 3}, .bottom = {9, 9, 9}};
    kind.textures = {"missing.png", "broken.png", ""};
    blocks.kinds.push_back(kind);
    const TextureLayers layers = loadTextures(blocks);
    ASSERT_EQ(layers.warnings.size(), 2u);
    EXPECT_NE(sentence(layers.warnings[1]).find("is no PNG picture"), std::string::npos);
    for (const int part : {0, 1}) {
        const std::size_t at
            = static_cast<std::size_t>(layers.layerOf[1][static_cast<std::size_t>(part)]) * 32 * 32 * 4;
        EXPECT_EQ(layers.pixels[at], 1);
        EXPECT_EQ(layers.pixels[at + 2], 3);
    }
}

} // namespace
} // namespace fell::mesh_store_test
