// SPDX-License-Identifier: Apache-2.0
// A recipe made ready to be sampled: noises with their tables, lengths in voxels. Immutable, so every thread may read
// it.
#pragma once

#include <fell/terrain/feature.h>
#include <fell/terrain/height_layer.h>
#include <fell/terrain/noise.h>
#include <fell/terrain/recipe.h>

#include <memory>

namespace fell::terrain {

/// A rule of the recipe in voxels.
struct StratumRule {
    Material material;
    float depthLow, depthHigh; // voxels below the ground; depthLow is -infinity where the recipe says 0
    float slopeLow, slopeHigh;
    double altitudeLow, altitudeHigh; // voxels
    std::optional<Noise> patches;
    float patchesAbove = 0;
    bool banded = false;
    std::int64_t every = 0, thickness = 0, dipX = 0, dipZ = 0; // 1/65536 voxel
};

struct HeightNoise {
    Noise first, second; // `second` only for the least and the greatest of two
    Noise warpEast, warpSouth; // where warp is not 0
    float warp = 0; // voxels that these move a column by, times their values
    HeightCurve curve;
};

struct Terrain {
    Recipe recipe;
    int level = 0; // of detail: see coarserTerrain
    double voxelsPerMetre = 1;
    std::vector<HeightNoise> heights; // next to recipe.layers
    std::optional<Noise> overhangs;
    std::optional<Noise> caveA, caveB;
    std::vector<StratumRule> strata;
    std::vector<std::shared_ptr<const Feature>> features; // by phase, then as the recipe has them
    std::vector<Material> soft; // that a trunk may stand in place of
    int margin = 1; // columns beyond a chunk that are looked at for its slopes and trees
    float deepest = 0; // voxels below which one rule without bands holds everywhere and no cave is
    std::int64_t waterLevel = INT64_MIN; // voxels below this one are under water; lowest if there is none
};

/// Makes a recipe ready. `seed` replaces the recipe's. Cost: about 0.1 ms.
std::shared_ptr<const Terrain> makeTerrain(Recipe recipe, std::optional<std::uint64_t> seed = std::nullopt);

/// The same world in voxels that are 2^level times as long: what a chunk of that level is generated from. Each voxel is
/// what the recipe says of its middle, so the ground lies within half of its voxels of level 0's; but
///   depths of strata count in voxels of the level, so that the surface keeps its material;
///   bands, walls and tracks that are much finer than a voxel are left out, and caves that are narrower;
///   adits are left out: all that one sees of them is a mouth of three voxels;
///   trees have their place and, as long as they are a voxel high, their size; beyond, their crowns colour the ground.
/// Asserts terrain.level is 0, level 0 to kMaxLevel. Cost: about 0.1 ms.
std::shared_ptr<const Terrain> coarserTerrain(const Terrain& terrain, int level);

} // namespace fell::terrain
