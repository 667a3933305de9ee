// SPDX-License-Identifier: Apache-2.0
#include "plain_noise.h"

namespace fell::bench {
namespace {

float fade(float t)
{
    return t * t * t * (t * (t * 6 - 15) + 10);
}
float mix(float a, float b, float w)
{
    return a + w * (b - a);
}

float corner(std::uint32_t a, std::uint32_t b, std::uint32_t c, float x, float y, float z)
{
    const auto& g = kGradients[LatticeHash::direction(a, b, c)];
    return g[0] * x + g[1] * y + g[2] * z;
}

} // namespace

float plainNoise(const LatticeHash& hash, float x, float y, float z)
{
    const auto i = static_cast<unsigned>(x), j = static_cast<unsigned>(y), k = static_cast<unsigned>(z);
    const float fx = x - static_cast<float>(i), fy = y - static_cast<float>(j), fz = z - static_cast<float>(k);
    const float wx = fade(fx), wy = fade(fy), wz = fade(fz);
    const auto &tx = hash.table[0], &ty = hash.table[1], &tz = hash.table[2];
    const std::uint32_t a0 = tx[i], a1 = tx[i + 1], b0 = ty[j], b1 = ty[j + 1], c0 = tz[k], c1 = tz[k + 1];
    const float low = mix(mix(corner(a0, b0, c0, fx, fy, fz), corner(a1, b0, c0, fx - 1, fy, fz), wx),
        mix(corner(a0, b1, c0, fx, fy - 1, fz), corner(a1, b1, c0, fx - 1, fy - 1, fz), wx), wy);
    const float high = mix(mix(corner(a0, b0, c1, fx, fy, fz - 1), corner(a1, b0, c1, fx - 1, fy, fz - 1), wx),
        mix(corner(a0, b1, c1, fx, fy - 1, fz - 1), corner(a1, b1, c1, fx - 1, fy - 1, fz - 1), wx), wy);
    return mix(low, high, wz);
}

} // namespace fell::bench
