// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/chunk_builder.h>

#include <fell/stream/thread_clock.h>

#include <algorithm>
#include <cassert>

namespace fell::stream {
namespace {

Neighbourhood viewOf(const SharedAround<VoxelChunk>& chunks)
{
    Neighbourhood around;
    std::transform(chunks.begin(), chunks.end(), around.chunks.begin(), [](const auto& chunk) { return chunk.get(); });
    return around;
}

void gatherFor(const Mesher& mesher, const Neighbourhood& around, BuildScratch& scratch)
{
    if (mesher.traits.apron > kMinApron)
        gather(around, scratch.wide, mesher.traits.apron);
}

void surfaceOf(const PaddedVoxels& voxels, const BuildRules& rules, BuildScratch& scratch)
{
    const bool isWide = rules.meshing.mesher->traits.apron > kMinApron;
    meshQuads(isWide ? scratch.wide : voxels, rules.meshing, scratch.surface);
}

/// A quick look at whether a chunk without faces may have some where levels meet.
bool mayHaveSeams(const BuildInput& input, const BuildRules& rules)
{
    if (!input.coarser[0]) // skirts hang from what the chunk itself has
        return false;
    const VoxelChunk& own = *(*input.around)[13];
    return !std::all_of(input.coarser.begin(), input.coarser.end(), [&](const VoxelChunk* coarse) {
        return coarse && coarse->isUniform() && own.isUniform()
            && rules.sides.isSolidCube(coarse->uniform()) == rules.sides.isSolidCube(own.uniform());
    });
}

/// True if there are any.
bool makeSeams(const BuildInput& input, const BuildRules& rules, const PaddedVoxels& voxels, const PaddedLight* light,
    SeamQuads& out)
{
    const SeamLight how{light, rules.light.mode};
    if (rules.pipeline.seams == Seams::Skirts) {
        hangSkirts(voxels, rules.sides, how, out);
    } else if (input.coarser[0]) {
        CoarserAround coarser{input.coarser[0], {}};
        std::copy(input.coarser.begin() + 1, input.coarser.end(), coarser.beyond.begin());
        stitch(input.chunk, voxels, coarser, rules.sides, how, out);
    }
    return out.count() > 0;
}

/// Is there nothing to mesh? What is air here may be solid on the level beyond, and the reverse.
bool isBare(const BuildInput& input, const BuildRules& rules, const Neighbourhood& around, BuildScratch& scratch)
{
    const VoxelChunk& centre = around.centre();
    scratch.seams.clear();
    const bool isHidden = (centre.isUniform() && centre.uniform() == kOpen)
        || (!rules.meshing.mesher->traits.drawsHidden && isBuried(around, rules.sides));
    if (!isHidden || !mayHaveSeams(input, rules))
        return isHidden;
    gather(around, scratch.voxels);
    return !makeSeams(input, rules, scratch.voxels, nullptr, scratch.seams);
}

LightSurroundings surroundingsOf(const BuildInput& input, const BuildRules& rules)
{
    auto around = lightSurroundings(input.chunk, rules.edge, rules.light, *input.passes, input.floorAt);
    assert(around);
    return std::move(*around);
}

void flood(const BuildInput& input, const BuildRules& rules, PaddedLight& out, FloodScratch& scratch, BuiltChunk& built)
{
    const std::uint64_t start = threadNs();
    floodPadded(surroundingsOf(input, rules).block, out, scratch);
    built.lightNs = threadNs() - start;
    built.isFlooded = true;
}

} // namespace

BuildRules::BuildRules(const BlockSet& blocks, const Setup& setup)
    : pipeline(resolve(setup))
    , edge(setup.chunk.edge)
    , sides(sideRulesOf(blocks))
    , light(lightRulesOf(blocks, *pipeline.light))
    , meshing(pipeline.meshOptions(sides))
{
}

std::optional<LightSurroundings> lightSurroundings(
    ChunkPos chunk, int edge, const LightRules& rules, const SharedAround<Transmission>& passes, const SkyFloorAt& at)
{
    LightSurroundings out;
    out.block = {&rules, edge, {3, 3, 3}, {}, {}, originOf(chunk, edge).y - edge};
    for (const auto& one : passes)
        out.block.passes.push_back(one.get());
    for (std::size_t i = 0; i < out.floors.size() && rules.mode->sky > 0; ++i) {
        const auto number = static_cast<std::int64_t>(i);
        out.floors[i] = at(chunk.x + number % 3 - 1, chunk.z + number / 3 - 1);
        if (!out.floors[i])
            return std::nullopt;
        out.block.floors.push_back(out.floors[i].get());
    }
    return out;
}

const ChunkSurface& buildSurface(
    const Neighbourhood& around, const Mesher& mesher, const MeshRules& rules, BuildScratch& scratch)
{
    gather(around, scratch.voxels);
    gatherFor(mesher, around, scratch);
    scratch.surface.clear();
    mesher.mesh(mesher.traits.apron > kMinApron ? scratch.wide : scratch.voxels, rules, scratch.surface);
    return scratch.surface;
}

namespace {

/// Both ways of building: `cache` is null where a chunk is built whole.
BuiltChunk build(const BuildInput& input, const BuildRules& rules, const LightAround* known, RebuildCache* cache,
    BuildScratch& scratch)
{
    const Neighbourhood around = viewOf(*input.around);
    BuiltChunk built;
    if (isBare(input, rules, around, scratch)) {
        built.isBare = true;
        built.sight = sightOfUniform(around.centre().uniform(), rules.sides.solidCubes);
        return built;
    }
    const bool isLater
        = rules.isLit() && !known && rules.pipeline.lit == LightWhen::Later && !rules.pipeline.hasLevels();
    PaddedLight& lit = cache ? cache->light.light : scratch.light;
    if (isLater) // voxels under the open sky have all of it, all others none
        skyOnly(surroundingsOf(input, rules).block, lit);
    else if (rules.isLit() && !known)
        flood(input, rules, lit, scratch.flood, built);
    if (cache && !known)
        cache->light.invalidate();
    const PaddedLight* light = rules.isLit() ? &lit : nullptr;

    const std::uint64_t start = threadNs();
    ChunkDifference differs;
    if (cache) {
        differs.voxels = updatePadded(*input.around, cache->voxels);
        if (known)
            differs.light = updatePaddedLight(rules.light, rules.edge, *known, cache->light);
    } else {
        gather(around, scratch.voxels);
    }
    gatherFor(*rules.meshing.mesher, around, scratch);
    const PaddedVoxels& voxels = cache ? cache->voxels.voxels : scratch.voxels;
    const std::uint64_t readyNs = threadNs();
    if (!input.isSeenThroughAlike)
        built.sight = computeVisibility(voxels, rules.sides.solidCubes);
    built.sightNs = threadNs() - readyNs;
    makeSeams(input, rules, voxels, light, scratch.seams);
    if (cache) {
        const PaddedVoxels* wide = rules.meshing.mesher->traits.apron > kMinApron ? &scratch.wide : nullptr;
        built.mesh = remesh(voxels, rules.meshing, light, &scratch.seams, differs, cache->mesh, wide);
    } else {
        surfaceOf(voxels, rules, scratch);
        built.mesh = encodeMesh(voxels, scratch.surface, rules.meshing, light, &scratch.seams);
    }
    built.meshNs = threadNs() - start - built.sightNs;
    if (rules.meshed) {
        rules.meshed(built.meshNs);
        built.meshNs = threadNs() - start - built.sightNs;
    }
    if (isLater)
        built.surface = std::make_shared<const ChunkSurface>(cache ? cache->mesh.quads() : scratch.surface);
    else if (built.isFlooded)
        built.light = std::make_shared<const ChunkLight>(innerOf(lit));
    return built;
}

} // namespace

BuiltChunk buildChunk(const BuildInput& input, const BuildRules& rules, BuildScratch& scratch)
{
    return build(input, rules, nullptr, nullptr, scratch);
}

BuiltChunk rebuildChunk(const BuildInput& input, const BuildRules& rules, const LightAround* known, RebuildCache& cache,
    BuildScratch& scratch)
{
    return build(input, rules, known, &cache, scratch);
}

BuiltChunk relightChunk(
    const BuildInput& input, const BuildRules& rules, const ChunkSurface& surface, BuildScratch& scratch)
{
    BuiltChunk built;
    flood(input, rules, scratch.light, scratch.flood, built);
    const std::uint64_t start = threadNs();
    gather(viewOf(*input.around), scratch.voxels);
    built.mesh = encodeMesh(scratch.voxels, surface, rules.meshing, &scratch.light);
    built.meshNs = threadNs() - start;
    built.light = std::make_shared<const ChunkLight>(innerOf(scratch.light));
    return built;
}

} // namespace fell::stream
