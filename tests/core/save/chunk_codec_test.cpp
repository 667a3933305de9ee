// SPDX-License-Identifier: Apache-2.0
// A chunk as bytes and back; what is no chunk is refused, and never read beyond its end.
#include "support/all_names.h"
#include <fell/save/chunk_codec.h>

#include <gtest/gtest.h>
#include <random>

namespace fell::chunk_codec_test {
namespace {

constexpr std::size_t kVoxels = 32 * 32 * 32;

StoredChunk randomChanged(std::mt19937_64& dice, std::size_t count)
{
    StoredChunk chunk{{static_cast<std::int64_t>(dice() % 1000) - 500, -7, std::int64_t{1} << 40}, {}, nullptr};
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
        const auto back = decodeChunk(left);
        ASSERT_TRUE(back) << count;
        EXPECT_EQ(back->chunk, chunk.chunk);
        EXPECT_FALSE(back->whole);
        EXPECT_EQ(back->changed, chunk.changed);
        EXPECT_TRUE(left.empty());
    }
}

TEST(ChunkCodec, WholeChunksComeBackWhateverTheyHold)
{
    std::mt19937_64 dice(2);
    for (const unsigned kinds : {1u, 2u, 3u, 4u, 5u, 17u, 300u}) {
        std::vector<Material> voxels(kVoxels);
        for (Material& voxel : voxels)
            voxel = static_cast<Material>(60000 + dice() % kinds);
        std::optional<std::string> first;
        for (const StorageFormat& form : voxelForms()) { // however they are held, the same bytes
            const StoredChunk chunk{
                {0, -1, 2}, {}, std::make_shared<const VoxelChunk>(VoxelChunk(32, voxels).convertedTo(form))};
            std::string bytes;
            appendChunk(chunk, bytes);
            EXPECT_EQ(bytes, first.value_or(bytes)) << form.id;
            first = bytes;
            std::string_view left = bytes;
            const auto back = decodeChunk(left);
            ASSERT_TRUE(back) << kinds;
            ASSERT_TRUE(back->whole);
            EXPECT_EQ(back->whole->voxels(), voxels) << form.id;
            EXPECT_TRUE(left.empty());
        }
    }
}

TEST(ChunkCodec, WholeBytesByHand)
{
    // All of kind 7 but two voxels of kind 9: voxel 2 of row 1, and voxel 8 of row 3. Place 0, 0, 0, whole, two kinds,
    // one plane. Rows 1 to 4 differ from the one before: 0x1E and 127 bytes of nothing. The words that differ: 4, 4
    // again, where row 2 takes it back, 0x100 and 0x100.
    std::vector<Material> voxels(kVoxels, 7);
    voxels[34] = voxels[104] = 9;
    std::string expected{0, 0, 0, 2, 2, 7, 9, 0x1E};
    expected.append(127, '\0');
    std::string old = expected;
    expected.append({0x11, 0x22, 4, 4, 1, 1}); // the first byte of two words, the second of two; these bytes
    std::string bytes;
    appendChunk({{0, 0, 0}, {}, std::make_shared<const VoxelChunk>(32, voxels)}, bytes);
    EXPECT_EQ(bytes, expected);
    // As files of version 1 have it, which are still read.
    old[3] = 1;
    old.append({4, 0, 0, 0, 4, 0, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0});
    std::string_view left = old;
    const auto read = decodeChunk(left);
    ASSERT_TRUE(read);
    EXPECT_EQ(read->whole->voxels(), voxels);
    EXPECT_TRUE(left.empty());
    for (std::size_t cut = 0; cut < expected.size(); ++cut) {
        std::string_view short1(old.data(), cut), short2(expected.data(), cut);
        EXPECT_FALSE(decodeChunk(short1)) << cut;
        EXPECT_FALSE(decodeChunk(short2)) << cut;
    }
}

TEST(ChunkCodec, ANumberBeyondThePaletteIsRefused)
{
    // Three kinds take two bits, so that there is a fourth number without a block type.
    std::vector<Material> voxels(kVoxels, 1);
    voxels[0] = 2;
    voxels[1] = 3;
    std::string bytes;
    appendChunk({{0, 0, 0}, {}, std::make_shared<const VoxelChunk>(32, voxels)}, bytes);
    std::string_view left = bytes;
    ASSERT_TRUE(decodeChunk(left));
    std::size_t refused = 0; // of all single bits changed after the palette
    for (std::size_t at = 8; at < bytes.size(); ++at)
        for (const int bit : {1, 2, 4, 8, 16, 32, 64, 128}) {
            std::string broken = bytes;
            broken[at] = static_cast<char>(broken[at] ^ bit);
            left = broken;
            if (const auto chunk = decodeChunk(left))
                for (const Material material : chunk->whole->voxels())
                    ASSERT_TRUE(material >= 1 && material <= 3);
            else
                ++refused;
        }
    EXPECT_GT(refused, 0u);
}

TEST(ChunkCodec, KindsThatAreGoneFromAPaletteDoNoHarm)
{
    std::vector<Material> voxels(kVoxels, 1);
    voxels[5] = 2;
    const StorageFormat& palette = *findForm("palette");
    const VoxelWrite third{6, 3}, back{6, 1};
    const auto chunk = std::make_shared<const VoxelChunk>(
        VoxelChunk(32, voxels).convertedTo(palette).with({&third, 1}, palette).with({&back, 1}, palette));
    std::string bytes;
    appendChunk({{0, 0, 0}, {}, chunk}, bytes);
    std::string_view left = bytes;
    const auto read = decodeChunk(left);
    ASSERT_TRUE(read);
    EXPECT_EQ(read->whole->voxels(), voxels);
}

TEST(ChunkCodec, BytesByHand)
{
    // Chunk 1, -1, 0: 2, 1, 0. Changed: 0. Two kinds, 7 and 300 (0xAC 0x02). Three voxels: 0; 5 is 4 after it; 200 is
    // 194 after that (0xC2 0x01). Their palette numbers: 0, 1, 0.
    const StoredChunk chunk{{1, -1, 0}, {{0, 7}, {5, 300}, {200, 7}}, nullptr};
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
        EXPECT_FALSE(decodeChunk(left)) << cut;
    }
    std::vector<Material> voxels(kVoxels, 3);
    voxels[77] = 4;
    voxels[78] = 5;
    std::string more;
    appendChunk({{}, {}, std::make_shared<const VoxelChunk>(32, std::move(voxels))}, more);
    for (int round = 0; round < 3000; ++round) { // any answer will do, but an answer
        std::string broken = round % 2 == 0 ? bytes : more;
        for (int flips = 0; flips < 3; ++flips)
            broken[dice() % std::min<std::size_t>(broken.size(), 200)] = static_cast<char>(dice());
        std::string_view left = broken;
        if (const auto chunk = decodeChunk(left)) {
            EXPECT_LE(chunk->changed.size(), kVoxels);
            EXPECT_TRUE(!chunk->whole || chunk->whole->voxels().size() == kVoxels);
        }
    }
}

TEST(ChunkCodec, DamageIsFoundByTheChecksum)
{
    std::string text(5000, 'a');
    for (std::size_t i = 0; i < text.size(); i += 7)
        text[i] = static_cast<char>(i);
    const std::string small = compressed(text, 1);
    EXPECT_EQ(decompressed(small, 10000), text);
    EXPECT_FALSE(decompressed(small, 4000)) << "larger than allowed";
    for (std::size_t i = 0; i < small.size(); ++i) {
        std::string broken = small;
        broken[i] = static_cast<char>(broken[i] ^ 0x10);
        if (const auto back = decompressed(broken, 10000)) {
            EXPECT_EQ(*back, text) << "a bit of the frame that says nothing";
        }
    }
}

} // namespace
} // namespace fell::chunk_codec_test
