// SPDX-License-Identifier: Apache-2.0
#include <fell/mesh/meshers.h>

namespace fell::mesh {

std::uint8_t cornerOcclusion(const PaddedVoxels& voxels, const SideRules& rules, int x, int y, int z, Side side)
{
    const auto a = static_cast<std::size_t>(axisOf(side)), u = (a + 1) % 3, v = (a + 2) % 3;
    std::array<int, 3> beyond{x, y, z};
    beyond[a] += signOf(side);
    const auto solid = [&](int du, int dv) {
        std::array<int, 3> at = beyond;
        at[u] += du;
        at[v] += dv;
        return rules.isSolidCube(voxels.at(at[0], at[1], at[2]));
    };
    constexpr std::array<std::array<int, 2>, 4> kCorners{{{-1, -1}, {1, -1}, {1, 1}, {-1, 1}}};
    unsigned ambientOcclusion = 0;
    for (unsigned c = 0; c < 4; ++c) {
        const auto [du, dv] = kCorners[c];
        const bool first = solid(du, 0), second = solid(0, dv), across = solid(du, dv);
        const unsigned darkness = first && second ? 3 : static_cast<unsigned>(first + second + across);
        ambientOcclusion |= (darkness & 1) << c | (darkness >> 1) << (c + 4);
    }
    return static_cast<std::uint8_t>(ambientOcclusion);
}

} // namespace fell::mesh
