// SPDX-License-Identifier: Apache-2.0
#include "keep/chunk_codec.h"

#include "grid/spread_bits.h"

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
    Palette()
        : m_numbers(table())
    {
    }
    ~Palette() { clear(); }
    Palette(const Palette&) = delete;
    Palette& operator=(const Palette&) = delete;

    std::uint32_t numberOf(Material material)
    {
        std::uint32_t& number = m_numbers[material];
        if (number == 0) {
            kinds.push_back(material);
            number = static_cast<std::uint32_t>(kinds.size());
        }
        return number - 1;
    }
    void clear()
    {
        for (const Material kind : kinds)
            m_numbers[kind] = 0;
        kinds.clear();
    }
    std::vector<Material> kinds;

private:
    /// One more than its number for each material there could be, 0 where it has none; cleared by whoever used it.
    static std::vector<std::uint32_t>& table()
    {
        static thread_local std::vector<std::uint32_t> numbers(65536);
        return numbers;
    }
    std::vector<std::uint32_t>& m_numbers;
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

/// A row's palette numbers, a byte each, as one word for each of the lowest eight bits.
using RowWords = std::array<std::uint32_t, 8>;
RowWords wordsOf(const std::array<std::uint8_t, kKeptEdge>& numbers, unsigned bits)
{
    RowWords words{};
    for (unsigned i = 0; i < kKeptEdge / 8; ++i) {
        std::uint64_t eight = 0;
        std::memcpy(&eight, numbers.data() + i * std::size_t{8}, 8);
        for (unsigned bit = 0; bit < bits; ++bit) {
            // The lowest bits of eight bytes, gathered into the highest byte by one multiplication.
            const std::uint64_t gathered = (eight >> bit & 0x0101010101010101u) * 0x0102040810204080u >> 56;
            words[bit] |= static_cast<std::uint32_t>(gathered) << (8 * i);
        }
    }
    return words;
}

using Planes = std::vector<std::uint32_t>; // plane after plane, a word a row
using RowMask = std::array<std::uint64_t, kRows / 64>; // a bit a row

void appendPlanes(const Planes& planes, std::size_t bits, std::string& out)
{
    static_assert(std::endian::native == std::endian::little, "rows are written as they lie");
    for (std::size_t bit = 0; bit < bits; ++bit) {
        RowMask mask{};
        std::array<std::uint32_t, kRows> words; // the first `count` are set
        std::size_t count = 0;
        for (std::size_t row = 0; row < kRows; ++row) {
            const std::uint32_t word = planes[bit * kRows + row];
            mask[row / 64] |= std::uint64_t{word != 0} << (row % 64);
            words[count] = word;
            count += word != 0;
        }
        out.append(reinterpret_cast<const char*>(mask.data()), sizeof mask);
        out.append(reinterpret_cast<const char*>(words.data()), count * sizeof(std::uint32_t));
    }
}

/// More kinds than a byte can number: bit by bit.
void putManyKinds(const std::vector<Material>& voxels, Palette& palette, Planes& planes)
{
    std::vector<std::uint16_t> numbers(kVoxels);
    for (std::size_t i = 0; i < kVoxels; ++i)
        numbers[i] = static_cast<std::uint16_t>(palette.numberOf(voxels[i]));
    const unsigned bits = bitsFor(palette.kinds.size());
    planes.assign(bits * kRows, 0);
    for (unsigned bit = 0; bit < bits; ++bit) {
        std::uint32_t before = 0;
        for (std::size_t row = 0; row < kRows; ++row) {
            std::uint32_t word = 0;
            for (unsigned x = 0; x < kKeptEdge; ++x)
                word |= std::uint32_t{static_cast<unsigned>(numbers[row * kKeptEdge + x]) >> bit & 1u} << x;
            planes[bit * kRows + row] = word ^ before;
            before = word;
        }
    }
}

void putWhole(const std::vector<Material>& voxels, std::string& out)
{
    assert(voxels.size() == kVoxels);
    constexpr unsigned kByte = 8; // bits that a number has at first
    Palette palette;
    static thread_local Planes planes;
    planes.assign(kByte * kRows, 0);
    RowWords before{};
    std::array<std::uint8_t, kKeptEdge> numbers{};
    for (std::size_t row = 0; row < kRows && palette.kinds.size() <= 256; ++row) {
        const Material* from = voxels.data() + row * kKeptEdge;
        if (row > 0 && std::memcmp(from, from - kKeptEdge, kKeptEdge * sizeof(Material)) == 0)
            continue; // its planes stay zero
        const bool isEven = std::memcmp(from, from + 1, (kKeptEdge - 1) * sizeof(Material)) == 0;
        if (isEven)
            numbers.fill(static_cast<std::uint8_t>(palette.numberOf(from[0])));
        for (std::size_t x = 0; x < kKeptEdge && !isEven; ++x)
            numbers[x] = static_cast<std::uint8_t>(palette.numberOf(from[x]));
        const RowWords words = wordsOf(numbers, std::min(kByte, bitsFor(palette.kinds.size())));
        for (unsigned bit = 0; bit < kByte; ++bit)
            planes[bit * kRows + row] = words[bit] ^ before[bit];
        before = words;
    }
    if (palette.kinds.size() > 256) {
        palette.clear();
        putManyKinds(voxels, palette, planes);
    }
    putPalette(palette, out);
    appendPlanes(planes, bitsFor(palette.kinds.size()), out);
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
    const unsigned bits = bitsFor(kinds.size());
    std::array<RowMask, 16> masks{};
    std::array<std::string_view, 16> planes; // what is left of each
    for (unsigned bit = 0; bit < bits; ++bit) {
        const std::string_view mask = reader.take(sizeof(RowMask));
        if (!reader.isSound)
            return;
        std::memcpy(masks[bit].data(), mask.data(), sizeof(RowMask));
        std::size_t count = 0;
        for (const std::uint64_t word : masks[bit])
            count += static_cast<std::size_t>(std::popcount(word));
        planes[bit] = reader.take(count * sizeof(std::uint32_t));
    }
    if (!reader.isSound)
        return;
    out.resize(kVoxels);
    std::array<std::uint32_t, 16> words{};
    for (std::size_t row = 0; row < kRows; ++row) {
        std::uint32_t differs = 0;
        for (unsigned bit = 0; bit < bits; ++bit) {
            if ((masks[bit][row / 64] >> (row % 64) & 1) == 0)
                continue;
            std::uint32_t word = 0;
            std::memcpy(&word, planes[bit].data(), sizeof word);
            planes[bit].remove_prefix(sizeof word);
            words[bit] ^= word;
            differs |= word;
        }
        Material* to = out.data() + row * kKeptEdge;
        if (row > 0 && differs == 0) {
            std::memcpy(to, to - kKeptEdge, kKeptEdge * sizeof(Material));
            continue;
        }
        for (unsigned i = 0; i < kKeptEdge / 8; ++i) {
            std::array<std::uint64_t, 2> eight{}; // low and high bytes of eight numbers
            for (unsigned bit = 0; bit < bits; ++bit)
                eight[bit / 8] |= kSpreadBits[words[bit] >> (8 * i) & 0xFF] << (bit % 8);
            for (unsigned x = 0; x < 8; ++x) {
                const std::size_t number = (eight[0] >> (8 * x) & 0xFF) | (eight[1] >> (8 * x) & 0xFF) << 8;
                if (number >= kinds.size()) {
                    reader.fail();
                    return;
                }
                to[i * std::size_t{8} + x] = kinds[number];
            }
        }
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
