// SPDX-License-Identifier: Apache-2.0
// Which side of a voxel can be seen: dropped by what its neighbour really covers.
#pragma once

#include <fell/blocks/block_set.h>

namespace fell::blocks {

/// What meshing needs to know of a block set, by material.
struct SideRules {
    Material solidCubes = 0; // materials 1 to this one are full solid cubes
    std::vector<Matter> matter;
    std::vector<std::array<Coverage, kSideCount>> covers;
    std::vector<std::shared_ptr<const BlockShape>> shapes; // null for cubes
    std::vector<std::uint32_t> flags; // the same for methods from outside: the bits of include/fell/method.h

    [[nodiscard]] bool isPlainSolid(Material m) const { return static_cast<Material>(m - 1) < solidCubes; }
    [[nodiscard]] bool isCube(Material m) const { return m != kOpen && !shapes[m]; }
    /// Full solid cubes hide all that is behind them, and darken the corners next to them.
    [[nodiscard]] bool isSolidCube(Material m) const
    {
        return isPlainSolid(m) || (isCube(m) && matter[m] == Matter::Solid);
    }
};

SideRules sideRulesOf(const BlockSet& blocks);

/// Can the part of `here`'s side that `here` covers be seen, with `there` beyond it?
///   beyond is open air                    seen
///   beyond is solid                       unless it covers all that `here` covers of the side
///   beyond is glass or liquid             unless it is the same kind
/// Asserts: both are materials of the rules, `here` is not open air.
bool isSideSeen(const SideRules& rules, Material here, Material there, Side side);

} // namespace fell::blocks
