// SPDX-License-Identifier: Apache-2.0
#include "in_turn.h"
#include "measure/mesh_trial.h"

namespace fell::bench {
namespace {

/// Exposed sides against every side, both written in the layout of `layoutId`.
void exposedOverEvery(benchmark::State& state, const char* layoutId)
{
    auto recipe = findWorld("corrowdale", FELL_DEMO_DIR);
    if (!recipe)
        return state.SkipWithError("Corrowdale was not found");
    const auto terrain = makeTerrain(recipe.take());
    const auto chunks = surfaceChunks(*terrain, *findGenerator("blocks"), 32, 24);
    const VertexLayout& layout = *findLayout(layoutId);
    const MeshTrial trial = runMeshTrial(chunks, {findMesher("every"), findMesher("exposed")}, {&layout}, 1);
    if (trial.rows[0].digest != trial.rows[1].digest || trial.rows[1].exposedArea != trial.rows[1].mergedArea)
        return state.SkipWithError("the two ways show different surfaces");
    std::vector<Quad> quads;
    std::vector<std::byte> bytes(32u * 32 * 32 * 6 * layout.bytesPerQuad());
    const auto run = [&](const char* mesher, std::size_t i) {
        quads.clear();
        findMesher(mesher)->mesh(chunks[i], quads);
        layout.write(quads, bytes.data());
        benchmark::DoNotOptimize(bytes.data());
    };
    compareInTurn(
        state, chunks.size(), [&](std::size_t i) { run("every", i); }, [&](std::size_t i) { run("exposed", i); });
    state.counters["triangle_share"]
        = static_cast<double>(trial.rows[1].triangles) / static_cast<double>(trial.rows[0].triangles);
}
BENCHMARK_CAPTURE(exposedOverEvery, floats, "floats")
    ->Name("mesh/exposed_over_every/corrowdale")
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(exposedOverEvery, packed, "packed")
    ->Name("mesh/exposed_over_every_packed/corrowdale")
    ->Unit(benchmark::kMillisecond);

} // namespace
} // namespace fell::bench
