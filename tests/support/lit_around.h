// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "support/all_names.h"
#include "support/lit_blocks.h"
#include <fell/light/flood.h>

#include <random>

namespace fell::test {

/// Of paddedBlocks.
constexpr Material kAroundSlate = 1, kAroundLamp = 2, kAroundAmber = 3, kAroundWater = 4;

inline BlockSet paddedBlocks()
{
    BlockSet set;
    addLit(set, "slate", Matter::Solid, {15, {}, {}});
    addLit(set, "lamp", Matter::Solid, {15, {}, {15, 12, 5}});
    addLit(set, "amber", Matter::SeeThrough, {1, {0, 3, 9}, {}});
    addLit(set, "water", Matter::Liquid, {2, {2, 1, 0}, {}});
    return set;
}

/// 3 x 3 x 3 chunks of `share` stone with some lamps, glass and water, and the sky above them.
struct Around {
    Around(int edge, const char* mode, double share, unsigned seed)
        : rules(lightRulesOf(paddedBlocks(), *findLightMode(mode)))
    {
        std::mt19937 dice(seed);
        std::uniform_real_distribution<double> chance(0, 1);
        for (int i = 0; i < 27; ++i) {
            std::vector<Material> voxels;
            for (int v = 0; v < edge * edge * edge; ++v) {
                const double d = chance(dice);
                voxels.push_back(d < share  ? kAroundSlate
                        : d < share + 0.002 ? kAroundLamp
                        : d < share + 0.02  ? kAroundAmber
                        : d < share + 0.04  ? kAroundWater
                                            : kOpen);
            }
            chunks.push_back(VoxelChunk(edge, std::move(voxels)));
            passes.push_back(transmissionOf(chunks.back(), rules));
        }
        block = {&rules, edge, {3, 3, 3}, {}, {}, 0};
        for (const Transmission& one : passes)
            block.passes.push_back(&one);
        for (std::size_t i = 0; i < 9; ++i) {
            floors.push_back(skyFloor(edge, std::int64_t{3} * edge));
            for (std::size_t y = 3; y-- > 0;)
                (void)carveThrough(floors.back(), passes[y * 9 + i], static_cast<std::int64_t>(y) * edge);
        }
        for (const SkyHeightMap& floor : floors)
            block.floors.push_back(&floor);
    }
    Around(const Around&) = delete;
    Around& operator=(const Around&) = delete;

    LightRules rules;
    std::vector<VoxelChunk> chunks;
    std::vector<Transmission> passes;
    std::vector<SkyHeightMap> floors;
    LightBlock block;
};

} // namespace fell::test
