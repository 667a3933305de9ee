// SPDX-License-Identifier: Apache-2.0
#include "keep/chunk_codec.h"

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

/// The materials that occur, in the order in which they come, and the number of each.
class Palette {
public:
    std::uint32_t numberOf(Material material)
    {
        if (material == m_last) // neighbours are mostly alike
            return m_lastNumber;
        m_last = material;
        const auto found = std::find(kinds.begin(), kinds.end(), material);
        m_lastNumber = static_cast<std::uint32_t>(found - kinds.begin());
        if (found == kinds.end())
            kinds.push_back(material);
        return m_lastNumber;
    }
    std::vector<Material> kinds;

private:
    std::uint32_t m_last = UINT32_MAX, m_lastNumber = 0;
};

unsigned bitsFor(std::size_t kinds)
{
    return kinds <= 1 ? 0 : static_cast<unsigned>(std::bit_width(kinds - 1));
}

void putPalette(const Palette& palette, std::string& out)
{
    putNumber(palette.kinds.size(), out);
    for (const Material kind : palette.kinds)
        putNumber(kind, out);
}

void putChanged(const KeptVoxels& changed, std::string& out)
{
    Palette palette;
    std::string numbers;
    for (const KeptVoxel& one : changed)
        putNumber(palette.numberOf(one.material), numbers);
    putPalette(palette, out);
    putNumber(changed.size(), out);
    int before = -1;
    for (const KeptVoxel& one : changed) {
        putNumber(static_cast<std::uint64_t>(one.voxel - before - 1), out);
        before = one.voxel;
    }
    out += numbers;
}

void putWhole(const std::vector<Material>& voxels, std::string& out)
{
    assert(voxels.size() == kVoxels);
    Palette palette;
    static thread_local std::vector<std::uint16_t> numbers(kVoxels);
    for (std::size_t i = 0; i < kVoxels; ++i)
        numbers[i] = static_cast<std::uint16_t>(palette.numberOf(voxels[i]));
    putPalette(palette, out);
    for (unsigned bit = 0; bit < bitsFor(palette.kinds.size()); ++bit) {
        std::array<std::uint32_t, kRows> rows; // set below
        std::uint32_t before = 0;
        for (std::size_t row = 0; row < kRows; ++row) {
            const std::uint16_t* from = numbers.data() + row * kKeptEdge;
            std::uint32_t word = 0;
            for (unsigned x = 0; x < kKeptEdge; ++x)
                word |= std::uint32_t{static_cast<unsigned>(from[x]) >> bit & 1u} << x;
            rows[row] = word ^ before;
            before = word;
        }
        static_assert(std::endian::native == std::endian::little, "rows are written as they lie");
        out.append(reinterpret_cast<const char*>(rows.data()), sizeof rows);
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

void readWhole(Reader& reader, std::vector<Material>& out)
{
    const std::vector<Material> kinds = readPalette(reader);
    if (kinds.empty())
        reader.fail();
    if (!reader.isSound)
        return;
    static thread_local std::vector<std::uint16_t> numbers;
    numbers.assign(kVoxels, 0);
    for (unsigned bit = 0; bit < bitsFor(kinds.size()); ++bit) {
        const std::string_view plane = reader.take(kRows * sizeof(std::uint32_t));
        if (!reader.isSound)
            return;
        std::uint32_t before = 0;
        for (std::size_t row = 0; row < kRows; ++row) {
            std::uint32_t word = 0;
            std::memcpy(&word, plane.data() + row * sizeof word, sizeof word);
            before ^= word;
            std::uint16_t* to = numbers.data() + row * kKeptEdge;
            for (unsigned x = 0; x < kKeptEdge; ++x)
                to[x] = static_cast<std::uint16_t>(to[x] | (before >> x & 1u) << bit);
        }
    }
    out.resize(kVoxels);
    for (std::size_t i = 0; i < kVoxels; ++i) {
        if (numbers[i] >= kinds.size()) {
            reader.fail();
            return;
        }
        out[i] = kinds[numbers[i]];
    }
}

} // namespace

void appendChunk(const StoredChunk& chunk, std::string& out)
{
    putSigned(chunk.chunk.x, out);
    putSigned(chunk.chunk.y, out);
    putSigned(chunk.chunk.z, out);
    putNumber(chunk.isWhole ? 1 : 0, out);
    if (chunk.isWhole)
        putWhole(chunk.voxels, out);
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
    chunk.isWhole = reader.number(1) == 1;
    if (chunk.isWhole)
        readWhole(reader, chunk.voxels);
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
