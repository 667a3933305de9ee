// SPDX-License-Identifier: Apache-2.0
#include "measure/mesh_trial.h"

#include "grid/reach.h"
#include "measure/stopwatch.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace fell {
namespace {

/// The chunk layers of a column that may hold its surface.
std::pair<std::int64_t, std::int64_t> layersOf(const Terrain& terrain, const ColumnPatch& columns, int edge)
{
    if (terrain.recipe.pattern)
        return {-1, -1}; // the layer just below level ground; any layer of the other patterns
    const auto layer = [edge](double y) { return static_cast<std::int64_t>(std::floor(y / edge)); };
    return {layer(columns.lowest - columns.mostPush), layer(columns.highest + columns.mostPush)};
}

/// The part of `quads` whose sides can be seen. Only the mesher of every side makes others, and it merges none.
std::vector<Quad> exposedPart(const PaddedVoxels& voxels, const SideRules& rules, const std::vector<Quad>& quads)
{
    std::vector<Quad> out;
    for (const Quad quad : quads) {
        const QuadFields q = unpackQuad(quad);
        const ChunkPos to = towards(q.side);
        const bool single = q.width == 1 && q.height == 1;
        if (!single
            || isSideSeen(rules, q.material,
                voxels.at(q.x + static_cast<int>(to.x), q.y + static_cast<int>(to.y), q.z + static_cast<int>(to.z)),
                q.side))
            out.push_back(quad);
    }
    return out;
}

struct Method {
    const Mesher* mesher;
    const VertexLayout* layout;
    std::vector<double> ns;
    MeshTrialRow row;
};

void countSurface(const PaddedVoxels& chunk, const MeshRules& rules, const ChunkQuads& quads, Method& method)
{
    ChunkQuads exposed;
    meshExposedSides(chunk, rules, exposed);
    const std::vector<Quad> all = quads.all();
    MeshTrialRow& row = method.row;
    row.quads += all.size();
    row.triangles += all.size() * 2;
    row.vertexBytes += all.size() * method.layout->bytesPerQuad();
    row.exposedArea += exposed.count();
    row.mergedArea += areaOf(all);
    row.digest = mix64(row.digest) + surfaceDigest(exposedPart(chunk, *rules.sides, all));
}

void measureLimits(const std::vector<PaddedVoxels>& chunks, int repeat, MeshTrial& trial)
{
    std::vector<double> copy, scan, gatherNs;
    std::vector<Material> to;
    PaddedVoxels padded;
    for (int r = 0; r < repeat; ++r)
        for (const auto& chunk : chunks) {
            const int e = chunk.edge;
            std::vector<Material> inner;
            for (int y = 0; y < e; ++y)
                for (int z = 0; z < e; ++z)
                    inner.insert(inner.end(), chunk.voxels.begin() + static_cast<std::ptrdiff_t>(chunk.index(0, y, z)),
                        chunk.voxels.begin() + static_cast<std::ptrdiff_t>(chunk.index(0, y, z)) + e);
            to.resize(inner.size());
            copy.push_back(nsOf([&] {
                std::copy(inner.begin(), inner.end(), to.begin());
                keep(to[0]);
            }));
            scan.push_back(nsOf([&] {
                std::uint32_t solid = 0;
                for (const Material m : inner)
                    solid += m != kOpen;
                keep(solid);
            }));
            const VoxelChunk centre(e, std::move(inner));
            Neighbourhood around;
            around.chunks.fill(&centre);
            gatherNs.push_back(nsOf([&] {
                gather(around, padded);
                keep(padded.voxels[0]);
            }));
        }
    trial.copyNs = percentile(copy, 50);
    trial.scanNs = percentile(scan, 50);
    trial.gatherNs = percentile(gatherNs, 50);
}

} // namespace

std::vector<PaddedVoxels> surfaceChunks(
    const Terrain& terrain, const Generator& generator, int edge, std::size_t count, const std::stop_token& stop)
{
    constexpr std::int64_t kFarthest = 64; // chunks
    const SideRules sides = sideRulesOf(terrain.recipe.blocks);
    std::vector<PaddedVoxels> out;
    std::map<ChunkPos, ColumnPatch> columns;
    std::map<ChunkPos, VoxelChunk> chunks;
    const auto columnsOf = [&](std::int64_t x, std::int64_t z) -> const ColumnPatch& {
        const auto [at, isNew] = columns.try_emplace({x, 0, z});
        if (isNew)
            at->second = generator.columns(terrain, x * edge, z * edge, edge);
        return at->second;
    };
    const auto chunkAt = [&](ChunkPos at) -> const VoxelChunk& {
        const auto found = chunks.find(at);
        return found != chunks.end()
            ? found->second
            : chunks.emplace(at, generator.voxels(terrain, columnsOf(at.x, at.z), at)).first->second;
    };
    std::vector<ChunkPos> plan;
    for (std::int64_t z = -kFarthest; z <= kFarthest; ++z)
        for (std::int64_t x = -kFarthest; x <= kFarthest; ++x)
            plan.push_back({x, 0, z});
    std::sort(plan.begin(), plan.end(), [](ChunkPos a, ChunkPos b) {
        return squaredLength(a) != squaredLength(b) ? squaredLength(a) < squaredLength(b) : a < b;
    });
    for (const ChunkPos at : plan) {
        const auto [low, high] = layersOf(terrain, columnsOf(at.x, at.z), edge);
        for (std::int64_t y = low; y <= high; ++y) {
            if (out.size() >= count || stop.stop_requested())
                return out;
            Neighbourhood around;
            for (std::int64_t i = 0; i < 27; ++i) {
                const ChunkPos offset{i % 3 - 1, i / 9 - 1, i / 3 % 3 - 1};
                around.chunks[neighbourIndex(offset)] = &chunkAt(ChunkPos{at.x, y, at.z} + offset);
            }
            PaddedVoxels padded;
            gather(around, padded);
            ChunkQuads surface;
            meshExposedSides(padded, {&sides, false}, surface);
            if (surface.count() > 0 || terrain.recipe.pattern)
                out.push_back(std::move(padded));
        }
    }
    return out;
}

MeshTrial runMeshTrial(const std::vector<PaddedVoxels>& chunks, const SideRules& sides, const MeshTrialSpec& spec,
    const std::stop_token& stop)
{
    MeshTrial trial;
    trial.chunks = chunks.size();
    trial.edge = chunks.empty() ? 0 : chunks[0].edge;
    trial.shade = spec.shade;
    const MeshRules rules{&sides, spec.shade};
    std::vector<Method> all;
    for (const Mesher* mesher : spec.methods)
        for (const VertexLayout* layout : spec.layouts)
            all.push_back({mesher, layout, {}, {}});
    measureLimits(chunks, spec.repeat, trial);
    ChunkQuads quads;
    std::vector<std::byte> bytes;
    for (int r = 0; r < spec.repeat; ++r)
        for (const auto& chunk : chunks)
            for (auto& method : all) {
                if (stop.stop_requested()) {
                    trial.stopped = true;
                    return trial;
                }
                // Memory is kept from chunk to chunk, as a worker keeps it; growing it is not what is compared.
                method.ns.push_back(nsOf([&] {
                    quads.clear();
                    method.mesher->mesh(chunk, rules, quads);
                    if (const std::size_t need = quads.count() * method.layout->bytesPerQuad(); bytes.size() < need)
                        bytes.resize(need);
                    std::byte* to = bytes.data();
                    for (const QuadList& list : quads.of) {
                        method.layout->write(list, {}, to);
                        to += list.size() * method.layout->bytesPerQuad();
                    }
                    keep(bytes);
                }));
                if (r == 0)
                    countSurface(chunk, rules, quads, method);
            }
    for (auto& method : all) {
        method.row.mesher = method.mesher->id;
        method.row.layout = method.layout->id;
        method.row.chunkNs = percentilesOf(method.ns);
        trial.rows.push_back(method.row);
    }
    return trial;
}

} // namespace fell
