// SPDX-License-Identifier: Apache-2.0
#include "gpu/mesh_store.h"
#include "gpu/textures.h"
#include "support/temp_folder.h"

#include <gtest/gtest.h>

#include <random>
#include <set>

namespace fell {
namespace {

TEST(PieceStore, PiecesNeverOverlapAndGrowTogetherAgain)
{
    PieceStore store(1000);
    std::mt19937 dice(5);
    std::vector<StorePiece> held;
    std::set<std::pair<std::uint32_t, std::uint32_t>> used; // page, element
    for (int step = 0; step < 4000; ++step) {
        if (held.empty() || dice() % 5 < 3) {
            const auto taken = store.take(1 + dice() % 90);
            for (std::uint32_t i = 0; i < taken.piece.count; ++i)
                ASSERT_TRUE(used.insert({taken.piece.page, taken.piece.first + i}).second);
            held.push_back(taken.piece);
        } else {
            std::swap(held[dice() % held.size()], held.back());
            for (std::uint32_t i = 0; i < held.back().count; ++i)
                used.erase({held.back().page, held.back().first + i});
            store.giveBack(held.back());
            held.pop_back();
        }
    }
    std::set<std::uint32_t> pages;
    for (const StorePiece& piece : held)
        pages.insert(piece.page);
    std::size_t gone = 0;
    for (const StorePiece& piece : held)
        gone += store.giveBack(piece);
    EXPECT_EQ(gone, pages.size()) << "a page is gone once, with its last piece";
    EXPECT_EQ(store.take(1000).newPage, 1000u) << "nothing is left over";
}

TEST(PieceStore, GivesALargeRequestAPageOfItsOwn)
{
    PieceStore arena(100), each(0);
    EXPECT_EQ(arena.take(250).newPage, 250u);
    EXPECT_EQ(arena.take(40).newPage, 100u);
    EXPECT_EQ(arena.take(60).newPage, std::nullopt);
    const auto a = each.take(7), b = each.take(7);
    EXPECT_EQ(a.newPage, 7u);
    EXPECT_NE(a.piece.page, b.piece.page);
    EXPECT_TRUE(each.giveBack(a.piece));
    EXPECT_EQ(each.take(3).piece.page, a.piece.page) << "its number is used again";
}

TEST(Textures, OfCorrowdaleAreAllRead)
{
    const auto text = [] {
        std::ifstream file(FELL_DEMO_DIR "/corrowdale/blocks.json");
        return std::string{std::istreambuf_iterator<char>(file), {}};
    }();
    const auto blocks = parseBlockSet(text, "blocks.json", FELL_DEMO_DIR "/corrowdale");
    ASSERT_TRUE(blocks);
    EXPECT_TRUE(blocks.value().warnings.empty());
    const TextureLayers layers = loadTextures(blocks.value());
    EXPECT_TRUE(layers.warnings.empty()) << sentence(layers.warnings[0]);
    EXPECT_EQ(layers.pixels.size(), static_cast<std::size_t>(layers.count) * 32 * 32 * 4);
    EXPECT_GT(layers.count, 50);
    const Material turf = *findMaterial(blocks.value(), "turf");
    EXPECT_NE(layers.layerOf[turf][0], layers.layerOf[turf][1]);
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
} // namespace fell
