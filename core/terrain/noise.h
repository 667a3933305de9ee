// SPDX-License-Identifier: Apache-2.0
// Fractal gradient noise over the voxels of a 64-bit world, a sample or a whole block of samples at a time.
//
// Lattice positions are fixed-point numbers (32 bits behind the point), so that the noise is as smooth 2^40 voxels from
// the origin as at it, and arithmetic is plain IEEE single precision in a fixed order, so that every machine, build
// level and number of threads gives the same bits.
#pragma once

#include <fell/grid/coords.h>

#include <array>
#include <cstdint>
#include <span>
#include <vector>

namespace fell::terrain {

/// A pseudo-random number for each point of an endless lattice: one table entry an axis, combined and multiplied.
/// Source  Tabulation hashing: Carter and Wegman, "Universal Classes of Hash Functions", JCSS 1979; Zobrist 1970.
///         Differs: what lies beyond 256 points is hashed into the axis value, so the lattice does not repeat.
struct LatticeHash {
    std::array<std::array<std::uint32_t, 256>, 3> table{}; // by axis and low byte
    std::uint64_t seed = 0;

    [[nodiscard]] std::uint32_t axis(int which, std::int64_t at) const
    {
        const std::uint32_t low = table[static_cast<std::size_t>(which)][static_cast<std::size_t>(at & 255)];
        const std::int64_t beyond = at >> 8;
        return beyond == 0 ? low
                           : low
                ^ static_cast<std::uint32_t>(
                    mix64(seed + static_cast<std::uint64_t>(which) + static_cast<std::uint64_t>(beyond) * 4));
    }
    /// 0 to 15: the gradient direction at the point whose axis values are a, b and c.
    static std::uint32_t direction(std::uint32_t a, std::uint32_t b, std::uint32_t c)
    {
        return ((a ^ b ^ c) * 0x9E3779B1u) >> 28;
    }
};

LatticeHash makeLatticeHash(std::uint64_t seed);

/// The twelve edge directions of a cube, four of them twice, so that four bits choose one.
/// Source  Perlin, "Improving Noise", SIGGRAPH 2002.
constexpr std::array<std::array<float, 3>, 16> kGradients{
    {{1, 1, 0}, {-1, 1, 0}, {1, -1, 0}, {-1, -1, 0}, {1, 0, 1}, {-1, 0, 1}, {1, 0, -1}, {-1, 0, -1}, {0, 1, 1},
        {0, -1, 1}, {0, 1, -1}, {0, -1, -1}, {1, 1, 0}, {-1, 1, 0}, {0, -1, 1}, {0, -1, -1}}};

/// What a noise looks like.
struct NoiseSpec {
    double featureSize = 64; // voxels from one lattice point to the next in the first octave; at least 2
    int octaves = 1; // 1 to 12; octaves finer than 2 voxels are left out, they would only alias
    double lacunarity = 2; // how much finer each octave is than the one before
    double gain = 0.5; // how much weaker
    std::uint64_t seed = 0;
};

struct NoiseOctave {
    LatticeHash hash;
    std::uint64_t step; // lattice cells a voxel, times 2^32
    float amplitude; // all octaves of a noise add up to 1
    std::array<std::uint64_t, 3> phase{}; // by axis: where voxel 0 lies, lattice cells times 2^32
};

/// A noise made ready to be sampled. About 3 KiB an octave.
struct Noise {
    std::vector<NoiseOctave> octaves;
    /// Each octave is |octave| - kMeanFold: folded up where it crosses zero, and still zero on the mean, so that
    /// octaves which are left out do not lower the ground.
    bool folded = false;
    /// Above 0: an octave counts for 1 / (1 + wear * s^2) of itself, s the slope of all octaves up to it and with it,
    /// in noise a voxel along x and z: what is steep loses what is fine. Still zero on the mean. Not with `folded`.
    /// Source  damping by the sum of derivatives: Quilez, "Value Noise Derivatives", 2008. Differs: slopes are those
    ///         between neighbouring voxels.
    float wear = 0;
};
constexpr double kNoiseToOne = 0.7; // brings fractal noise, which seldom leaves +-0.7, to a width of 1
constexpr float kMeanFold = 0.196f; // of |octave|, measured over 4 million columns

/// Asserts the ranges that NoiseSpec states.
Noise makeNoise(const NoiseSpec& spec);

/// The same field sampled by voxels that are 2^level times as long, in their middles; octaves that are finer than two
/// of them are left out, and what they would add is missing: a noise may lose all of them and is 0 then.
/// flat: the samples' y stays where it is, as for noises of columns.
Noise coarserNoise(const Noise& noise, int level, bool flat);

/// A sample from next to a voxel, `east` and `south` in voxels; at most 2^20.
float noiseAtOffset(const Noise& noise, VoxelPos voxel, float east, float south);

/// One sample, about -1 to 1. Bit for bit what noiseBlock gives for the same voxel. Cost: about 25 ns an octave.
float noiseAt(const Noise& noise, VoxelPos voxel);

/// A box of voxels to sample.
struct SampleBox {
    VoxelPos origin;
    int nx = 1, ny = 1, nz = 1; // voxels; each at least 1
    [[nodiscard]] std::size_t count() const { return static_cast<std::size_t>(nx) * ny * nz; }
};

/// Memory that noiseBlock works in; keep one for each thread.
struct NoiseScratch {
    std::vector<float> floats;
    std::vector<std::int32_t> ints;
    std::vector<float> octave, slopeX, slopeZ; // where noise wears
};

/// Samples every voxel of `box` into `out`, index = (y * nz + z) * nx + x.
///
/// Each lattice point is hashed once, then the axes are folded one after the other: y for a layer, z for a row, and the
/// row is a run of multiply-adds without any hashing.
/// Shape   out.size() >= box.count(). Where noise wears the box is one voxel high: asserted.
/// Cost    O(lattice points + samples); about 1 ns a sample and octave for features of 8 voxels and more.
/// Source  Perlin 1985, 2002 for the noise; folding is separable interpolation of (gradient . offset).
void noiseBlock(const Noise& noise, const SampleBox& box, NoiseScratch& scratch, std::span<float> out);

} // namespace fell::terrain
