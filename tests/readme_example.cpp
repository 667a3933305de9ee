// SPDX-License-Identifier: Apache-2.0
// What the README shows: from a recipe to quads, without a window.
// README begins
#include <fell/mesh/meshers.h>
#include <fell/terrain/generate.h>

#include <cstdio>

int main()
{
    using namespace fell::mesh;
    using namespace fell::terrain;
    auto recipe = loadRecipe(FELL_RECIPE); // demo/corrowdale/recipe.json
    if (!recipe)
        return std::fprintf(stderr, "%s\n", sentence(recipe.problem()).c_str()), 2;
    const auto terrain = makeTerrain(recipe.take());
    const VoxelChunk chunk = generateChunk(*findGenerator("blocks"), *terrain, {3, 0, 2}, 32);
    const VoxelChunk open(32);
    Neighbourhood around;
    around.chunks.fill(&open); // as if all neighbours were air
    around.chunks[neighbourIndex({0, 0, 0})] = &chunk;
    PaddedVoxels voxels;
    gather(around, voxels);
    const SideRules rules = sideRulesOf(terrain->recipe.blocks);
    ChunkSurface quads;
    findMesher("greedy-bits")->mesh(voxels, {&rules, true}, quads);
    std::printf("%zu quads\n", quads.count());
}
// README ends
