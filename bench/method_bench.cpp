// SPDX-License-Identifier: Apache-2.0
// What the interface of include/fell/method.h costs: the same mesher called directly and through it.
#include "in_turn.h"
#include <fell/demo/demo_folder.h>
#include <fell/measure/sample.h>
#include <fell/plugin/loaded_mesher.h>

namespace fell::bench {
namespace {

/// The voxels that greedyThroughInterface meshes: the mesher is C++ and wants them as PaddedVoxels, so that no copy of
/// them is counted as the interface's.
struct Given {
    const PaddedVoxels* voxels = nullptr;
    const SideRules* sides = nullptr;
};
Given given; // the benchmark has one thread

/// The state of a thread: a surface whose memory is kept, as a method's own buffers would be.
int greedyThroughInterface(
    void* state, const FellVoxels*, const FellMaterials*, const FellMeshRules* rules, FellSink* sink)
{
    auto& surface = *static_cast<ChunkSurface*>(state);
    surface.clear();
    meshGreedyBits(*given.voxels, {given.sides, rules->occlusion != 0}, surface);
    for (std::uint32_t opacityClass = 0; opacityClass < kMatterCount; ++opacityClass)
        if (const QuadList& list = surface.of[opacityClass];
            !list.empty() && sink->quads(sink, opacityClass, list.data(), list.size()) != 0)
            return 1;
    return 0;
}

const FellMethod kGreedy{FELL_METHOD_VERSION, FELL_MESHER, FELL_MERGES_FACES, 1, "greedy-through", "greedy, bits",
    "For the benchmark.", [] { return static_cast<void*>(new ChunkSurface); },
    [](void* state) { delete static_cast<ChunkSurface*>(state); }, greedyThroughInterface};

void interfaceOverBuiltIn(benchmark::State& state)
{
    auto recipe = findWorld("corrowdale", demoFolder());
    const auto library = plugin::Library::adopt(kGreedy, "bench");
    if (!recipe || !library)
        return state.SkipWithError("the demo world or the method was not found");
    const auto terrain = makeTerrain(recipe.take());
    // Few, so that all stay in the cache: else the side that comes second finds the voxels that the first has loaded.
    const auto chunks = surfaceChunks(*terrain, *findGenerator("blocks"), 32, 6);
    const SideRules sides = sideRulesOf(terrain->recipe.blocks);
    const MeshRules rules{&sides, false}; // as the default setup has it
    ChunkSurface through, direct;
    const auto viaInterface = [&](std::size_t i) {
        through.clear();
        given = {&chunks[i], &sides};
        library.value().mesher().mesh(chunks[i], rules, through);
        benchmark::DoNotOptimize(through.of[0].data());
    };
    const auto builtIn = [&](std::size_t i) {
        direct.clear();
        meshGreedyBits(chunks[i], rules, direct);
        benchmark::DoNotOptimize(direct.of[0].data());
    };
    for (std::size_t i = 0; i < chunks.size(); ++i) {
        viaInterface(i);
        builtIn(i);
        if (through.all() != direct.all())
            return state.SkipWithError("the two ways emit different quads");
    }
    compareInTurn(state, chunks.size(), viaInterface, builtIn);
}
BENCHMARK(interfaceOverBuiltIn)->Name("method/interface_over_built_in/corrowdale");

} // namespace
} // namespace fell::bench
