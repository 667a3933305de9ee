// SPDX-License-Identifier: Apache-2.0
#include <fell/save/chunk_codec.h>

#include <fell/voxels/palette.h>

#include <zstd.h>

#ifdef __AVX2__
#include <immintrin.h>
#endif

#include <algorithm>
#include <array>
#include <bit>
#include <cassert>
#include <cstring>
#include <type_traits>

namespace fell::save {
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

    std::uint64_t number(std::uint64_t max = UINT64_MAX)
    {
        std::uint64_t value = 0;
        for (unsigned shift = 0; shift < 64 && !bytes.empty(); shift += 7) {
            const auto byte = static_cast<unsigned char>(bytes.front());
            bytes.remove_prefix(1);
            value |= std::uint64_t{byte & 0x7Fu} << shift;
            if (byte < 0x80)
                return isSound && value <= max ? value : fail();
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

enum Kind : std::uint64_t { kChanged, kWholeWords, kWhole };

using RowMask = std::array<std::uint64_t, kRows / 64>; // a bit a row
using RowWords = std::array<std::uint32_t, kRows + 1>; // one more than there can be, so that one may be read or written

/// Which of a word's bytes are not 0, a bit each.
unsigned bytesIn(std::uint32_t word)
{
    // The highest bit of each byte that has any, and these four next to each other.
    const std::uint32_t any = (((word & 0x7F7F7F7F) + 0x7F7F7F7F) | word) & 0x80808080;
    return (any >> 7) * 0x10204080u >> 28;
}

/// Words without the bytes that are 0: half of them are, and what is not there need not be made small.
void putWords(std::span<const std::uint32_t> words, std::string& out)
{
    std::array<std::uint8_t, kRows / 2 + 1> halves{};
    std::array<std::uint8_t, kRows * 4 + 4> bytes;
    std::size_t count = 0;
    for (std::size_t i = 0; i < words.size(); ++i) {
        const unsigned in = bytesIn(words[i]);
        halves[i / 2] = static_cast<std::uint8_t>(halves[i / 2] | in << (i % 2 * 4));
        for (unsigned b = 0; b < 4; ++b) { // without a branch: one that is left out is written over
            bytes[count] = static_cast<std::uint8_t>(words[i] >> (8 * b));
            count += in >> b & 1;
        }
    }
    out.append(reinterpret_cast<const char*>(halves.data()), (words.size() + 1) / 2);
    out.append(reinterpret_cast<const char*>(bytes.data()), count);
}

void takeWords(Reader& reader, std::size_t count, RowWords& out)
{
    const std::string_view halves = reader.take((count + 1) / 2);
    std::size_t max = 0;
    for (const char two : halves)
        max += static_cast<std::size_t>(std::popcount(static_cast<unsigned char>(two)));
    const std::string_view bytes = reader.take(max);
    if (!reader.isSound)
        return;
    std::array<std::uint8_t, kRows * 4 + 1> padded; // one more is read, and not used
    bytes.copy(reinterpret_cast<char*>(padded.data()), bytes.size());
    padded[bytes.size()] = 0;
    std::size_t at = 0;
    for (std::size_t i = 0; i < count; ++i) {
        const unsigned in = static_cast<unsigned char>(halves[i / 2]) >> (i % 2 * 4);
        std::uint32_t word = 0;
        for (unsigned b = 0; b < 4; ++b) {
            const unsigned isIn = in >> b & 1;
            word |= static_cast<std::uint32_t>(padded[at] & (0u - isIn)) << (8 * b);
            at += isIn;
        }
        out[i] = word;
    }
}

/// One bit of all rows' numbers.
struct CodedPlane {
    RowMask mask; // rows that are not as the one before
    RowWords words; // what these are exclusive-or the one before
    std::size_t count = 0; // of them
};
using CodedPlanes = std::array<CodedPlane, 16>;
CodedPlanes& codedPlanes()
{
    static thread_local const auto kPlanes = std::make_unique<CodedPlanes>();
    return *kPlanes;
}

/// Calls work(bits), as a constant for the numbers of bits that are usual: dividing by it and copying a row then take
/// an instruction or two.
template <typename Work> void withBits(unsigned bits, const Work& work)
{
    switch (bits) {
    case 1:
        return work(std::integral_constant<unsigned, 1>());
    case 2:
        return work(std::integral_constant<unsigned, 2>());
    case 3:
        return work(std::integral_constant<unsigned, 3>());
    case 4:
        return work(std::integral_constant<unsigned, 4>());
    default:
        return work(bits);
    }
}

/// Which of 64 words are not 0, a bit each.
std::uint64_t wordsIn(const std::uint32_t* words)
{
    std::uint64_t bits = 0;
#ifdef __AVX2__
    for (unsigned i = 0; i < 64; i += 8) {
        const __m256i eight = _mm256_loadu_si256(reinterpret_cast<const __m256i*>(words + i)),
                      none = _mm256_cmpeq_epi32(eight, _mm256_setzero_si256());
        bits |= std::uint64_t{static_cast<std::uint8_t>(~_mm256_movemask_ps(_mm256_castsi256_ps(none)))} << i;
    }
#else
    for (unsigned i = 0; i < 64; ++i)
        bits |= std::uint64_t{words[i] != 0} << i;
#endif
    return bits;
}

/// All words exclusive-or those of the row before, then those that are not 0, which are few.
template <typename Bits> void takeApart(const std::uint8_t* from, Bits bits, CodedPlanes& out)
{
    static thread_local std::vector<std::uint32_t> words;
    const std::size_t count = kRows * bits, step = bits;
    words.resize(count);
    std::memcpy(words.data(), from, count * sizeof(std::uint32_t));
    for (std::size_t i = count; i-- > step;)
        words[i] ^= words[i - step];
    for (std::size_t bit = 0; bit < bits; ++bit) {
        out[bit].mask.fill(0);
        out[bit].count = 0;
    }
    for (std::size_t first = 0; first < count; first += 64)
        for (std::uint64_t left = wordsIn(words.data() + first); left != 0; left &= left - 1) {
            const std::size_t i = first + static_cast<std::size_t>(std::countr_zero(left)), row = i / bits;
            CodedPlane& plane = out[i % bits];
            plane.words[plane.count++] = words[i];
            plane.mask[row / 64] |= std::uint64_t{1} << (row % 64);
        }
}

template <typename Bits> void putTogether(const CodedPlanes& planes, Bits bits, std::uint8_t* to)
{
    constexpr std::size_t kWord = sizeof(std::uint32_t);
    std::array<std::size_t, 16> at{};
    constexpr std::array<std::uint8_t, 16 * kWord> kNothing{};
    const std::uint8_t* before = kNothing.data();
    for (std::size_t row = 0; row < kRows; ++row, before = to, to += bits * kWord) {
        std::memcpy(to, before, bits * kWord);
        std::uint64_t any = 0;
        for (std::size_t bit = 0; bit < bits; ++bit)
            any |= planes[bit].mask[row / 64] >> (row % 64);
        if ((any & 1) == 0)
            continue;
        for (std::size_t bit = 0; bit < bits; ++bit) { // without a branch
            const std::uint64_t isOther = planes[bit].mask[row / 64] >> (row % 64) & 1;
            std::uint32_t word = 0;
            std::memcpy(&word, to + bit * kWord, kWord);
            word ^= planes[bit].words[at[bit]] & static_cast<std::uint32_t>(-isOther);
            at[bit] += isOther;
            std::memcpy(to + bit * kWord, &word, kWord);
        }
    }
}

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
    CodedPlanes& planes = codedPlanes();
    withBits(held->bits, [&](auto bits) { takeApart(held->planes.data(), bits, planes); });
    for (std::size_t bit = 0; bit < held->bits; ++bit) {
        const CodedPlane& plane = planes[bit];
        out.append(reinterpret_cast<const char*>(plane.mask.data()), sizeof plane.mask);
        putWords(std::span(plane.words).first(plane.count), out);
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

std::shared_ptr<const VoxelChunk> readWhole(Reader& reader, bool asWords)
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
    CodedPlanes& planes = codedPlanes();
    for (std::size_t bit = 0; bit < held.bits; ++bit) {
        CodedPlane& plane = planes[bit];
        const std::string_view mask = reader.take(sizeof(RowMask));
        if (!reader.isSound)
            return nullptr;
        std::memcpy(plane.mask.data(), mask.data(), sizeof plane.mask);
        plane.count = 0;
        for (const std::uint64_t word : plane.mask)
            plane.count += static_cast<std::size_t>(std::popcount(word));
        if (asWords) {
            const std::string_view bytes = reader.take(plane.count * sizeof(std::uint32_t));
            bytes.copy(reinterpret_cast<char*>(plane.words.data()), bytes.size());
        } else {
            takeWords(reader, plane.count, plane.words);
        }
        if (!reader.isSound)
            return nullptr;
        plane.words[plane.count] = 0; // read, and not used
    }
    withBits(held.bits, [&](auto bits) { putTogether(planes, bits, held.planes.data()); });
    if (!areSound(kKeptEdge, held)) {
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
    putNumber(chunk.whole ? kWhole : kChanged, out);
    if (chunk.whole)
        putWhole(*chunk.whole, out);
    else
        putChanged(chunk.changed, out);
}

std::optional<StoredChunk> decodeChunk(std::string_view& bytes)
{
    Reader reader{bytes};
    StoredChunk chunk;
    chunk.chunk.x = reader.signedNumber();
    chunk.chunk.y = reader.signedNumber();
    chunk.chunk.z = reader.signedNumber();
    if (const std::uint64_t kind = reader.number(kWhole); kind != kChanged)
        chunk.whole = readWhole(reader, kind == kWholeWords);
    else
        readChanged(reader, chunk.changed);
    if (!reader.isSound)
        return std::nullopt;
    bytes = reader.bytes;
    return chunk;
}

std::string compressed(std::string_view bytes, int level, int tableBits)
{
    struct Free {
        void operator()(ZSTD_CCtx* context) const { ZSTD_freeCCtx(context); }
    };
    static thread_local const std::unique_ptr<ZSTD_CCtx, Free> context(ZSTD_createCCtx()); // its tables are large
    ZSTD_CCtx_setParameter(context.get(), ZSTD_c_checksumFlag, 1);
    ZSTD_CCtx_setParameter(context.get(), ZSTD_c_compressionLevel, level);
    ZSTD_CCtx_setParameter(context.get(), ZSTD_c_hashLog, tableBits);
    std::string out(ZSTD_compressBound(bytes.size()), '\0');
    out.resize(ZSTD_compress2(context.get(), out.data(), out.size(), bytes.data(), bytes.size()));
    return out;
}

std::optional<std::string> decompressed(std::string_view bytes, std::size_t max)
{
    struct Free {
        void operator()(ZSTD_DCtx* context) const { ZSTD_freeDCtx(context); }
    };
    static thread_local const std::unique_ptr<ZSTD_DCtx, Free> context(ZSTD_createDCtx());
    const unsigned long long length = ZSTD_getFrameContentSize(bytes.data(), bytes.size());
    if (length == ZSTD_CONTENTSIZE_ERROR || length == ZSTD_CONTENTSIZE_UNKNOWN || length > max)
        return std::nullopt;
    std::string out(length, '\0');
    const std::size_t done = ZSTD_decompressDCtx(context.get(), out.data(), out.size(), bytes.data(), bytes.size());
    if (ZSTD_isError(done) || done != out.size())
        return std::nullopt;
    return out;
}

} // namespace fell::save
