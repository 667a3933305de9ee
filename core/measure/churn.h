// SPDX-License-Identifier: Apache-2.0
// A load for trials: blocks, lamps or blasts that change the world in each frame, the same ones for every setup.
#pragma once

#include <fell/input/problem.h>
#include <fell/measure/statistics.h>
#include <fell/stream/streamer.h>

#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace fell::measure {

enum class ChurnKind : std::uint8_t { None, Blocks, Lamps, Blasts };

struct ChurnLoad {
    ChurnKind kind = ChurnKind::None;
    int each = 0; // changes a frame
    bool operator==(const ChurnLoad&) const = default;
};

struct ChurnChoice {
    ChurnKind kind;
    const char* id; // "blocks"
    const char* title; // "blocks come and go"
    const char* one; // "block": what one change is called
    int max; // changes a frame
};
/// None first.
std::span<const ChurnChoice> churnChoices();
const ChurnChoice& churnChoice(ChurnKind kind);

/// "none", "blocks:8", "lamps:2", "blasts:1". Errors: what is allowed.
Outcome<ChurnLoad> parseChurn(const std::string& text);
std::string textOf(const ChurnLoad& load);
/// What is wrong with a load in a world: too many a frame, or lamps where no block gives light.
std::optional<Problem> checkChurn(const ChurnLoad& load, const BlockSet& blocks);

/// The changes of one frame as one edit. Each is in a column within kChurnReach of the eye, which the frame's number
/// and the seed choose, on the highest block there:
///   Blocks  it goes, or another of its kind is put on it, by chance
///   Lamps   a lamp is put on it; where it is a lamp, that goes
///   Blasts  it is the middle of a blast of radius 2 to 4
/// Columns without a block near the eye's height are left out. Setups that share a route thus share the changes.
/// Cost: up to 200 reads a change.
constexpr int kChurnReach = 24; // voxels to each side
EditRequest churnEdit(const ChurnLoad& load, std::uint64_t seed, int frame, VoxelPos eye,
    const std::shared_ptr<const Terrain>& terrain, const std::shared_ptr<const SideRules>& rules);

/// What the changes of a trial cost, all together.
struct ChurnCost {
    std::uint64_t changes = 0; // that did something or were meant to: load.each a frame
    std::uint64_t voxels = 0; // changed
    std::uint64_t relitVoxels = 0, relit = 0; // voxels and chunks whose levels changed
    std::uint64_t meshed = 0; // chunks, each time
    std::uint64_t bytes = 0; // of meshes uploaded
    std::uint64_t voxelNs = 0, lightNs = 0, meshNs = 0; // thread time
    std::uint64_t uploadNs = 0; // of the render thread
    Percentiles readyMs; // from the call to all meshes of a frame's changes, by the clock

    void add(const EditOutcome& outcome);
};

/// "one block: 1.4 chunks meshed, 812 voxels relit, 9.2 KiB uploaded, 0.61 ms of threads".
std::string churnSentence(const ChurnLoad& load, const ChurnCost& cost);

} // namespace fell::measure
