// SPDX-License-Identifier: Apache-2.0
// Small worlds for tests: recipes as text, and chunks filled by chance from a seed.
#pragma once

#include "support/all_names.h"
#include <fell/demo/demo_folder.h>
#include <fell/terrain/terrain.h>
#include <fell/voxels/neighbourhood.h>

#include <gtest/gtest.h>

#include <memory>
#include <random>

namespace fell::test {

inline BlockSet testBlocks()
{
    BlockSet blocks;
    for (const char* name : {"slate", "turf", "water", "wood", "needles"})
        blocks.kinds.push_back({name, {80, 160, 80}, {120, 110, 90}, {60, 50, 40}, 0});
    return blocks;
}

/// A recipe that uses every kind of layer, small enough for tests.
inline std::string fullRecipe()
{
    return R"({
      "format": "fell-recipe", "version": 2, "name": "Test dale", "seed": 7, "voxel_metres": 1, "blocks": "b.json",
      "water": {"level": 2, "material": "water"},
      "height": {"base": 0, "layers": [
        {"kind": "noise", "amplitude": 30, "exponent": 1.25, "noise": {"feature": 40, "octaves": 4}},
        {"kind": "least", "amplitude": 24, "exponent": 1.5, "noise": {"feature": 52, "octaves": 3, "lacunarity": 2.1}}],
        "landforms": [
          {"kind": "summit", "at": [30, 20], "radius": 60, "height": 30},
          {"kind": "trough", "path": [[-60, -20], [60, 20]], "width": 40, "floor": [6, -4]},
          {"kind": "terraces", "at": [-30, 40], "radius": 30, "floor": 4, "step": 4, "bench": 4, "material": "slate"},
          {"kind": "heap", "at": [10, -30], "radius": 12, "height": 8, "material": "slate"},
          {"kind": "track", "path": [[-50, 0], [50, 0]], "width": 3, "material": "turf"},
          {"kind": "wall", "path": [[-50, 10], [50, 30]], "width": 1.5, "height": 2, "material": "slate"}]},
      "overhangs": {"amount": 7, "slope": [0.5, 1.2], "noise": {"feature": 12, "octaves": 2}},
      "caves": {"width": 0.12, "depth": [2, 40], "noise": {"feature": 20, "octaves": 2}},
      "strata": [
        {"material": "slate", "slope": [0.9, 1000], "depth": [0, 30], "bands": {"every": 9, "thickness": 3, "dip": [0.3, -0.2]}},
        {"material": "turf", "depth": [0, 1], "patches": {"noise": {"feature": 16}, "above": -0.3}},
        {"material": "wood", "depth": [1, 3], "altitude": [-5, 40]},
        {"material": "slate"}],
      "scatter": [{"kind": "larch", "spacing": 6, "chance": 0.9, "height": [6, 9], "crown": 2.5, "slope": 3,
        "ground": ["turf", "wood"], "trunk": "wood", "needles": "needles"}]
    })";
}

inline Outcome<Recipe> parseTestRecipe(const std::string& text)
{
    return parseRecipe(text, "test.json", [](const std::string&) -> Outcome<BlockSet> { return testBlocks(); });
}

inline std::shared_ptr<const Terrain> testTerrain(std::optional<std::uint64_t> seed = std::nullopt)
{
    auto recipe = parseTestRecipe(fullRecipe());
    EXPECT_TRUE(recipe) << (recipe ? "" : sentence(recipe.problem()));
    return makeTerrain(recipe.take(), seed);
}

inline std::shared_ptr<const Terrain> demoTerrain(const std::string& name)
{
    auto recipe = findWorld(name, demoFolder());
    EXPECT_TRUE(recipe) << (recipe ? "" : sentence(recipe.problem()));
    return makeTerrain(recipe.take());
}

/// 27 chunks filled by chance. `fill` is the share of solid voxels, `kinds` how many materials there are.
class RandomNeighbourhood {
public:
    RandomNeighbourhood(int edge, double fill, unsigned kinds, std::uint64_t seed)
    {
        std::mt19937_64 dice(seed);
        for (int i = 0; i < 27; ++i) {
            std::vector<Material> voxels(static_cast<std::size_t>(edge) * edge * edge);
            for (auto& voxel : voxels)
                voxel = static_cast<double>(dice() >> 11) * 0x1p-53 < fill ? static_cast<Material>(1 + dice() % kinds)
                                                                           : kOpen;
            m_chunks.emplace_back(edge, std::move(voxels));
        }
    }
    [[nodiscard]] Neighbourhood view() const
    {
        Neighbourhood around;
        for (std::size_t i = 0; i < 27; ++i)
            around.chunks[i] = &m_chunks[i];
        return around;
    }
    /// The voxel at local coordinates of the centre, which may lie one chunk outside: looked up the slow way.
    [[nodiscard]] Material at(int x, int y, int z) const
    {
        const int edge = m_chunks[0].edge();
        const auto chunk = [edge](int v) { return v < 0 ? 0 : v >= edge ? 2 : 1; };
        const auto local = [edge](int v) { return (v + edge) % edge; };
        const auto& held = m_chunks[static_cast<std::size_t>(chunk(y) * 9 + chunk(z) * 3 + chunk(x))];
        return held.at(local(x), local(y), local(z));
    }

private:
    std::vector<VoxelChunk> m_chunks;
};

} // namespace fell::test
