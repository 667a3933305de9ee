// SPDX-License-Identifier: Apache-2.0
// The block kinds of a world: what a voxel's number means and how its sides look.
#pragma once

#include "grid/coords.h"
#include "input/problem.h"

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace fell {

/// The number that a voxel holds. 0 is open air in every block set.
using Material = std::uint16_t;
constexpr Material kOpen = 0;

struct Rgb {
    std::uint8_t r = 0, g = 0, b = 0; // sRGB
    bool operator==(const Rgb&) const = default;
};

struct BlockKind {
    std::string name; // lower case with hyphens, unique in its set
    Rgb top, side, bottom;
    float grain = 0.06f; // how much the brightness varies from voxel to voxel; 0 even, at most 0.5
};

/// `kinds[m]` describes material m; kinds[0] is open air and has no look.
struct BlockSet {
    std::vector<BlockKind> kinds{BlockKind{"open", {}, {}, {}, 0}};
};

constexpr std::size_t kMostBlockKinds = 4096; // what 12 bits of a packed quad can name

std::optional<Material> findMaterial(const BlockSet& blocks, std::string_view name);
Rgb lookOf(const BlockKind& kind, Side side);

/// Reads a block set. Errors: as one sentence with JSON pointer. `where` names the source in that sentence.
Outcome<BlockSet> parseBlockSet(std::string_view json, const std::string& where);

} // namespace fell
