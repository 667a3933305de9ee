// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/noise.h>

#include <algorithm>
#include <cassert>
#include <cmath>
#include <cstring>
#include <utility>

namespace fell::terrain {
namespace {

__extension__ typedef __int128 Wide; // NOLINT(modernize-use-using): __extension__ wants a typedef
// Eight samples of a row. GCC lowers these to whatever the build level has.
using Float8 = float __attribute__((vector_size(32)));
using Int8 = std::int32_t __attribute__((vector_size(32)));
constexpr int kLanes = 8;

struct LatticeAt {
    std::int64_t cell;
    float offset; // in the cell, [0, 1)
};

LatticeAt latticeAt(std::int64_t voxel, std::uint64_t step, std::uint64_t phase, float offset = 0)
{
    const Wide position = static_cast<Wide>(voxel) * static_cast<Wide>(step) + static_cast<Wide>(phase)
        + static_cast<Wide>(static_cast<double>(offset) * static_cast<double>(step));
    const auto fraction = static_cast<std::uint32_t>(position);
    return {static_cast<std::int64_t>(position >> 32), static_cast<float>(fraction >> 8) * 0x1p-24f};
}

float fade(float t)
{
    return t * t * t * (t * (t * 6.0f - 15.0f) + 10.0f);
}

template <typename T> T blend(T a, T b, T weight)
{
    return a + weight * (b - a);
}

float octaveAt(const NoiseOctave& octave, VoxelPos voxel, float east, float south)
{
    const LatticeAt lx = latticeAt(voxel.x, octave.step, octave.phase[0], east),
                    ly = latticeAt(voxel.y, octave.step, octave.phase[1]),
                    lz = latticeAt(voxel.z, octave.step, octave.phase[2], south);
    const float wx = fade(lx.offset), wy = fade(ly.offset), wz = fade(lz.offset);
    const std::uint32_t ax[2]{octave.hash.axis(0, lx.cell), octave.hash.axis(0, lx.cell + 1)};
    const std::uint32_t ay[2]{octave.hash.axis(1, ly.cell), octave.hash.axis(1, ly.cell + 1)};
    const std::uint32_t az[2]{octave.hash.axis(2, lz.cell), octave.hash.axis(2, lz.cell + 1)};
    float slope[2], level[2]; // of the row, at the two lattice points in x
    for (int i = 0; i < 2; ++i) {
        float gx[2], gz[2], c[2];
        for (int k = 0; k < 2; ++k) {
            const auto& low = kGradients[LatticeHash::direction(ax[i], ay[0], az[k])];
            const auto& high = kGradients[LatticeHash::direction(ax[i], ay[1], az[k])];
            gx[k] = blend(low[0], high[0], wy);
            gz[k] = blend(low[2], high[2], wy);
            c[k] = blend(low[1] * ly.offset, high[1] * (ly.offset - 1.0f), wy);
        }
        slope[i] = blend(gx[0], gx[1], wz);
        level[i] = blend(c[0] + gz[0] * lz.offset, c[1] + gz[1] * (lz.offset - 1.0f), wz);
    }
    const float first = level[0], rise = slope[0], apart = level[1] - slope[1] - first, bend = slope[1] - rise;
    return (first + lx.offset * rise) + wx * (apart + lx.offset * bend);
}

/// The samples along one axis: which cell each lies in (from the first one's on), its offset and its weight.
struct AxisSamples {
    std::int64_t firstCell = 0;
    int points = 0; // lattice points that the samples touch
    std::int32_t* cell = nullptr;
    float* offset = nullptr;
    float* weight = nullptr;
};

int roundUp(int count)
{
    return (count + kLanes - 1) / kLanes * kLanes;
}

int maxPoints(int samples, std::uint64_t step)
{
    return static_cast<int>((static_cast<std::uint64_t>(samples) * step) >> 32) + 3;
}

void fillAxis(AxisSamples& axis, std::int64_t origin, int count, std::uint64_t step, std::uint64_t phase)
{
    axis.firstCell = latticeAt(origin, step, phase).cell;
    const int padded = roundUp(count);
    for (int i = 0; i < padded; ++i) {
        const LatticeAt at
            = latticeAt(origin + std::min(i, count - 1), step, phase); // lanes past the end repeat the last
        axis.cell[i] = static_cast<std::int32_t>(at.cell - axis.firstCell);
        axis.offset[i] = at.offset;
        axis.weight[i] = fade(at.offset);
    }
    axis.points = axis.cell[count - 1] + 2;
}

/// The gradients of all lattice points of the box: three arrays, index = (j * points.z + k) * points.x + i.
struct Gradients {
    float *x, *y, *z;
};

void hashLattice(const LatticeHash& hash, const AxisSamples (&axes)[3], const Gradients& to)
{
    const int px = axes[0].points, py = axes[1].points, pz = axes[2].points;
    std::size_t at = 0;
    for (int j = 0; j < py; ++j) {
        const std::uint32_t ay = hash.axis(1, axes[1].firstCell + j);
        for (int k = 0; k < pz; ++k) {
            const std::uint32_t az = hash.axis(2, axes[2].firstCell + k);
            for (int i = 0; i < px; ++i, ++at) {
                const auto& g = kGradients[LatticeHash::direction(hash.axis(0, axes[0].firstCell + i), ay, az)];
                to.x[at] = g[0];
                to.y[at] = g[1];
                to.z[at] = g[2];
            }
        }
    }
}

Float8 load(const float* from)
{
    Float8 v;
    std::memcpy(&v, from, sizeof v);
    return v;
}

/// Lane i of the result is lane `from[i]` of `values`.
Float8 pick(Float8 values, Int8 from)
{
#ifdef __clang__ // has no shuffle by a vector that is not constant
    Float8 out{};
    for (int i = 0; i < kLanes; ++i)
        out[i] = values[from[i]];
    return out;
#else
    return __builtin_shuffle(values, from);
#endif
}

Float8 withoutSign(Float8 values)
{
    Int8 bits;
    std::memcpy(&bits, &values, sizeof bits);
    bits &= 0x7FFFFFFF;
    std::memcpy(&values, &bits, sizeof bits);
    return values;
}

/// The four coefficients of a row in each cell: value = (first + t * rise) + w * (apart + t * bend).
struct Row {
    float *first, *rise, *apart, *bend;
};

/// Writes or adds one row of samples. `keep` is false for the first octave.
template <bool kFolded>
void writeRow(const Row& row, const AxisSamples& x, int count, float amplitude, bool keep, float* out)
{
    for (int s = 0; s < count; s += kLanes) {
        const std::int32_t base = x.cell[s];
        Int8 lane;
        std::memcpy(&lane, x.cell + s, sizeof lane);
        lane -= base;
        // Eight samples lie in at most five cells (a feature is at least two voxels), so one shuffle finds each.
        const Float8 first = pick(load(row.first + base), lane);
        const Float8 rise = pick(load(row.rise + base), lane);
        const Float8 apart = pick(load(row.apart + base), lane);
        const Float8 bend = pick(load(row.bend + base), lane);
        const Float8 t = load(x.offset + s), w = load(x.weight + s);
        Float8 value = (first + t * rise) + w * (apart + t * bend);
        if constexpr (kFolded)
            value = withoutSign(value) - kMeanFold;
        value *= amplitude;
        if (s + kLanes <= count) {
            if (keep)
                value = load(out + s) + value;
            std::memcpy(out + s, &value, sizeof value);
        } else {
            for (int i = 0; s + i < count; ++i)
                out[s + i] = keep ? out[s + i] + value[i] : value[i];
        }
    }
}

/// One octave over the whole box. Long because it is the order of the three folds that matters.
template <bool kFolded>
void octaveBlock(const NoiseOctave& octave, const SampleBox& box, NoiseScratch& scratch, bool keep, float* out)
{
    const int counts[3]{box.nx, box.ny, box.nz};
    const std::int64_t origins[3]{box.origin.x, box.origin.y, box.origin.z};
    std::size_t lattice = 1, samples = 0, ints = 0;
    for (const int count : counts) {
        lattice *= static_cast<std::size_t>(maxPoints(count, octave.step));
        samples += 2 * static_cast<std::size_t>(roundUp(count));
        ints += static_cast<std::size_t>(roundUp(count));
    }
    const auto px = static_cast<std::size_t>(maxPoints(box.nx, octave.step));
    const std::size_t layer = px * static_cast<std::size_t>(maxPoints(box.nz, octave.step));
    const std::size_t row = px + kLanes; // a shuffle reads up to eight cells from its base on
    scratch.floats.resize(samples + 3 * lattice + 3 * layer + 4 * row);
    scratch.ints.resize(ints);

    float* next = scratch.floats.data();
    std::int32_t* nextInt = scratch.ints.data();
    const auto take = [&next](std::size_t count) { return std::exchange(next, next + count); };
    AxisSamples axes[3];
    for (int a = 0; a < 3; ++a) {
        const auto padded = static_cast<std::size_t>(roundUp(counts[a]));
        axes[a].cell = std::exchange(nextInt, nextInt + padded);
        axes[a].offset = take(padded);
        axes[a].weight = take(padded);
        fillAxis(axes[a], origins[a], counts[a], octave.step, octave.phase[static_cast<std::size_t>(a)]);
    }
    const Gradients g{take(lattice), take(lattice), take(lattice)};
    hashLattice(octave.hash, axes, g);

    float *gx = take(layer), *gz = take(layer), *level = take(layer);
    const Row coefficients{take(row), take(row), take(row), take(row)};
    const int points = axes[0].points, perLayer = points * axes[2].points;
    std::fill(coefficients.first, coefficients.first + 4 * row, 0.0f);
    for (int y = 0; y < box.ny; ++y) {
        const float fy = axes[1].offset[y], wy = axes[1].weight[y];
        const int low = axes[1].cell[y] * perLayer, high = low + perLayer;
        for (int p = 0; p < perLayer; ++p) {
            gx[p] = blend(g.x[low + p], g.x[high + p], wy);
            gz[p] = blend(g.z[low + p], g.z[high + p], wy);
            level[p] = blend(g.y[low + p] * fy, g.y[high + p] * (fy - 1.0f), wy);
        }
        for (int z = 0; z < box.nz; ++z, out += box.nx) {
            const float fz = axes[2].offset[z], wz = axes[2].weight[z];
            const int near = axes[2].cell[z] * points, far = near + points;
            for (int i = 0; i < points; ++i) {
                coefficients.rise[i] = blend(gx[near + i], gx[far + i], wz);
                coefficients.first[i]
                    = blend(level[near + i] + gz[near + i] * fz, level[far + i] + gz[far + i] * (fz - 1.0f), wz);
            }
            for (int i = 0; i + 1 < points; ++i) {
                coefficients.apart[i] = coefficients.first[i + 1] - coefficients.rise[i + 1] - coefficients.first[i];
                coefficients.bend[i] = coefficients.rise[i + 1] - coefficients.rise[i];
            }
            writeRow<kFolded>(coefficients, axes[0], box.nx, octave.amplitude, keep, out);
        }
    }
}

/// What is left of an octave where the slope has come to (x, z).
float worn(float octave, float wear, float slopeX, float slopeZ)
{
    return octave / (1.0f + wear * (slopeX * slopeX + slopeZ * slopeZ));
}

/// One octave after the other, each with a margin of one voxel for its slope.
void wornBlock(const Noise& noise, const SampleBox& box, NoiseScratch& scratch, float* out)
{
    assert(box.ny == 1 && !noise.folded);
    const SampleBox wide{{box.origin.x - 1, box.origin.y, box.origin.z - 1}, box.nx + 2, 1, box.nz + 2};
    scratch.octave.resize(wide.count());
    scratch.slopeX.assign(box.count(), 0.0f);
    scratch.slopeZ.assign(box.count(), 0.0f);
    for (std::size_t i = 0; i < noise.octaves.size(); ++i) {
        octaveBlock<false>(noise.octaves[i], wide, scratch, false, scratch.octave.data());
        std::size_t at = 0;
        for (int z = 0; z < box.nz; ++z) {
            const float* middle = scratch.octave.data() + static_cast<std::ptrdiff_t>(z + 1) * wide.nx + 1;
            const float *north = middle - wide.nx, *south = middle + wide.nx;
            for (int x = 0; x < box.nx; ++x, ++at) {
                scratch.slopeX[at] += (middle[x + 1] - middle[x - 1]) * 0.5f;
                scratch.slopeZ[at] += (south[x] - north[x]) * 0.5f;
                const float value = worn(middle[x], noise.wear, scratch.slopeX[at], scratch.slopeZ[at]);
                out[at] = i == 0 ? value : out[at] + value;
            }
        }
    }
}

/// The same for one sample.
float wornBeside(const Noise& noise, VoxelPos voxel, float east, float south)
{
    float sum = 0, slopeX = 0, slopeZ = 0;
    for (std::size_t i = 0; i < noise.octaves.size(); ++i) {
        const NoiseOctave& octave = noise.octaves[i];
        const auto at = [&](std::int64_t dx, std::int64_t dz) {
            return octaveAt(octave, {voxel.x + dx, voxel.y, voxel.z + dz}, east, south) * octave.amplitude;
        };
        slopeX += (at(1, 0) - at(-1, 0)) * 0.5f;
        slopeZ += (at(0, 1) - at(0, -1)) * 0.5f;
        const float value = worn(at(0, 0), noise.wear, slopeX, slopeZ);
        sum = i == 0 ? value : sum + value;
    }
    return sum;
}

} // namespace

LatticeHash makeLatticeHash(std::uint64_t seed)
{
    LatticeHash hash;
    hash.seed = mix64(seed);
    std::uint64_t next = hash.seed;
    for (auto& axis : hash.table)
        for (auto& entry : axis)
            entry = static_cast<std::uint32_t>(mix64(++next));
    return hash;
}

Noise makeNoise(const NoiseSpec& spec)
{
    assert(spec.featureSize >= 2 && spec.featureSize <= 1e6 && spec.octaves >= 1 && spec.octaves <= 12);
    assert(spec.lacunarity >= 1 && spec.gain > 0 && spec.gain <= 1);
    Noise noise;
    double feature = spec.featureSize, amplitude = 1, sum = 0;
    for (int i = 0; i < spec.octaves && feature >= 2; ++i) {
        const auto step = static_cast<std::uint64_t>(std::llround(0x1p32 / feature));
        noise.octaves.push_back({makeLatticeHash(spec.seed + static_cast<std::uint64_t>(i) * 0x51ED27), step,
            static_cast<float>(amplitude), {}});
        sum += amplitude;
        feature /= spec.lacunarity;
        amplitude *= spec.gain;
    }
    for (auto& octave : noise.octaves)
        octave.amplitude = static_cast<float>(octave.amplitude / sum);
    return noise;
}

Noise coarserNoise(const Noise& noise, int level, bool flat)
{
    assert(level >= 0 && level <= kMaxLevel);
    constexpr std::uint64_t kFinest = std::uint64_t{1} << 31; // half a cell a voxel
    Noise out{
        {}, noise.folded, std::ldexp(noise.wear, -2 * level)}; // slopes a voxel grow with its length; heights do not
    for (NoiseOctave octave : noise.octaves) {
        const std::uint64_t middle = ((std::uint64_t{1} << level) - 1) * octave.step / 2;
        octave.phase = {octave.phase[0] + middle, octave.phase[1] + (flat ? 0 : middle), octave.phase[2] + middle};
        octave.step <<= level;
        if (octave.step <= kFinest)
            out.octaves.push_back(octave);
    }
    return out;
}

float noiseAt(const Noise& noise, VoxelPos voxel)
{
    return noiseAtOffset(noise, voxel, 0, 0);
}

float noiseAtOffset(const Noise& noise, VoxelPos voxel, float east, float south)
{
    if (noise.octaves.empty())
        return 0;
    if (noise.wear > 0)
        return wornBeside(noise, voxel, east, south);
    const auto value = [&](const NoiseOctave& octave) {
        const float at = octaveAt(octave, voxel, east, south);
        return (noise.folded ? std::abs(at) - kMeanFold : at) * octave.amplitude;
    };
    float sum = value(noise.octaves[0]);
    for (std::size_t i = 1; i < noise.octaves.size(); ++i)
        sum = sum + value(noise.octaves[i]);
    return sum;
}

void noiseBlock(const Noise& noise, const SampleBox& box, NoiseScratch& scratch, std::span<float> out)
{
    assert(box.nx >= 1 && box.ny >= 1 && box.nz >= 1 && out.size() >= box.count());
    if (noise.octaves.empty())
        std::fill_n(out.begin(), box.count(), 0.0f);
    if (noise.wear > 0)
        return wornBlock(noise, box, scratch, out.data());
    for (std::size_t i = 0; i < noise.octaves.size(); ++i)
        if (noise.folded)
            octaveBlock<true>(noise.octaves[i], box, scratch, i > 0, out.data());
        else
            octaveBlock<false>(noise.octaves[i], box, scratch, i > 0, out.data());
}

} // namespace fell::terrain
