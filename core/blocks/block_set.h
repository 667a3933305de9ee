// SPDX-License-Identifier: Apache-2.0
// The block kinds of a world: what a voxel's number means and how its sides look.
#pragma once

#include <fell/blocks/shape.h>
#include <fell/grid/coords.h>
#include <fell/input/problem.h>

#include <array>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace fell::blocks {

/// The number that a voxel holds. 0 is open air in every block set.
using Material = std::uint16_t;
constexpr Material kOpen = 0;

/// What a block is made of: each opacity class is a separate mesh in a chunk, drawn in this order.
enum class Matter : std::uint8_t {
    Solid, // hides what is behind it
    SeeThrough, // glass: hides only the sides between voxels of the same block type
    Liquid // the same, and without collisions
};
constexpr std::size_t kMatterCount = 3;

/// What a block does to light; see light/light_rules.h. Levels, 0 to 15.
struct BlockLight {
    int opacity = 0; // taken from light that enters, next to the one level that every step takes at least
    std::array<int, 3> tint{}; // taken more from red, green and blue
    std::array<std::uint8_t, 3> emission{}; // red, green, blue
};

struct BlockKind {
    std::string name; // lower case with hyphens, unique in its set
    Rgb top{}, side{}, bottom{};
    float grain = 0.06f; // how much the brightness varies from voxel to voxel; 0 even, at most 0.5
    Matter matter = Matter::Solid;
    float opacity = 1; // of see-through and liquid blocks: 0 clear, 1 hides all
    std::shared_ptr<const BlockShape> shape{}; // null for a full cube
    std::string shapeName{"cube"}; // cube, half, slope, or the model's file
    int turn = 0; // quarter turns clockwise as seen from above
    std::array<std::string, 3>
        textures{}; // of top, sides and bottom: files in the set's folder; empty for an even colour
    BlockLight light{.opacity = 15}; // a full solid cube's
};

/// `kinds[m]` describes material m; kinds[0] is open air and has no look.
/// Materials are numbered with the full solid cubes first: meshers tell them from all others by one comparison.
struct BlockSet {
    std::vector<BlockKind> kinds{BlockKind{.name = "open", .grain = 0, .light = {}}};
    std::string text; // the JSON that it was read from; empty if it came from nowhere
    std::filesystem::path folder; // where textures and models are; empty if the set came from nowhere
    /// Where `folder` is one that was unpacked for this set: it goes with the last copy. Null elsewhere.
    std::shared_ptr<const void> unpacked{};
    std::vector<Problem> warnings; // models that could not be read: a marked stand-in is in their place
};

constexpr std::size_t kMaxBlockKinds = 4096; // what 12 bits of a packed quad can name

/// What a block does to light unless its file says otherwise: full solid cubes take all, glass takes no more than a
/// step but stops the sky from falling, liquids take two levels, and round other shapes light passes as through open
/// air.
BlockLight usualLight(Matter matter, bool isCube);

std::optional<Material> findMaterial(const BlockSet& blocks, std::string_view name);
Rgb lookOf(const BlockKind& kind, Side side);

/// Are all kinds the same but for colours, textures, grain and how much they hide? Then voxels, light and meshes of a
/// world of the one are those of the other.
bool differOnlyInLook(const BlockSet& a, const BlockSet& b);

/// Have all kinds the same names, in the same order, and the same matter? Then voxels of a world of the one are those
/// of the other, whatever becomes of light and meshes.
bool haveSameKinds(const BlockSet& a, const BlockSet& b);

/// Can one stand on a voxel of this kind? On everything but open air and liquids.
bool isStoodOn(const BlockKind& kind);

} // namespace fell::blocks
