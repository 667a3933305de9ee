// SPDX-License-Identifier: Apache-2.0
#include "measure/mesh_trial.h"

#include "grid/reach.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <map>

namespace fell {
namespace {

using Clock = std::chrono::steady_clock;

template <typename Work> double nsOf(const Work& work)
{
    const auto start = Clock::now();
    work();
    return std::chrono::duration<double, std::nano>(Clock::now() - start).count();
}

/// Does the compiler think that somebody reads this? Then it will not leave the work out.
template <typename T> void keep(const T& value)
{
    asm volatile("" : : "r"(&value) : "memory");
}

/// The chunk layers of a column that may hold its surface.
std::pair<std::int64_t, std::int64_t> layersOf(const Terrain& terrain, const ColumnPatch& columns, int edge)
{
    if (terrain.recipe.pattern)
        return {-1, -1}; // the layer just below level ground; any layer of the other patterns
    const auto layer = [edge](double y) { return static_cast<std::int64_t>(std::floor(y / edge)); };
    return {layer(columns.lowest - columns.mostPush), layer(columns.highest + columns.mostPush)};
}

VoxelPos withinChunk(Quad quad)
{
    const QuadFields q = unpackQuad(quad);
    return {q.x, q.y, q.z};
}

/// The part of `quads` whose sides border open air, as unit sides. Quads of more than one voxel never hide any.
std::vector<Quad> exposedPart(const PaddedVoxels& voxels, const std::vector<Quad>& quads)
{
    std::vector<Quad> out;
    for (const Quad quad : quads) {
        const QuadFields q = unpackQuad(quad);
        const VoxelPos at = withinChunk(quad);
        const ChunkPos to = towards(q.side);
        const bool single = q.width == 1 && q.height == 1;
        if (!single
            || voxels.at(static_cast<int>(at.x + to.x), static_cast<int>(at.y + to.y), static_cast<int>(at.z + to.z))
                == kOpen)
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

void countSurface(const PaddedVoxels& chunk, const std::vector<Quad>& quads, Method& method)
{
    std::vector<Quad> exposed;
    meshExposedSides(chunk, exposed);
    MeshTrialRow& row = method.row;
    row.quads += quads.size();
    row.triangles += quads.size() * 2;
    row.vertexBytes += quads.size() * method.layout->bytesPerQuad();
    row.exposedArea += exposed.size();
    row.mergedArea += areaOf(quads);
    row.digest = mix64(row.digest) + surfaceDigest(exposedPart(chunk, quads));
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
            std::vector<Quad> surface;
            meshExposedSides(padded, surface);
            if (!surface.empty() || terrain.recipe.pattern)
                out.push_back(std::move(padded));
        }
    }
    return out;
}

MeshTrial runMeshTrial(const std::vector<PaddedVoxels>& chunks, const std::vector<const Mesher*>& methods,
    const std::vector<const VertexLayout*>& layouts, int repeat, const std::stop_token& stop)
{
    MeshTrial trial;
    trial.chunks = chunks.size();
    trial.edge = chunks.empty() ? 0 : chunks[0].edge;
    std::vector<Method> all;
    for (const Mesher* mesher : methods)
        for (const VertexLayout* layout : layouts)
            all.push_back({mesher, layout, {}, {}});
    measureLimits(chunks, repeat, trial);
    std::vector<Quad> quads;
    std::vector<std::byte> bytes;
    for (int r = 0; r < repeat; ++r)
        for (const auto& chunk : chunks)
            for (auto& method : all) {
                if (stop.stop_requested()) {
                    trial.stopped = true;
                    return trial;
                }
                // Memory is kept from chunk to chunk, as a worker keeps it; growing it is not what is compared.
                method.ns.push_back(nsOf([&] {
                    quads.clear();
                    method.mesher->mesh(chunk, quads);
                    if (const std::size_t need = quads.size() * method.layout->bytesPerQuad(); bytes.size() < need)
                        bytes.resize(need);
                    method.layout->write(quads, bytes.data());
                    keep(bytes);
                }));
                if (r == 0)
                    countSurface(chunk, quads, method);
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
