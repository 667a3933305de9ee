// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/terrain/noise.h>

#include <gtest/gtest.h>

#include <cmath>
#include <random>

namespace fell::noise_test {
namespace {

/// Gradient noise as its paper has it: eight dot products and seven interpolations, in double precision.
double textbookNoise(const LatticeHash& hash, double x, double y, double z)
{
    const auto i = static_cast<std::int64_t>(std::floor(x)), j = static_cast<std::int64_t>(std::floor(y)),
               k = static_cast<std::int64_t>(std::floor(z));
    const double fx = x - std::floor(x), fy = y - std::floor(y), fz = z - std::floor(z);
    const auto fade = [](double t) { return t * t * t * (t * (t * 6 - 15) + 10); };
    const auto mix = [](double a, double b, double w) { return a + w * (b - a); };
    const auto corner = [&](int dx, int dy, int dz) {
        const auto& g
            = kGradients[LatticeHash::direction(hash.axis(0, i + dx), hash.axis(1, j + dy), hash.axis(2, k + dz))];
        return g[0] * (fx - dx) + g[1] * (fy - dy) + g[2] * (fz - dz);
    };
    const auto row = [&](int dy, int dz) { return mix(corner(0, dy, dz), corner(1, dy, dz), fade(fx)); };
    const auto layer = [&](int dz) { return mix(row(0, dz), row(1, dz), fade(fy)); };
    return mix(layer(0), layer(1), fade(fz));
}

TEST(Noise, IsTheTextbooksToRoundingAtOneOctave)
{
    const Noise noise = makeNoise({.featureSize = 16, .octaves = 1, .seed = 5});
    const LatticeHash hash = makeLatticeHash(5);
    std::mt19937_64 dice(3);
    for (int i = 0; i < 4000; ++i) {
        const auto far = [&dice] { return static_cast<std::int64_t>(dice() % 4001) - 2000; };
        const VoxelPos at{far(), far(), far()};
        EXPECT_NEAR(noiseAt(noise, at), textbookNoise(hash, at.x / 16.0, at.y / 16.0, at.z / 16.0), 1e-5);
    }
}

TEST(Noise, SumsOctavesThatGetFinerAndWeaker)
{
    const NoiseSpec spec{.featureSize = 40, .octaves = 3, .lacunarity = 2, .gain = 0.5, .seed = 9};
    const Noise noise = makeNoise(spec);
    ASSERT_EQ(noise.octaves.size(), 3u);
    const VoxelPos at{123, -45, 67};
    double sum = 0;
    for (int octave = 0; octave < 3; ++octave) {
        const double step = std::pow(2, octave) / 40;
        sum += std::pow(0.5, octave)
            * textbookNoise(noise.octaves[static_cast<std::size_t>(octave)].hash, 123 * step, -45 * step, 67 * step);
    }
    EXPECT_NEAR(noiseAt(noise, at), sum / 1.75, 1e-5); // amplitudes 1 + 1/2 + 1/4
}

TEST(Noise, IsZeroAtLatticePoints)
{
    const Noise noise = makeNoise({.featureSize = 8, .octaves = 1, .seed = 1});
    for (std::int64_t i = -5; i <= 5; ++i)
        EXPECT_EQ(noiseAt(noise, {i * 8, i * 16, -i * 8}), 0.0f);
}

TEST(NoiseBlock, GivesTheBitsOfNoiseAtForEveryVoxel)
{
    // Feature sizes that do and do not divide the block, boxes whose rows do and do not fill whole vectors.
    NoiseScratch scratch;
    const SampleBox boxes[]{{{0, 0, 0}, 32, 32, 32}, {{-37, 11, 1000003}, 34, 1, 34}, {{5, -5, 77}, 7, 9, 3},
        {{-64, 0, 0}, 64, 2, 5}, {{9, 9, 9}, 1, 1, 1}};
    for (const double feature : {2.0, 2.7, 5.0, 16.0, 33.3, 400.0})
        for (const SampleBox& box : boxes) {
            const Noise noise = makeNoise({.featureSize = feature, .octaves = 3, .lacunarity = 2.1, .seed = 77});
            std::vector<float> out(box.count());
            noiseBlock(noise, box, scratch, out);
            std::size_t i = 0;
            for (int y = 0; y < box.ny; ++y)
                for (int z = 0; z < box.nz; ++z)
                    for (int x = 0; x < box.nx; ++x, ++i)
                        ASSERT_EQ(out[i], noiseAt(noise, box.origin + VoxelPos{x, y, z}))
                            << feature << " at " << x << " " << y << " " << z;
        }
}

TEST(Noise, IsAsSmoothFarFromTheOriginAsAtIt)
{
    // With a feature of 16 voxels and unit gradients the noise changes by less than 0.3 from voxel to voxel.
    const Noise noise = makeNoise({.featureSize = 16, .octaves = 1, .seed = 4});
    const std::int64_t far = std::int64_t{1} << 50;
    for (std::int64_t i = 0; i < 2000; ++i)
        EXPECT_LT(std::abs(noiseAt(noise, {far + i, 3, -far}) - noiseAt(noise, {far + i + 1, 3, -far})), 0.3f);
}

TEST(Noise, DoesNotRepeatAfter256LatticePoints)
{
    const Noise noise = makeNoise({.featureSize = 16, .octaves = 1, .seed = 4});
    int alike = 0;
    for (std::int64_t i = 0; i < 500; ++i)
        alike += noiseAt(noise, {i, 5, 7}) == noiseAt(noise, {i + 256 * 16, 5, 7});
    EXPECT_LT(alike, 60); // an accident now and then is allowed, and lattice points are 0 everywhere (32 of 500)
}

TEST(Noise, HasNoMeanAndStaysWithinItsBound)
{
    const Noise noise = makeNoise({.featureSize = 9, .octaves = 4, .seed = 12});
    NoiseScratch scratch;
    const SampleBox box{{100, 200, 300}, 96, 96, 96};
    std::vector<float> out(box.count());
    noiseBlock(noise, box, scratch, out);
    double sum = 0, max = 0;
    for (const float value : out) {
        sum += value;
        max = std::max(max, std::abs(static_cast<double>(value)));
    }
    EXPECT_NEAR(sum / static_cast<double>(out.size()), 0, 0.01);
    EXPECT_LT(max, 1.25); // what generate.cpp relies on
    EXPECT_GT(max, 0.4);
}

TEST(Noise, SeedsAndDirectionsAreSpreadEvenly)
{
    const LatticeHash hash = makeLatticeHash(99);
    std::array<int, 16> counts{};
    for (std::int64_t x = 0; x < 40; ++x)
        for (std::int64_t y = 0; y < 40; ++y)
            for (std::int64_t z = 0; z < 40; ++z)
                ++counts[LatticeHash::direction(hash.axis(0, x), hash.axis(1, y), hash.axis(2, z))];
    for (const int count : counts)
        EXPECT_NEAR(count, 4000, 400); // 64000 / 16; a fair die stays within 6.5 deviations of 61
}

TEST(Noise, LeavesOutOctavesThatOnlyAlias)
{
    EXPECT_EQ(makeNoise({.featureSize = 8, .octaves = 8, .lacunarity = 2}).octaves.size(), 3u); // 8, 4, 2 voxels
}

} // namespace
} // namespace fell::noise_test
