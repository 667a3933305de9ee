// SPDX-License-Identifier: Apache-2.0
// Which level of detail is needed where, and which loaded chunks are shown until then.
#pragma once

#include <fell/grid/coords.h>

#include <array>
#include <memory>
#include <span>
#include <string>
#include <unordered_map>
#include <vector>

namespace fell::lod {

/// What a setup says about levels of detail.
struct LodChoices {
    std::string scheme = "off"; // off, rings or error
    std::string made = "recipe"; // recipe or finer
    std::string seams = "stitched"; // open, skirts or stitched
    int levels = 8; // the coarsest that may be used
    int detail = 4; // rings: chunks of a level before the next begins
    double error = 4; // error: pixels that a level may be wrong by
    bool operator==(const LodChoices&) const = default;
};

struct LodMethod {
    const char* id;
    const char* title;
    const char* note; // one sentence for a tooltip
};
std::span<const LodMethod> lodSchemes();
std::span<const LodMethod> coarseSources();
std::span<const LodMethod> seamMethods();
[[nodiscard]] inline bool hasLevels(const LodChoices& choices)
{
    return choices.scheme != "off";
}

/// The farthest render distance without levels, and with them, in chunks.
constexpr int kFarthestPlain = 48, kFarthestWithLevels = 1024;

/// How far from the viewer a level ends and the next begins, level 0's in chunks; each level's is twice the one before.
/// `pixels`: of the picture for an angle of one radian in its middle. A voxel of level n is wrong by up to half its
/// length, 2^(n-1) voxels of level 0.
double firstLevelRadius(const LodChoices& choices, int edge, double pixels);

/// The nodes of an octree over the view volume: needed chunks, and which of them are split into eight.
///
/// A class because the places and the levels must agree.
class LodSelection {
public:
    struct Node {
        bool isSplit = false;
    };
    [[nodiscard]] const std::unordered_map<ChunkPos, Node, ChunkPosHash>& nodes() const { return m_nodes; }
    [[nodiscard]] bool contains(ChunkPos chunk) const { return m_nodes.contains(chunk); }
    [[nodiscard]] bool isSplit(ChunkPos chunk) const
    {
        const auto found = m_nodes.find(chunk);
        return found != m_nodes.end() && found->second.isSplit;
    }
    [[nodiscard]] int coarsest() const { return m_coarsest; }
    /// Does the view volume hold the place of a chunk, at whatever level?
    [[nodiscard]] bool covers(ChunkPos chunk) const;
    /// By level, coarsest() last.
    [[nodiscard]] const std::array<std::vector<ChunkPos>, kMaxLevel + 1>& byLevel() const { return m_byLevel; }

private:
    friend LodSelection selectLevels(const struct LodView& view, const LodSelection* before);
    std::unordered_map<ChunkPos, Node, ChunkPosHash> m_nodes;
    std::array<std::vector<ChunkPos>, kMaxLevel + 1> m_byLevel;
    int m_coarsest = 0;
};

struct LodView {
    ChunkPos viewer; // of level 0
    int distance = 0; // chunks of level 0
    double firstLevelRadius = 4; // as above
    int levels = kMaxLevel;
};

/// The nodes needed around a viewer: a node is split into eight where it begins nearer than its level does, and has its
/// place back only when it lies a tenth, and a chunk, farther than that (`before`: the selection so far, or null), so
/// that walking to and fro makes nothing twice. The coarsest level is the one that reaches the distance in
/// rings of four. Parents are needed too: they are visible until all eight children are there. Cost O(nodes),
/// about 0.1 us each; in a valley seen 256 chunks far, 2,500 to 4,000. Source  quadtrees of terrain refined by
/// distance: Lindstrom et al., "Real-Time, Continuous Level of Detail Rendering
///         of Height Fields", SIGGRAPH 1996, in three dimensions and with chunks for nodes.
LodSelection selectLevels(const LodView& view, const LodSelection* before);

/// A chunk that is shown, and of its six sides those beyond which a coarser or finer one is: a bit each.
struct ShownChunk {
    ChunkPos chunk;
    std::uint8_t coarser = 0, finer = 0;
    bool operator==(const ShownChunk&) const = default;
};

/// What is shown: nodes that cover the view volume without a gap and without one over another.
struct LodCover {
    std::vector<ShownChunk> chunks; // coarsest first
    std::size_t missing = 0; // places of the coarsest level of which nothing is there yet
    std::size_t waiting = 0; // nodes that stand in for finer ones that are not there yet
};

/// A node gives way to its eight when all of them are there, and only where all six next to it are shown at its level
/// or finer: levels that meet never differ by more than one. Cost  O(nodes), about 0.1 us each. Long: three passes over
/// the same nodes.
template <typename IsReady> LodCover coverOf(const LodSelection& selection, const IsReady& isReady)
{
    enum class Part : std::uint8_t { Shown, Split };
    LodCover cover;
    std::unordered_map<ChunkPos, Part, ChunkPosHash> tree;
    tree.reserve(selection.nodes().size());
    const auto top = static_cast<std::size_t>(selection.coarsest());
    std::vector<ChunkPos> here, below;
    const auto areReady = [&isReady](ChunkPos parent) {
        bool all = true;
        for (unsigned c = 0; c < 8 && all; ++c)
            all = isReady(childOf(parent, c));
        return all;
    };
    for (const ChunkPos root : selection.byLevel()[top]) {
        if (isReady(root) || (selection.isSplit(root) && areReady(root))) { // the latter gives way at once
            tree.emplace(root, Part::Shown);
            here.push_back(root);
        } else {
            ++cover.missing;
        }
    }
    // Where the coarsest is missing nothing is shown, so nothing is met.
    const auto isAtLevel = [&](ChunkPos neighbour) {
        const int up = selection.coarsest() - neighbour.level;
        return tree.contains(neighbour)
            || !tree.contains({neighbour.x >> up, neighbour.y >> up, neighbour.z >> up, selection.coarsest()});
    };
    for (std::size_t level = top; level > 0; --level) {
        below.clear();
        for (const ChunkPos chunk : here) {
            if (!selection.isSplit(chunk))
                continue;
            bool may = areReady(chunk);
            for (const Side side : kSides)
                may = may && isAtLevel(chunk + stepOf(side));
            if (!may) {
                ++cover.waiting;
                continue;
            }
            tree[chunk] = Part::Split;
            for (unsigned c = 0; c < 8; ++c) {
                tree.emplace(childOf(chunk, c), Part::Shown);
                below.push_back(childOf(chunk, c));
            }
        }
        for (const ChunkPos chunk : here)
            if (tree.at(chunk) == Part::Shown)
                cover.chunks.push_back({chunk});
        here.swap(below);
    }
    for (const ChunkPos chunk : here)
        cover.chunks.push_back({chunk});
    for (ShownChunk& shown : cover.chunks)
        for (const Side side : kSides) {
            const ChunkPos neighbour = shown.chunk + stepOf(side);
            const auto found = tree.find(neighbour);
            const auto bit = static_cast<std::uint8_t>(1u << static_cast<unsigned>(side));
            if (found != tree.end())
                shown.finer = static_cast<std::uint8_t>(shown.finer | (found->second == Part::Split ? bit : 0));
            else if (!isAtLevel(neighbour))
                shown.coarser = static_cast<std::uint8_t>(shown.coarser | bit);
        }
    return cover;
}

} // namespace fell::lod
