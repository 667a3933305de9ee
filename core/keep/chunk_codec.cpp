// SPDX-License-Identifier: Apache-2.0
#include "keep/chunk_codec.h"

#include "voxels/palette.h"

#include <zstd.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cassert>
#include <cstring>

namespace fell {
namespace {

constexpr std::size_t kVoxels = std::size_t{kKeptEdge} * kKeptEdge * kKeptEdge, kRows = kVoxels / kKeptEdge;

void putNumber(std::uint64_t value, std::string& out)
{
    for (; value >= 0x80; value >>= 7)
        out += static_cast<char>(value | 0x80);
    out += static_cast<char>(value);
}

void putSigned(std::int64_t value, std::string& out)
{
    putNumber(static_cast<std::uint64_t>(value) << 1 ^ static_cast<std::uint64_t>(value >> 63), out);
}

/// Reads numbers; after the first that is none, everything is 0 and `isSound` is false.
struct Reader {
    std::string_view bytes;
    bool isSound = true;

    std::uint64_t number(std::uint64_t most = UINT64_MAX)
    {
        std::uint64_t value = 0;
        for (unsigned shift = 0; shift < 64 && !bytes.empty(); shift += 7) {
            const auto byte = static_cast<unsigned char>(bytes.front());
            bytes.remove_prefix(1);
            value |= std::uint64_t{byte & 0x7Fu} << shift;
            if (byte < 0x80)
                return isSound && value <= most ? value : fail();
        }
        return fail();
    }
    std::int64_t signedNumber()
    {
        const std::uint64_t value = number();
        return static_cast<std::int64_t>(value >> 1) ^ -static_cast<std::int64_t>(value & 1);
    }
    std::string_view take(std::size_t count)
    {
        if (bytes.size() < count)
            fail();
        const std::string_view taken = isSound ? bytes.substr(0, count) : std::string_view();
        bytes.remove_prefix(taken.size());
        return taken;
    }
    std::uint64_t fail()
    {
        isSound = false;
        return 0;
    }
};

void putPalette(std::span<const Material> kinds, std::string& out)
{
    putNumber(kinds.size(), out);
    for (const Material kind : kinds)
        putNumber(kind, out);
}

void putChanged(const KeptVoxels& changed, std::string& out)
{
    std::vector<Material> kinds; // few
    std::string numbers;
    for (const KeptVoxel& one : changed) {
        const auto found = std::find(kinds.begin(), kinds.end(), one.material);
        putNumber(static_cast<std::uint64_t>(found - kinds.begin()), numbers);
        if (found == kinds.end())
            kinds.push_back(one.material);
    }
    putPalette(kinds, out);
    putNumber(changed.size(), out);
    int before = -1;
    for (const KeptVoxel& one : changed) {
        putNumber(static_cast<std::uint64_t>(one.voxel - before - 1), out);
        before = one.voxel;
    }
    out += numbers;
}

using RowMask = std::array<std::uint64_t, kRows / 64>; // a bit a row

void putWhole(const VoxelChunk& chunk, std::string& out)
{
    assert(chunk.edge() == kKeptEdge);
    if (chunk.isUniform())
        return putPalette(std::array{chunk.uniform()}, out);
    PalettePlanes made;
    const PalettePlanes* held = chunk.planes();
    if (!held) {
        if (const Material* plain = chunk.plain())
            made = planesOf(kKeptEdge, {plain, kVoxels});
        else
            made = planesOf(kKeptEdge, chunk.voxels());
        held = &made;
    }
    putPalette(held->kinds, out);
    static_assert(std::endian::native == std::endian::little, "rows are written as they lie");
    for (std::size_t bit = 0; bit < held->bits; ++bit) {
        RowMask mask{};
        std::array<std::uint32_t, kRows> words; // the first `count` are set
        std::size_t count = 0;
        std::uint32_t before = 0;
        const std::uint8_t* from = held->planes.data() + bit * sizeof before;
        for (std::uint64_t& rows : mask) {
            std::uint64_t others = 0; // rows that are not as the one before: without a branch, and in a register
            for (unsigned row = 0; row < 64; ++row, from += held->bits * sizeof before) {
                std::uint32_t word = 0;
                std::memcpy(&word, from, sizeof word);
                const std::uint64_t isOther = word != before;
                others |= isOther << row;
                words[count] = word ^ before;
                count += isOther;
                before = word;
            }
            rows = others;
        }
        out.append(reinterpret_cast<const char*>(mask.data()), sizeof mask);
        out.append(reinterpret_cast<const char*>(words.data()), count * sizeof(std::uint32_t));
    }
}

std::vector<Material> readPalette(Reader& reader)
{
    std::vector<Material> kinds(reader.number(kVoxels));
    for (Material& kind : kinds)
        kind = static_cast<Material>(reader.number(UINT16_MAX));
    return kinds;
}

void readChanged(Reader& reader, KeptVoxels& out)
{
    const std::vector<Material> kinds = readPalette(reader);
    out.resize(reader.number(kVoxels));
    std::uint64_t at = 0;
    for (KeptVoxel& one : out) {
        at += reader.number(kVoxels);
        if (at >= kVoxels)
            reader.fail();
        one.voxel = static_cast<std::uint16_t>(at++);
    }
    for (KeptVoxel& one : out) {
        const std::uint64_t number = reader.number();
        if (number < kinds.size())
            one.material = kinds[number];
        else
            reader.fail();
    }
}

std::shared_ptr<const VoxelChunk> readWhole(Reader& reader)
{
    PalettePlanes held{readPalette(reader), 0, {}};
    if (held.kinds.empty())
        reader.fail();
    held.bits = paletteBits(held.kinds.size());
    if (!reader.isSound)
        return nullptr;
    if (held.bits == 0)
        return std::make_shared<const VoxelChunk>(kKeptEdge, held.kinds[0]);
    held.planes.resize(kRows * held.bits * sizeof(std::uint32_t));
    for (std::size_t bit = 0; bit < held.bits; ++bit) {
        const std::string_view maskBytes = reader.take(sizeof(RowMask));
        if (!reader.isSound)
            return nullptr;
        RowMask mask{};
        std::memcpy(mask.data(), maskBytes.data(), sizeof mask);
        std::size_t count = 0;
        for (const std::uint64_t word : mask)
            count += static_cast<std::size_t>(std::popcount(word));
        const std::string_view bytes = reader.take(count * sizeof(std::uint32_t));
        std::array<std::uint32_t, kRows + 1> words; // one more is read, and not used
        std::memcpy(words.data(), bytes.data(), bytes.size());
        words[bytes.size() / sizeof(std::uint32_t)] = 0;
        std::uint32_t word = 0;
        std::size_t at = 0;
        std::uint8_t* to = held.planes.data() + bit * sizeof word;
        const std::size_t step = held.bits * sizeof word;
        for (std::uint64_t others : mask)
            for (unsigned row = 0; row < 64; ++row, others >>= 1, to += step) { // without a branch
                const std::uint64_t isOther = others & 1;
                word ^= words[at] & static_cast<std::uint32_t>(-isOther);
                at += isOther;
                std::memcpy(to, &word, sizeof word);
            }
    }
    if (!reader.isSound || !areSound(kKeptEdge, held)) {
        reader.fail();
        return nullptr;
    }
    return std::make_shared<const VoxelChunk>(kKeptEdge, holdPlanes(kKeptEdge, std::move(held)));
}

} // namespace

void appendChunk(const StoredChunk& chunk, std::string& out)
{
    putSigned(chunk.chunk.x, out);
    putSigned(chunk.chunk.y, out);
    putSigned(chunk.chunk.z, out);
    putNumber(chunk.whole ? 1 : 0, out);
    if (chunk.whole)
        putWhole(*chunk.whole, out);
    else
        putChanged(chunk.changed, out);
}

std::optional<StoredChunk> takeChunk(std::string_view& bytes)
{
    Reader reader{bytes};
    StoredChunk chunk;
    chunk.chunk.x = reader.signedNumber();
    chunk.chunk.y = reader.signedNumber();
    chunk.chunk.z = reader.signedNumber();
    if (reader.number(1) == 1)
        chunk.whole = readWhole(reader);
    else
        readChanged(reader, chunk.changed);
    if (!reader.isSound)
        return std::nullopt;
    bytes = reader.bytes;
    return chunk;
}

std::string squeezed(std::string_view bytes, int level)
{
    struct Free {
        void operator()(ZSTD_CCtx* context) const { ZSTD_freeCCtx(context); }
    };
    static thread_local const std::unique_ptr<ZSTD_CCtx, Free> context(ZSTD_createCCtx()); // its tables are large
    ZSTD_CCtx_setParameter(context.get(), ZSTD_c_checksumFlag, 1);
    ZSTD_CCtx_setParameter(context.get(), ZSTD_c_compressionLevel, level);
    std::string out(ZSTD_compressBound(bytes.size()), '\0');
    out.resize(ZSTD_compress2(context.get(), out.data(), out.size(), bytes.data(), bytes.size()));
    return out;
}

std::optional<std::string> unsqueezed(std::string_view bytes, std::size_t most)
{
    struct Free {
        void operator()(ZSTD_DCtx* context) const { ZSTD_freeDCtx(context); }
    };
    static thread_local const std::unique_ptr<ZSTD_DCtx, Free> context(ZSTD_createDCtx());
    const unsigned long long length = ZSTD_getFrameContentSize(bytes.data(), bytes.size());
    if (length == ZSTD_CONTENTSIZE_ERROR || length == ZSTD_CONTENTSIZE_UNKNOWN || length > most)
        return std::nullopt;
    std::string out(length, '\0');
    const std::size_t done = ZSTD_decompressDCtx(context.get(), out.data(), out.size(), bytes.data(), bytes.size());
    if (ZSTD_isError(done) || done != out.size())
        return std::nullopt;
    return out;
}

} // namespace fell
