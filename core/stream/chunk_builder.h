// SPDX-License-Identifier: Apache-2.0
// From a chunk's voxels, light and rules to what is drawn of it: functions of values, with scratch memory that the
// caller owns. The streamer's workers, edits, the reference chunk, exports, audits and benchmarks build here.
#pragma once

#include <fell/cull/visibility.h>
#include <fell/light/flood.h>
#include <fell/light/gathered_light.h>
#include <fell/lod/seams.h>
#include <fell/mesh/incremental_mesh.h>
#include <fell/setup/pipeline.h>

#include <functional>
#include <memory>
#include <optional>

namespace fell::stream {

/// How chunks of a block set are built with a setup. It stays where it is: its parts point at each other, and at the
/// tables of methods.
struct BuildRules {
    BuildRules(const BlockSet& blocks, const Setup& setup);
    BuildRules(const BuildRules&) = delete;
    BuildRules& operator=(const BuildRules&) = delete;

    Pipeline pipeline;
    int edge; // voxels
    SideRules sides;
    LightRules light;
    ChunkMeshOptions meshing;
    /// Runs after a chunk was meshed, on the thread that meshed it, with the thread nanoseconds that this took. Its own
    /// time counts as meshing: a measurement proves with it that it finds a slower mesher.
    std::function<void(std::uint64_t ns)> meshed;

    [[nodiscard]] bool isLit() const { return light.mode->channels() > 0; }
};

/// Memory that one thread builds with, chunk after chunk. What it holds between two builds means nothing.
struct BuildScratch {
    PaddedVoxels voxels; // one layer of neighbours around the chunk
    PaddedVoxels wide; // as many as the mesher asks for, where it asks for more
    PaddedLight light;
    FloodScratch flood;
    ChunkSurface surface;
    SeamQuads seams;
};

/// The height from which up each column of a chunk position sees the sky; null where it is unknown.
using SkyFloorAt = std::function<std::shared_ptr<const SkyHeightMap>(std::int64_t chunkX, std::int64_t chunkZ)>;

/// What a chunk is built from.
struct BuildInput {
    ChunkPos chunk;
    const SharedAround<VoxelChunk>* around = nullptr; // the chunk and its 26 neighbours; none is null
    const SharedAround<Transmission>* passes = nullptr; // of the same; only read where the rules have light
    SkyFloorAt floorAt; // for the nine columns around the chunk; only called where the rules have sky light
    /// Of a level that may meet a coarser one: its parent's voxels, and those beyond the three borders that both share,
    /// by axis; else null. See CoarserAround.
    std::array<const VoxelChunk*, 4> coarser{};
    bool isSeenThroughAlike = false; // no voxel has changed that one looks past: its visibility is not looked for
};

struct BuiltChunk {
    ChunkMesh mesh;
    bool isBare = false; // nothing to mesh: open air, or covered on every side
    std::optional<ChunkVisibility> sight; // nothing: as it was
    std::uint64_t lightNs = 0, meshNs = 0, sightNs = 0; // thread time
    bool isFlooded = false; // its light was flooded here
    std::shared_ptr<const ChunkLight> light; // what was flooded
    std::shared_ptr<const ChunkSurface> surface; // where its light comes later: what that needs
};

/// What a chunk that is edited again and again was built from the last time, and what came of it.
struct RebuildCache {
    PaddedVoxelCache voxels;
    GatheredLight light;
    RemeshCache mesh;
};

/// The 3 x 3 x 3 chunks around a chunk as light sees them, and who keeps their floors alive.
struct LightSurroundings {
    LightBlock block;
    std::array<std::shared_ptr<const SkyHeightMap>, 9> floors;
};
/// Nothing where a floor is needed and null.
std::optional<LightSurroundings> lightSurroundings(
    ChunkPos chunk, int edge, const LightRules& rules, const SharedAround<Transmission>& passes, const SkyFloorAt& at);

/// The surface of a chunk without its light: what exports, audits and benchmarks of meshers look at. Into
/// `scratch.surface`, whose address is returned; `scratch.voxels` has the chunk and one layer around it.
/// Cost  a copy of the chunk, and the mesher's.
const ChunkSurface& buildSurface(
    const Neighbourhood& around, const Mesher& mesher, const MeshRules& rules, BuildScratch& scratch);

/// Builds a chunk whole: floods its light, looks through it, meshes it, closes its borders with coarser levels, writes
/// its vertices.
/// Errors  asserts that what the rules need of the input is there. Memory may run out (std::bad_alloc).
/// Cost    edge 32 of a hilly world with light: some 0.5 ms, a third of it light. Any thread, one scratch each.
BuiltChunk buildChunk(const BuildInput& input, const BuildRules& rules, BuildScratch& scratch);

/// The same of a chunk that was built with the cache before, or of another one: only what differs is read and
/// remeshed. `known`: its light, if it has been flooded; else it is flooded.
/// Cost  as remesh.
BuiltChunk rebuildChunk(const BuildInput& input, const BuildRules& rules, const LightAround* known, RebuildCache& cache,
    BuildScratch& scratch);

/// Light for a surface that was built before its light was known.
BuiltChunk relightChunk(
    const BuildInput& input, const BuildRules& rules, const ChunkSurface& surface, BuildScratch& scratch);

} // namespace fell::stream
