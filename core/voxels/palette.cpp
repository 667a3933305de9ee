// SPDX-License-Identifier: Apache-2.0
// A palette, and each voxel's number in it as bit planes: a group of 32 voxels of a row (16 where rows are that short)
// is one word for each bit of the number. Rows are read a group at a time, whatever the number of bits.
//
//   planes   bytes; those of plane b of group g begin at (g * bits + b) * group / 8, lowest x in the lowest bit
#include "voxels/forms.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cstring>

#ifdef __AVX2__
#include <immintrin.h>
#endif

namespace fell {
namespace {

class PaletteVoxels final : public HeldVoxels {
public:
    PaletteVoxels(int edge, std::span<const Material> voxels)
        : m_edge(edge)
        , m_groupShift(edge < 32 ? 4 : 5)
        , m_group(1u << m_groupShift)
    {
        std::vector<std::uint16_t> numbers(voxels.size());
        std::vector<int> numberOf(65536, -1);
        for (std::size_t i = 0; i < voxels.size(); ++i) {
            if (i > 0 && voxels[i] == voxels[i - 1]) { // neighbours are mostly alike
                numbers[i] = numbers[i - 1];
                continue;
            }
            int& number = numberOf[voxels[i]];
            if (number < 0) {
                number = static_cast<int>(m_palette.size());
                m_palette.push_back(voxels[i]);
            }
            numbers[i] = static_cast<std::uint16_t>(number);
        }
        pack(numbers);
    }

    [[nodiscard]] Material at(int x, int y, int z) const override
    {
        const Place place = placeOf(x, y, z);
        unsigned number = 0;
        for (unsigned b = 0; b < m_bits; ++b)
            number |= static_cast<unsigned>(m_planes[place.byte + b * (m_group / 8)] >> place.bit & 1) << b;
        return m_palette[number];
    }

    void readRow(int y, int z, Material* out) const override
    {
        const std::uint8_t* words = m_planes.data() + static_cast<std::size_t>(y * m_edge + z) * m_rowBytes;
#ifdef __AVX2__
        if (m_reader)
            return (this->*m_reader)(words, out);
#endif
        readAny(words, out);
    }

    void set(int x, int y, int z, Material material) override
    {
        const auto end = m_palette.begin() + static_cast<std::ptrdiff_t>(m_count);
        const auto number = static_cast<std::size_t>(std::find(m_palette.begin(), end, material) - m_palette.begin());
        if (number == m_count) {
            if (m_count == std::size_t{1} << m_bits)
                widen();
            m_palette[m_count++] = material;
            prepareReading();
        }
        const Place place = placeOf(x, y, z);
        for (unsigned b = 0; b < m_bits; ++b) {
            std::uint8_t& byte = m_planes[place.byte + b * (m_group / 8)];
            byte = static_cast<std::uint8_t>((byte & ~(1u << place.bit)) | (number >> b & 1) << place.bit);
        }
    }

    [[nodiscard]] std::unique_ptr<HeldVoxels> copy() const override
    {
        return std::make_unique<PaletteVoxels>(*this);
    }
    [[nodiscard]] std::size_t bytes() const override
    {
        return sizeof *this + m_palette.capacity() * sizeof(Material) + m_planes.capacity();
    }

private:
    /// A row of any number of bits.
    void readAny(const std::uint8_t* words, Material* out) const
    {
        const unsigned step = m_group / 8; // bytes of a plane
        for (int x = 0; x < m_edge; x += static_cast<int>(m_group), words += m_bits * step)
            for (unsigned i = 0; i < m_group; ++i) {
                unsigned number = 0;
                for (unsigned b = 0; b < m_bits; ++b)
                    number |= static_cast<unsigned>(words[b * step + i / 8] >> i % 8 & 1) << b;
                out[x + static_cast<int>(i)] = m_palette[number];
            }
    }

    struct Place {
        std::size_t byte; // of plane 0
        unsigned bit;
    };
    [[nodiscard]] Place placeOf(int x, int y, int z) const
    {
        return placeOf(static_cast<std::size_t>((y * m_edge + z) * m_edge + x), m_bits);
    }
    [[nodiscard]] Place placeOf(std::size_t voxel, unsigned bits) const
    {
        // Shifts: a division by a number that is only known when it runs would take longer than reading the row.
        return {((voxel >> m_groupShift) * bits << (m_groupShift - 3)) + ((voxel & (m_group - 1)) >> 3),
            static_cast<unsigned>(voxel & 7)};
    }

    void pack(const std::vector<std::uint16_t>& numbers)
    {
        m_count = m_palette.size();
        m_bits = static_cast<unsigned>(std::bit_width(m_count - 1));
        m_palette.resize(std::max<std::size_t>(16, std::size_t{1} << m_bits)); // sixteen for the table look-up
        m_palette.shrink_to_fit();
        prepareReading();
        m_planes.assign(numbers.size() / 8 * m_bits, 0);
        for (std::size_t i = 0; i < numbers.size(); ++i) {
            const Place place = placeOf(i, m_bits);
            for (unsigned b = 0; b < m_bits; ++b) {
                std::uint8_t& byte = m_planes[place.byte + b * (m_group / 8)];
                byte = static_cast<std::uint8_t>(byte | (numbers[i] >> b & 1) << place.bit);
            }
        }
    }

    /// Room for twice as many materials: one more plane.
    void widen()
    {
        const std::size_t plane = m_group / 8, groups = static_cast<std::size_t>(m_edge) * m_edge * m_edge / m_group;
        std::vector<std::uint8_t> planes(groups * (m_bits + 1) * plane, 0);
        for (std::size_t g = 0; g < groups; ++g)
            std::copy_n(m_planes.begin() + static_cast<std::ptrdiff_t>(g * m_bits * plane), m_bits * plane,
                planes.begin() + static_cast<std::ptrdiff_t>(g * (m_bits + 1) * plane));
        m_planes = std::move(planes);
        ++m_bits;
        m_palette.resize(std::max<std::size_t>(16, std::size_t{1} << m_bits));
        prepareReading();
    }

    /// What reading needs: the palette's bytes apart, the way to read, how long a row is.
    void prepareReading()
    {
        m_rowBytes = static_cast<std::size_t>(m_edge) * m_bits / 8;
#ifdef __AVX2__
        constexpr std::array<Reader, 5> kReaders{&PaletteVoxels::readOne, &PaletteVoxels::readSmall<1>,
            &PaletteVoxels::readSmall<2>, &PaletteVoxels::readSmall<3>, &PaletteVoxels::readSmall<4>};
        m_reader = m_group == 32 && m_bits < kReaders.size() ? kReaders[m_bits] : nullptr;
#endif

        for (std::size_t i = 0; i < 16; ++i) {
            m_low[i] = static_cast<std::uint8_t>(m_palette[i] & 0xFF);
            m_high[i] = static_cast<std::uint8_t>(m_palette[i] >> 8);
        }
    }

#ifdef __AVX2__
    using Reader = void (PaletteVoxels::*)(const std::uint8_t*, Material*) const;
    void readOne(const std::uint8_t*, Material* out) const
    {
        std::fill_n(out, m_edge, m_palette[0]);
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
    unsigned m_bits = 0;
    std::size_t m_rowBytes = 0;
#ifdef __AVX2__
    Reader m_reader = nullptr;
#endif
    std::size_t m_count = 0; // materials; the palette has room for all numbers
    std::vector<Material> m_palette;
    std::vector<std::uint8_t> m_planes;
};

} // namespace

std::unique_ptr<HeldVoxels> holdPalette(int edge, std::span<const Material> voxels)
{
    return std::make_unique<PaletteVoxels>(edge, voxels);
}

} // namespace fell
