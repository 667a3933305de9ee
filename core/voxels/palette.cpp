// SPDX-License-Identifier: Apache-2.0
// Rows are read a group at a time, whatever the number of bits.
#include <fell/voxels/palette.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cassert>
#include <cstring>

#ifdef __AVX2__
#include <immintrin.h>
#endif

namespace fell::voxels {
namespace {

/// Voxels that share a word of each plane, as a power of two.
unsigned groupShiftOf(int edge)
{
    return edge < 32 ? 4 : 5;
}

/// The materials that occur, in the order in which they come, and the number of each.
class Numbering {
public:
    Numbering()
        : m_numbers(table())
    {
    }
    ~Numbering() { clear(); }
    Numbering(const Numbering&) = delete;
    Numbering& operator=(const Numbering&) = delete;

    std::uint32_t of(Material material)
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
    /// One more than its number for each material there could be, 0 where it has none; cleared by its user.
    static std::vector<std::uint32_t>& table()
    {
        static thread_local std::vector<std::uint32_t> numbers(65536);
        return numbers;
    }
    std::vector<std::uint32_t>& m_numbers;
};

/// A group's numbers, a byte each, as a word for each of their bits.
std::array<std::uint32_t, 8> wordsOf(const std::array<std::uint8_t, 32>& numbers, unsigned bits)
{
    std::array<std::uint32_t, 8> words{};
    for (unsigned i = 0; i < 4; ++i) {
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

/// Any number of kinds: voxel by voxel and bit by bit.
PalettePlanes planesOfMany(int edge, std::span<const Material> voxels)
{
    Numbering numbering;
    std::vector<std::uint16_t> numbers;
    numbers.reserve(voxels.size());
    for (const Material material : voxels)
        numbers.push_back(static_cast<std::uint16_t>(numbering.of(material)));
    const std::size_t group = std::size_t{1} << groupShiftOf(edge);
    PalettePlanes out{numbering.kinds, paletteBits(numbering.kinds.size()), {}};
    out.planes.assign(voxels.size() / 8 * out.bits, 0);
    for (std::size_t i = 0; i < numbers.size(); ++i)
        for (unsigned b = 0; b < out.bits; ++b) {
            std::uint8_t& byte = out.planes[(i / group * out.bits + b) * group / 8 + i % group / 8];
            byte = static_cast<std::uint8_t>(byte | (numbers[i] >> b & 1) << i % 8);
        }
    return out;
}

class PaletteVoxels final : public VoxelStorage {
public:
    PaletteVoxels(int edge, PalettePlanes planes)
        : m_edge(edge)
        , m_groupShift(groupShiftOf(edge))
        , m_group(1u << m_groupShift)
        , m_held(std::move(planes))
    {
        m_held.kinds.shrink_to_fit();
        prepareReading();
    }

    [[nodiscard]] Material at(int x, int y, int z) const override
    {
        const Place place = placeOf(x, y, z);
        unsigned number = 0;
        for (unsigned b = 0; b < m_held.bits; ++b)
            number |= static_cast<unsigned>(m_held.planes[place.byte + b * (m_group / 8)] >> place.bit & 1) << b;
        return m_held.kinds[number];
    }

    void readRow(int y, int z, Material* out) const override
    {
        const std::uint8_t* words = m_held.planes.data() + static_cast<std::size_t>(y * m_edge + z) * m_rowBytes;
#ifdef __AVX2__
        if (m_reader)
            return (this->*m_reader)(words, out);
#endif
        readAny(words, out);
    }

    void set(int x, int y, int z, Material material) override
    {
        auto& kinds = m_held.kinds;
        const auto number = static_cast<std::size_t>(std::find(kinds.begin(), kinds.end(), material) - kinds.begin());
        if (number == kinds.size()) {
            kinds.push_back(material);
            if (paletteBits(kinds.size()) > m_held.bits)
                widen();
            prepareReading();
        }
        const Place place = placeOf(x, y, z);
        for (unsigned b = 0; b < m_held.bits; ++b) {
            std::uint8_t& byte = m_held.planes[place.byte + b * (m_group / 8)];
            byte = static_cast<std::uint8_t>((byte & ~(1u << place.bit)) | (number >> b & 1) << place.bit);
        }
    }

    [[nodiscard]] std::unique_ptr<VoxelStorage> copy() const override
    {
        return std::make_unique<PaletteVoxels>(*this);
    }
    [[nodiscard]] const PalettePlanes* planes() const override
    {
        return &m_held;
    }
    [[nodiscard]] std::size_t bytes() const override
    {
        return sizeof *this + m_held.kinds.capacity() * sizeof(Material) + m_held.planes.capacity();
    }

private:
    /// A row of any number of bits.
    void readAny(const std::uint8_t* words, Material* out) const
    {
        const unsigned step = m_group / 8; // bytes of a plane
        for (int x = 0; x < m_edge; x += static_cast<int>(m_group), words += m_held.bits * step)
            for (unsigned i = 0; i < m_group; ++i) {
                unsigned number = 0;
                for (unsigned b = 0; b < m_held.bits; ++b)
                    number |= static_cast<unsigned>(words[b * step + i / 8] >> i % 8 & 1) << b;
                out[x + static_cast<int>(i)] = m_held.kinds[number];
            }
    }

    struct Place {
        std::size_t byte; // of plane 0
        unsigned bit;
    };
    [[nodiscard]] Place placeOf(int x, int y, int z) const
    {
        // Shifts: a division by a number that is only known when it runs would take longer than reading the row.
        const auto voxel = static_cast<std::size_t>((y * m_edge + z) * m_edge + x);
        return {((voxel >> m_groupShift) * m_held.bits << (m_groupShift - 3)) + ((voxel & (m_group - 1)) >> 3),
            static_cast<unsigned>(voxel & 7)};
    }

    /// Room for twice as many materials: one more plane.
    void widen()
    {
        const std::size_t plane = m_group / 8, groups = static_cast<std::size_t>(m_edge) * m_edge * m_edge / m_group;
        const unsigned bits = m_held.bits;
        std::vector<std::uint8_t> planes(groups * (bits + 1) * plane, 0);
        for (std::size_t g = 0; g < groups; ++g)
            std::copy_n(m_held.planes.begin() + static_cast<std::ptrdiff_t>(g * bits * plane), bits * plane,
                planes.begin() + static_cast<std::ptrdiff_t>(g * (bits + 1) * plane));
        m_held.planes = std::move(planes);
        ++m_held.bits;
    }

    /// What reading needs: the palette's bytes apart, the way to read, how long a row is.
    void prepareReading()
    {
        m_rowBytes = static_cast<std::size_t>(m_edge) * m_held.bits / 8;
#ifdef __AVX2__
        constexpr std::array<Reader, 5> kReaders{&PaletteVoxels::readOne, &PaletteVoxels::readSmall<1>,
            &PaletteVoxels::readSmall<2>, &PaletteVoxels::readSmall<3>, &PaletteVoxels::readSmall<4>};
        m_reader = m_group == 32 && m_held.bits < kReaders.size() ? kReaders[m_held.bits] : nullptr;
#endif
        for (std::size_t i = 0; i < std::min(m_low.size(), m_held.kinds.size()); ++i) {
            m_low[i] = static_cast<std::uint8_t>(m_held.kinds[i] & 0xFF);
            m_high[i] = static_cast<std::uint8_t>(m_held.kinds[i] >> 8);
        }
    }

#ifdef __AVX2__
    using Reader = void (PaletteVoxels::*)(const std::uint8_t*, Material*) const;
    void readOne(const std::uint8_t*, Material* out) const
    {
        std::fill_n(out, m_edge, m_held.kinds[0]);
    }

    /// Up to sixteen materials: 32 bits of each plane to 32 bytes that number a table held in a register.
    template <unsigned Bits> void readSmall(const std::uint8_t* words, Material* out) const
    {
        const auto table = [](const std::array<std::uint8_t, 16>& bytes) {
            return _mm256_broadcastsi128_si256(_mm_load_si128(reinterpret_cast<const __m128i*>(bytes.data())));
        };
        const __m256i lows = table(m_low), highs = table(m_high);
        const __m256i spread = _mm256_setr_epi64x(0, 0x0101010101010101, 0x0202020202020202, 0x0303030303030303),
                      lane = _mm256_set1_epi64x(static_cast<long long>(0x8040201008040201u));
        for (int x = 0; x < m_edge; x += 32, words += Bits * 4) {
            __m256i number = _mm256_setzero_si256();
            for (unsigned b = Bits; b-- > 0;) { // twice what it was, and one more where the bit is set
                int word = 0;
                std::memcpy(&word, words + b * 4, sizeof word);
                const __m256i bit = _mm256_and_si256(_mm256_shuffle_epi8(_mm256_set1_epi32(word), spread), lane);
                number = _mm256_sub_epi8(_mm256_add_epi8(number, number), _mm256_cmpeq_epi8(bit, lane));
            }
            const __m256i low = _mm256_shuffle_epi8(lows, number), high = _mm256_shuffle_epi8(highs, number);
            const __m256i even = _mm256_unpacklo_epi8(low, high), odd = _mm256_unpackhi_epi8(low, high);
            auto* to = reinterpret_cast<__m256i*>(out + x);
            _mm256_storeu_si256(to, _mm256_permute2x128_si256(even, odd, 0x20));
            _mm256_storeu_si256(to + 1, _mm256_permute2x128_si256(even, odd, 0x31));
        }
    }
#endif

    int m_edge;
    unsigned m_groupShift, m_group; // voxels that share a word of each plane
    alignas(16) std::array<std::uint8_t, 16> m_low{}, m_high{};
    std::size_t m_rowBytes = 0;
#ifdef __AVX2__
    Reader m_reader = nullptr;
#endif
    PalettePlanes m_held;
};

/// Is each number below the number of kinds? Digit by digit from the lowest, of a group at once.
template <typename Word> bool areBelow(const PalettePlanes& held)
{
    Word any = 0;
    for (const std::uint8_t* at = held.planes.data(); at != held.planes.data() + held.planes.size();) {
        Word atLeast = static_cast<Word>(~Word{0});
        for (unsigned b = 0; b < held.bits; ++b, at += sizeof(Word)) {
            Word digit = 0;
            std::memcpy(&digit, at, sizeof digit);
            atLeast = static_cast<Word>(held.kinds.size() >> b & 1 ? digit & atLeast : digit | atLeast);
        }
        any = static_cast<Word>(any | atLeast);
    }
    return any == 0;
}

} // namespace

unsigned paletteBits(std::size_t kinds)
{
    return kinds <= 1 ? 0 : static_cast<unsigned>(std::bit_width(kinds - 1));
}

PalettePlanes planesOf(int edge, std::span<const Material> voxels)
{
    constexpr std::size_t kByte = 8; // bits that a number has at first
    const auto row = static_cast<std::size_t>(edge);
    const std::size_t group = std::size_t{1} << groupShiftOf(edge), groups = voxels.size() / group;
    Numbering numbering;
    static thread_local std::vector<std::array<std::uint32_t, kByte>> all;
    all.resize(groups);
    std::array<std::uint8_t, 32> numbers{};
    for (std::size_t g = 0; g < groups; ++g) {
        const Material* from = voxels.data() + g * group;
        if (g * group >= row && std::memcmp(from, from - row, group * sizeof(Material)) == 0) {
            all[g] = all[g - row / group]; // as in the row before
            continue;
        }
        for (std::size_t x = 0; x < group; ++x) // neighbours are mostly alike
            numbers[x]
                = x > 0 && from[x] == from[x - 1] ? numbers[x - 1] : static_cast<std::uint8_t>(numbering.of(from[x]));
        if (numbering.kinds.size() > std::size_t{1} << kByte) {
            numbering.clear();
            return planesOfMany(edge, voxels);
        }
        all[g] = wordsOf(numbers, paletteBits(numbering.kinds.size()));
    }
    static_assert(std::endian::native == std::endian::little, "words are written as they lie");
    PalettePlanes out{numbering.kinds, paletteBits(numbering.kinds.size()), {}};
    const std::size_t word = group / 8;
    out.planes.resize(groups * out.bits * word);
    std::uint8_t* to = out.planes.data();
    for (std::size_t g = 0; g < groups; ++g)
        for (unsigned b = 0; b < out.bits; ++b, to += word)
            std::memcpy(to, &all[g][b], word);
    return out;
}

std::unique_ptr<VoxelStorage> holdPlanes(int edge, PalettePlanes planes)
{
    assert(areSound(edge, planes));
    return std::make_unique<PaletteVoxels>(edge, std::move(planes));
}

bool areSound(int edge, const PalettePlanes& planes)
{
    const std::size_t voxels
        = static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge);
    const std::size_t bits = planes.bits, kinds = planes.kinds.size();
    if (kinds == 0 || bits != paletteBits(kinds) || planes.planes.size() != voxels / 8 * bits)
        return false;
    if (kinds == std::size_t{1} << bits)
        return true; // every number is one
    return edge < 32 ? areBelow<std::uint16_t>(planes) : areBelow<std::uint32_t>(planes);
}

std::unique_ptr<VoxelStorage> holdPalette(int edge, std::span<const Material> voxels)
{
    return holdPlanes(edge, planesOf(edge, voxels));
}

} // namespace fell::voxels
