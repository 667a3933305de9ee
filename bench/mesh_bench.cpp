// SPDX-License-Identifier: Apache-2.0
#include "in_turn.h"
#include <fell/audit/audit.h>
#include <fell/demo/demo_folder.h>
#include <fell/measure/mesh_trial.h>

namespace fell::bench {
namespace {

struct MeshSide {
    const char* mesher;
    const VertexLayout* layout; // null: the 8-byte records that a mesher writes
    bool ambientOcclusion = false;
};

/// A demo world's surface chunks meshed in two ways, in turn; both must show the same surface first, where `same` says
/// so with identical quads.
void compareMeshers(benchmark::State& state, const char* world, const MeshSide& plain, const MeshSide& fast,
    bool sameQuads, std::size_t count = 64)
{
    auto recipe = findWorld(world, demoFolder());
    if (!recipe)
        return state.SkipWithError("the demo world was not found");
    const auto terrain = makeTerrain(recipe.take());
    const auto chunks = surfaceChunks(*terrain, *findGenerator("blocks"), 32, count);
    const SideRules sides = sideRulesOf(terrain->recipe.blocks);
    ChunkSurface quads;
    std::vector<std::byte> bytes(32u * 32 * 32 * 6 * 192);
    const auto run = [&](const MeshSide& side, std::size_t i) {
        quads.clear();
        meshSurface(*findMesher(side.mesher), chunks[i], {&sides, side.ambientOcclusion}, quads);
        benchmark::DoNotOptimize(quads.of[0].data());
        if (!side.layout) // the quads are the records of the 8-byte layout already
            return;
        std::byte* to = bytes.data();
        for (const QuadList& list : quads.of) {
            side.layout->write(list, {}, to);
            to += list.size() * side.layout->bytesPerQuad();
        }
        benchmark::DoNotOptimize(bytes.data());
    };
    const auto answer = [&](const MeshSide& side, std::size_t i) {
        run(side, i);
        auto all = quads.all();
        if (!sameQuads)
            all = unitSides(all);
        if (plain.ambientOcclusion != fast.ambientOcclusion) // the same sides, one way shaded
            for (Quad& quad : all)
                quad &= (Quad{1} << kOcclusionBit) - 1;
        std::erase_if(all, [&](Quad quad) { // what the mesher of every side makes beyond the surface
            const QuadFields q = unpackQuad(quad);
            const ChunkPos to = stepOf(q.side);
            return q.width == 1 && q.height == 1
                && !isSideSeen(sides, q.material,
                    chunks[i].at(
                        q.x + static_cast<int>(to.x), q.y + static_cast<int>(to.y), q.z + static_cast<int>(to.z)),
                    q.side);
        });
        std::sort(all.begin(), all.end());
        return all;
    };
    for (std::size_t i = 0; i < chunks.size(); ++i)
        if (answer(plain, i) != answer(fast, i))
            return state.SkipWithError("the two ways show different surfaces");
    compareInTurn(
        state, chunks.size(), [&](std::size_t i) { run(plain, i); }, [&](std::size_t i) { run(fast, i); });
}

const VertexLayout& layout(const char* id)
{
    return *findLayout(id);
}

void greedyOverTaught(benchmark::State& state, const char* world, bool ambientOcclusion)
{
    compareMeshers(
        state, world, {"greedy", nullptr, ambientOcclusion}, {"greedy-bits", nullptr, ambientOcclusion}, true);
}
BENCHMARK_CAPTURE(greedyOverTaught, surface, "corrowdale", false)->Name("mesh/greedy_bits_over_taught/corrowdale");
BENCHMARK_CAPTURE(greedyOverTaught, level, "level", false)->Name("mesh/greedy_bits_over_taught/level");
BENCHMARK_CAPTURE(greedyOverTaught, dust, "dust", false)->Name("mesh/greedy_bits_over_taught/dust");
BENCHMARK_CAPTURE(greedyOverTaught, checker, "checker", false)->Name("mesh/greedy_bits_over_taught/checker");
BENCHMARK_CAPTURE(greedyOverTaught, solid, "solid", false)->Name("mesh/greedy_bits_over_taught/solid");
BENCHMARK_CAPTURE(greedyOverTaught, shaded, "corrowdale", true)->Name("mesh/greedy_bits_over_taught_shaded/corrowdale");

// The nearest chunks, most of them well filled: every side of nearly empty ones costs nearly nothing, and a median over
// both kinds would compare a chunk of one with a chunk of the other.
constexpr std::size_t kFull = 24;

void exposedOverEvery(benchmark::State& state, const char* layoutId)
{
    compareMeshers(state, "corrowdale", {"every", &layout(layoutId)}, {"exposed", &layout(layoutId)}, false, kFull);
}
BENCHMARK_CAPTURE(exposedOverEvery, floats, "floats")->Name("mesh/exposed_over_every/corrowdale");
BENCHMARK_CAPTURE(exposedOverEvery, packed, "packed")->Name("mesh/exposed_over_every_packed/corrowdale");

/// What corner shade costs: "ratio" is with / without.
void shadeOverNone(benchmark::State& state)
{
    compareMeshers(state, "corrowdale", {"greedy-bits", nullptr, true}, {"greedy-bits", nullptr}, false);
}
BENCHMARK(shadeOverNone)->Name("mesh/shade_over_none/corrowdale");

/// Exposed sides on bit rows against voxel by voxel.
void exposedBitsOverVoxels(benchmark::State& state)
{
    auto recipe = findWorld("corrowdale", demoFolder());
    const auto terrain = makeTerrain(recipe.take());
    const auto chunks = surfaceChunks(*terrain, *findGenerator("blocks"), 32, 64);
    const SideRules sides = sideRulesOf(terrain->recipe.blocks);
    ChunkSurface quads;
    const auto run = [&](MeshFunction mesh, std::size_t i) {
        quads.clear();
        mesh(chunks[i], {&sides, false}, quads);
        benchmark::DoNotOptimize(quads.of[0].data());
    };
    for (std::size_t i = 0; i < chunks.size(); ++i) {
        run(meshExposedSides, i);
        const std::uint64_t voxels = surfaceDigest(quads.all());
        run(meshExposedBits, i);
        if (voxels != surfaceDigest(quads.all()))
            return state.SkipWithError("the two ways show different surfaces");
    }
    compareInTurn(
        state, chunks.size(), [&](std::size_t i) { run(meshExposedSides, i); },
        [&](std::size_t i) { run(meshExposedBits, i); });
}
BENCHMARK(exposedBitsOverVoxels)->Name("mesh/exposed_bits_over_voxels/corrowdale");

/// The limit: "ratio" is the mesher's time over one pass that counts the solid voxels.
void greedyOverScan(benchmark::State& state)
{
    auto recipe = findWorld("corrowdale", demoFolder());
    const auto terrain = makeTerrain(recipe.take());
    const auto chunks = surfaceChunks(*terrain, *findGenerator("blocks"), 32, 64);
    const SideRules sides = sideRulesOf(terrain->recipe.blocks);
    std::vector<std::vector<Material>> plain; // without the neighbours' layer
    for (const PaddedVoxels& chunk : chunks) {
        std::vector<Material> voxels;
        for (int y = 0; y < 32; ++y)
            for (int z = 0; z < 32; ++z)
                for (int x = 0; x < 32; ++x)
                    voxels.push_back(chunk.at(x, y, z));
        plain.push_back(std::move(voxels));
    }
    ChunkSurface quads;
    const auto mesh = [&](std::size_t i) {
        quads.clear();
        meshGreedyBits(chunks[i], {&sides, false}, quads);
        benchmark::DoNotOptimize(quads.of[0].data());
    };
    const auto scan = [&](std::size_t i) {
        std::uint32_t solid = 0;
        for (const Material m : plain[i])
            solid += m != kOpen;
        benchmark::DoNotOptimize(solid);
    };
    compareInTurn(state, chunks.size(), mesh, scan);
}
BENCHMARK(greedyOverScan)->Name("mesh/greedy_bits_over_scan/corrowdale");

/// What cut edges cost: "ratio" is bevelled / exposed, "triangles" the same of their triangles. Their surfaces differ,
/// so both are held to the audit's reference on the very chunks that are timed.
void bevelledOverExposed(benchmark::State& state)
{
    auto recipe = findWorld("corrowdale", demoFolder());
    if (!recipe)
        return state.SkipWithError("the demo world was not found");
    const auto terrain = makeTerrain(recipe.take());
    const auto chunks = surfaceChunks(*terrain, *findGenerator("blocks"), 32, 16);
    const Mesher &bevelled = *findMesher("bevelled"), &exposed = *findMesher("exposed");
    MeshAuditSpec spec;
    spec.blocks = terrain->recipe.blocks;
    spec.cases = 16;
    spec.meshers = {&bevelled, &exposed};
    spec.chunks = chunks;
    const AuditRow row = auditMesh(spec);
    if (row.differences > 0)
        return state.SkipWithError(("the audit finds: " + row.first).c_str());
    const SideRules sides = sideRulesOf(terrain->recipe.blocks);
    ChunkSurface surface;
    std::size_t cut = 0, whole = 0;
    const auto run = [&](const Mesher& mesher, std::size_t i) {
        surface.clear();
        meshSurface(mesher, chunks[i], {&sides, false}, surface);
        benchmark::DoNotOptimize(surface.of[0].data());
        benchmark::DoNotOptimize(surface.triangles.indices.data());
        return surface.count() * 2 + surface.triangles.count();
    };
    for (std::size_t i = 0; i < chunks.size(); ++i) {
        cut += run(bevelled, i);
        whole += run(exposed, i);
    }
    compareInTurn(
        state, chunks.size(), [&](std::size_t i) { (void)run(bevelled, i); },
        [&](std::size_t i) { (void)run(exposed, i); });
    state.counters["triangles"] = static_cast<double>(cut) / static_cast<double>(whole);
}
BENCHMARK(bevelledOverExposed)->Name("mesh/bevelled_over_exposed/corrowdale");

} // namespace
} // namespace fell::bench
