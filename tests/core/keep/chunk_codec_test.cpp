// SPDX-License-Identifier: Apache-2.0
// A chunk as bytes and back; what is no chunk is refused, and never read beyond its end.
#include "keep/chunk_codec.h"

#include <random>

namespace fell {
namespace {

constexpr std::size_t kVoxels = 32 * 32 * 32;

StoredChunk randomChanged(std::mt19937_64& dice, std::size_t count)
{
    StoredChunk chunk{{static_cast<std::int64_t>(dice() % 1000) - 500, -7, std::int64_t{1} << 40}, false, {}, {}};
    std::vector<std::uint16_t> places(kVoxels);
    for (std::size_t i = 0; i < kVoxels; ++i)
        places[i] = static_cast<std::uint16_t>(i);
    std::shuffle(places.begin(), places.end(), dice);
    for (std::size_t i = 0; i < count; ++i)
        chunk.changed.push_back({places[i], static_cast<Material>(dice() % 40)});
    std::sort(chunk.changed.begin(), chunk.changed.end());
    return chunk;
}

TEST(ChunkCodec, ChangedVoxelsComeBack)
{
    std::mt19937_64 dice(1);
    for (const std::size_t count : {std::size_t{0}, std::size_t{1}, std::size_t{100}, kVoxels}) {
        const StoredChunk chunk = randomChanged(dice, count);
        std::string bytes;
        appendChunk(chunk, bytes);
        std::string_view left = bytes;
        const auto back = takeChunk(left);
        ASSERT_TRUE(back) << count;
        EXPECT_EQ(back->chunk, chunk.chunk);
        EXPECT_FALSE(back->isWhole);
        EXPECT_EQ(back->changed, chunk.changed);
        EXPECT_TRUE(left.empty());
    }
}

TEST(ChunkCodec, WholeChunksComeBackWhateverTheyHold)
{
    std::mt19937_64 dice(2);
    for (const unsigned kinds : {1u, 2u, 3u, 4u, 5u, 17u, 300u}) {
        StoredChunk chunk{{0, -1, 2}, true, {}, std::vector<Material>(kVoxels)};
        for (Material& voxel : chunk.voxels)
            voxel = static_cast<Material>(60000 + dice() % kinds);
        std::string bytes;
        appendChunk(chunk, bytes);
        std::string_view left = bytes;
        const auto back = takeChunk(left);
        ASSERT_TRUE(back) << kinds;
        EXPECT_EQ(back->voxels, chunk.voxels);
    }
}

TEST(ChunkCodec, BytesByHand)
{
    // Chunk 1, -1, 0: 2, 1, 0. Changed: 0. Two kinds, 7 and 300 (0xAC 0x02). Three voxels: 0; 5 is 4 after it; 200 is
    // 194 after that (0xC2 0x01). Their palette numbers: 0, 1, 0.
    const StoredChunk chunk{{1, -1, 0}, false, {{0, 7}, {5, 300}, {200, 7}}, {}};
    std::string bytes;
    appendChunk(chunk, bytes);
    const unsigned char expected[]{2, 1, 0, 0, 2, 7, 0xAC, 0x02, 3, 0, 4, 0xC2, 0x01, 0, 1, 0};
    EXPECT_EQ(bytes, std::string(reinterpret_cast<const char*>(expected), sizeof expected));
}

TEST(ChunkCodec, NoPrefixAndNoFlippedByteIsReadBeyondItsEnd)
{
    std::mt19937_64 dice(3);
    std::string bytes;
    appendChunk(randomChanged(dice, 50), bytes);
    for (std::size_t cut = 0; cut < bytes.size(); ++cut) {
        std::string_view left(bytes.data(), cut);
        EXPECT_FALSE(takeChunk(left)) << cut;
    }
    StoredChunk whole{{}, true, {}, std::vector<Material>(kVoxels, 3)};
    whole.voxels[77] = 4;
    whole.voxels[78] = 5;
    std::string more;
    appendChunk(whole, more);
    for (int round = 0; round < 3000; ++round) { // any answer will do, but an answer
        std::string broken = round % 2 == 0 ? bytes : more;
        for (int flips = 0; flips < 3; ++flips)
            broken[dice() % std::min<std::size_t>(broken.size(), 200)] = static_cast<char>(dice());
        std::string_view left = broken;
        if (const auto chunk = takeChunk(left)) {
            EXPECT_LE(chunk->changed.size(), kVoxels);
            EXPECT_TRUE(!chunk->isWhole || chunk->voxels.size() == kVoxels);
        }
    }
}

TEST(ChunkCodec, DamageIsFoundByTheChecksum)
{
    std::string text(5000, 'a');
    for (std::size_t i = 0; i < text.size(); i += 7)
        text[i] = static_cast<char>(i);
    const std::string small = squeezed(text, 1);
    EXPECT_EQ(unsqueezed(small, 10000), text);
    EXPECT_FALSE(unsqueezed(small, 4000)) << "larger than allowed";
    for (std::size_t i = 0; i < small.size(); ++i) {
        std::string broken = small;
        broken[i] = static_cast<char>(broken[i] ^ 0x10);
        if (const auto back = unsqueezed(broken, 10000)) {
            EXPECT_EQ(*back, text) << "a bit of the frame that says nothing";
        }
    }
}

} // namespace
} // namespace fell
