// SPDX-License-Identifier: Apache-2.0
#include <fell/light/transmission.h>

#include <algorithm>
#include <bit>

#ifdef __AVX2__
#include <immintrin.h>
#endif

namespace fell::light {
namespace {

std::size_t wordsOf(int edge)
{
    return static_cast<std::size_t>(edge) * edge * edge / 64;
}

struct RowBits {
    std::uint64_t open = 0; // open air
    std::uint64_t dark = 0; // one of the blocks that take everything
};

/// Sixteen voxels. Asserts nothing.
RowBits readSixteen(const Material* voxels, Material dark)
{
#ifdef __AVX2__
    const __m256i all = _mm256_loadu_si256(reinterpret_cast<const __m256i*>(voxels));
    const __m256i one = _mm256_set1_epi16(1), less = _mm256_sub_epi16(all, one);
    const __m256i open = _mm256_cmpeq_epi16(all, _mm256_setzero_si256());
    const __m256i below = _mm256_set1_epi16(static_cast<short>(dark - 1)); // a world without dark blocks: handled below
    const __m256i solid = _mm256_cmpeq_epi16(_mm256_min_epu16(less, below), less);
    const auto bits = [](__m256i flags) {
        const __m128i bytes = _mm_packs_epi16(_mm256_castsi256_si128(flags), _mm256_extracti128_si256(flags, 1));
        return static_cast<std::uint64_t>(static_cast<unsigned>(_mm_movemask_epi8(bytes)));
    };
    return {bits(open), dark == 0 ? 0 : bits(solid)};
#else
    RowBits bits;
    for (int x = 0; x < 16; ++x) {
        bits.open |= std::uint64_t{voxels[x] == kOpen} << x;
        bits.dark |= std::uint64_t{static_cast<Material>(voxels[x] - 1) < dark} << x;
    }
    return bits;
#endif
}

template <int kEdge> RowBits readRow(const Material* row, Material dark)
{
    RowBits bits;
    for (int x = 0; x < kEdge; x += 16) {
        const RowBits some = readSixteen(row + x, dark);
        bits.open |= some.open << x;
        bits.dark |= some.dark << x;
    }
    return bits;
}

AbsorbingVoxels& dearOf(Transmission::Colour& colour, int attenuation, int edge)
{
    for (AbsorbingVoxels& absorbing : colour.absorbing)
        if (absorbing.attenuation == attenuation)
            return absorbing;
    colour.absorbing.push_back({attenuation, BitVolume(wordsOf(edge))});
    return colour.absorbing.back();
}

void splitColours(Transmission& passes)
{
    if (passes.colours.size() == 1)
        passes.colours.resize(kLightColourCount, Transmission::Colour(passes.colours[0]));
}

/// Everything but open air and the blocks that take everything: voxels of one material, bits of the word that begins
/// at voxel 64 * word. Their bits are all off before.
void addRare(Transmission& passes, std::size_t word, std::uint64_t bits, Material material, const LightRules& rules)
{
    if (rules.isTinted[material]) {
        splitColours(passes);
        passes.tinted.resize(wordsOf(passes.edge));
        passes.tinted[word] |= bits;
        for (std::size_t c = 0; c < kLightColourCount; ++c)
            if (rules.attenuation[c][material] != rules.attenuation[0][material])
                passes.asPlain &= static_cast<std::uint8_t>(~(1u << c));
    }
    for (std::size_t c = 0; c < passes.colours.size(); ++c) {
        const int attenuation = rules.attenuation[c][material];
        if (attenuation == 1)
            passes.colours[c].transparent[word] |= bits;
        else if (attenuation < kMaxLight)
            dearOf(passes.colours[c], attenuation, passes.edge).where[word] |= bits;
    }
    if (rules.isOpen[material])
        passes.open[word] |= bits;
    if (!rules.isLamp[material])
        return;
    for (; bits != 0; bits &= bits - 1) {
        const LampVoxel lamp{
            static_cast<std::uint32_t>(64 * word + static_cast<unsigned>(std::countr_zero(bits))), material};
        const auto at = std::lower_bound(passes.lamps.begin(), passes.lamps.end(), lamp,
            [](const LampVoxel& a, const LampVoxel& b) { return a.voxel < b.voxel; });
        passes.lamps.insert(at, lamp);
    }
}

/// Gives a chunk that is all alike its bits.
void expand(Transmission& passes)
{
    if (passes.kind == Transmission::Kind::Mixed)
        return;
    const std::uint64_t all = passes.kind == Transmission::Kind::Open ? ~std::uint64_t{0} : 0;
    passes.colours.resize(1);
    passes.colours[0].transparent.assign(wordsOf(passes.edge), all);
    passes.open.assign(wordsOf(passes.edge), all);
    passes.kind = Transmission::Kind::Mixed;
}

template <int kEdge> void readVoxels(const VoxelChunk& chunk, const LightRules& rules, Transmission& passes)
{
    std::array<Material, kEdge> row;
    const auto read = [&chunk, &row](int y, int z) -> const Material* {
        if (chunk.plain())
            return chunk.plain() + (y * kEdge + z) * kEdge;
        chunk.readRow(0, y, z, kEdge, row.data());
        return row.data();
    };
    BitVolume transparent(wordsOf(kEdge)); // open air; what is rare comes after
    std::vector<std::pair<std::uint16_t, std::uint64_t>> rare; // row, bits
    constexpr std::uint64_t kAll = ~std::uint64_t{0} >> (64 - kEdge);
    for (int y = 0; y < kEdge; ++y)
        for (int z = 0; z < kEdge; ++z) {
            const RowBits bits = readRow<kEdge>(read(y, z), rules.dark);
            setRow<kEdge>(transparent.data(), y, z, bits.open);
            if (const std::uint64_t rest = kAll & ~(bits.open | bits.dark))
                rare.emplace_back(static_cast<std::uint16_t>(y * kEdge + z), rest);
        }
    passes.open = transparent;
    passes.colours.resize(1);
    passes.colours[0].transparent = std::move(transparent);
    for (auto [at, rest] : rare) {
        const Material* materials = read(at / kEdge, at % kEdge);
        const std::size_t voxel = std::size_t{at} * kEdge;
        while (rest != 0) { // material by material: water and needles come in runs
            const Material material = materials[std::countr_zero(rest)];
            std::uint64_t alike = 0;
            for (int x = 0; x < kEdge; ++x)
                alike |= std::uint64_t{materials[x] == material} << x;
            alike &= rest;
            rest &= ~alike;
            addRare(passes, voxel / 64, alike << (voxel % 64), material, rules);
        }
    }
}

} // namespace

std::size_t Transmission::bytes() const
{
    std::size_t sum = sizeof *this + (open.capacity() + tinted.capacity()) * 8 + lamps.capacity() * sizeof(LampVoxel);
    for (const Colour& colour : colours) {
        sum += sizeof colour + colour.transparent.capacity() * 8;
        for (const AbsorbingVoxels& absorbing : colour.absorbing)
            sum += sizeof absorbing + absorbing.where.capacity() * 8;
    }
    return sum;
}

Transmission transmissionOf(const VoxelChunk& chunk, const LightRules& rules)
{
    Transmission passes;
    passes.edge = chunk.edge();
    passes.kind = Transmission::Kind::Mixed;
    if (chunk.isUniform()) {
        const Material all = chunk.uniform();
        if (all == kOpen || (rules.isOpen[all] && !rules.isLamp[all]))
            passes.kind = Transmission::Kind::Open;
        else if (rules.attenuation[0][all] == kMaxLight && !rules.isLamp[all])
            passes.kind = Transmission::Kind::Dark;
        if (passes.kind != Transmission::Kind::Mixed)
            return passes;
    }
    withEdge(chunk.edge(), [&](auto edge) { readVoxels<decltype(edge)::value>(chunk, rules, passes); });
    return passes;
}

void setVoxel(Transmission& passes, std::size_t voxel, Material material, const LightRules& rules)
{
    expand(passes);
    for (Transmission::Colour& colour : passes.colours) {
        setBit(colour.transparent, voxel, false);
        for (AbsorbingVoxels& absorbing : colour.absorbing)
            setBit(absorbing.where, voxel, false);
    }
    setBit(passes.open, voxel, false);
    if (!passes.tinted.empty())
        setBit(passes.tinted, voxel, false);
    std::erase_if(passes.lamps, [voxel](const LampVoxel& lamp) { return lamp.voxel == voxel; });
    if (material == kOpen) {
        setBit(passes.open, voxel, true);
        for (Transmission::Colour& colour : passes.colours)
            setBit(colour.transparent, voxel, true);
    } else {
        addRare(passes, voxel / 64, std::uint64_t{1} << (voxel % 64), material, rules);
    }
}

int takenAt(const Transmission& passes, std::size_t voxel, LightColour colour)
{
    if (passes.kind != Transmission::Kind::Mixed)
        return passes.kind == Transmission::Kind::Open ? 1 : kMaxLight;
    const Transmission::Colour& of = passes.of(colour);
    if (bitAt(of.transparent, voxel))
        return 1;
    for (const AbsorbingVoxels& absorbing : of.absorbing)
        if (bitAt(absorbing.where, voxel))
            return absorbing.attenuation;
    return kMaxLight;
}

} // namespace fell::light
