// SPDX-License-Identifier: Apache-2.0
// Blocks that take and give light, and dust of them with its light.
#pragma once

#include "support/all_names.h"
#include "support/lit_blocks.h"
#include <fell/light/flood.h>
#include <fell/mesh/incremental_mesh.h>

#include <gtest/gtest.h>

#include <random>

namespace fell::test {

constexpr int kEdge = 16;
constexpr Material kSlate = 1, kLamp = 2, kGlass = 3, kHalf = 4;

inline BlockSet bakeBlocks()
{
    BlockSet set;
    test::addLit(set, "slate", Matter::Solid, {15, {}, {}});
    test::addLit(set, "lamp", Matter::SeeThrough, {1, {}, {15, 14, 12}});
    test::addLit(set, "glass", Matter::SeeThrough, {1, {0, 3, 9}, {}});
    test::addLit(set, "half", Matter::Solid, {1, {}, {}});
    set.kinds.back().shape = std::make_shared<const BlockShape>(halfShape());
    return set;
}

/// A chunk among open neighbours, below stone: its voxels, its light and its quads.
struct Baked {
    Baked(const std::function<Material(int, int, int)>& at, const char* mode)
        : blocks(bakeBlocks())
        , sides(sideRulesOf(blocks))
        , rules(lightRulesOf(blocks, *findLightMode(mode)))
    {
        std::vector<Material> voxels;
        for (int y = 0; y < kEdge; ++y)
            for (int z = 0; z < kEdge; ++z)
                for (int x = 0; x < kEdge; ++x)
                    voxels.push_back(at(x, y, z));
        const VoxelChunk middle(kEdge, std::move(voxels)), open(kEdge);
        Neighbourhood around;
        around.chunks.fill(&open);
        around.chunks[13] = &middle;
        gather(around, padded);
        const Transmission here = transmissionOf(middle, rules), outside = transmissionOf(open, rules);
        const SkyHeightMap none = skyFloor(kEdge, INT64_MAX);
        LightBlock block{&rules, kEdge, {3, 3, 3}, std::vector<const Transmission*>(27, &outside),
            std::vector<const SkyHeightMap*>(9, &none), 0};
        block.passes[13] = &here;
        FloodScratch scratch;
        floodPadded(block, light, scratch);
        findMesher("greedy-bits")->mesh(padded, {&sides, false}, quads);
    }
    BlockSet blocks;
    SideRules sides;
    LightRules rules;
    PaddedVoxels padded;
    PaddedLight light;
    ChunkSurface quads;
};

inline Baked dust(const char* mode, unsigned seed, double share = 0.35)
{
    std::mt19937 dice(seed);
    return Baked(
        [&](int, int, int) {
            const double d = static_cast<double>(dice()) / 4294967296.0;
            return d < share ? kSlate : d < share + 0.004 ? kLamp : d < share + 0.03 ? kGlass : kOpen;
        },
        mode);
}

inline int levelOf(PackedLight light, int channel)
{
    return static_cast<int>(light >> (4 * channel) & 15);
}

} // namespace fell::test
