// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/mesh_trial.h>

#include <fell/measure/stopwatch.h>

#include <algorithm>
#include <array>
#include <cassert>
#include <cmath>

namespace fell::measure {
namespace {

/// The part of `quads` whose sides can be seen. Only the mesher of every side makes others, and it merges none.
std::vector<Quad> exposedPart(const PaddedVoxels& voxels, const SideRules& rules, const std::vector<Quad>& quads)
{
    std::vector<Quad> out;
    for (const Quad quad : quads) {
        const QuadFields q = unpackQuad(quad);
        const ChunkPos to = stepOf(q.side);
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

/// The same for the same triangles in any order.
std::uint64_t digestOf(const TriangleList& triangles)
{
    std::uint64_t sum = 0;
    for (std::size_t i = 0; i < triangles.count(); ++i) {
        std::uint64_t one = triangles.corner(i, 0).material;
        for (std::size_t corner = 0; corner < 3; ++corner)
            for (const std::int16_t place : triangles.corner(i, corner).place)
                one = mix64(one + static_cast<std::uint16_t>(place));
        sum += one;
    }
    return sum;
}

void countSurface(const PaddedVoxels& chunk, const MeshRules& rules, const ChunkSurface& quads, Method& method)
{
    ChunkSurface exposed;
    meshExposedSides(chunk, rules, exposed);
    const std::vector<Quad> all = quads.all();
    MeshTrialRow& row = method.row;
    row.quads += all.size();
    row.triangles += all.size() * 2 + quads.triangles.count();
    row.vertexBytes += all.size() * method.layout->bytesPerQuad() + quads.triangles.bytes();
    row.exposedArea += exposed.count();
    row.mergedArea += areaOf(all);
    row.digest = mix64(row.digest) + surfaceDigest(exposedPart(chunk, *rules.sides, all)) + digestOf(quads.triangles);
}

/// Meshes and lays out one chunk. Memory is kept from chunk to chunk, as a worker keeps it; growing it is not what is
/// compared.
double nsToMesh(const PaddedVoxels& chunk, const MeshRules& rules, const Method& method, ChunkSurface& quads,
    std::vector<std::byte>& bytes)
{
    return nsOf([&] {
        quads.clear();
        meshSurface(*method.mesher, chunk, rules, quads);
        if (const std::size_t need = quads.count() * method.layout->bytesPerQuad(); bytes.size() < need)
            bytes.resize(need);
        std::byte* to = bytes.data();
        for (const QuadList& list : quads.of) {
            method.layout->write(list, {}, to);
            to += list.size() * method.layout->bytesPerQuad();
        }
        doNotOptimize(bytes);
    });
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
                doNotOptimize(to[0]);
            }));
            scan.push_back(nsOf([&] {
                std::uint32_t solid = 0;
                for (const Material m : inner)
                    solid += m != kOpen;
                doNotOptimize(solid);
            }));
            const VoxelChunk centre(e, std::move(inner));
            Neighbourhood around;
            around.chunks.fill(&centre);
            gatherNs.push_back(nsOf([&] {
                gather(around, padded);
                doNotOptimize(padded.voxels[0]);
            }));
        }
    trial.copyNs = percentile(copy, 50);
    trial.scanNs = percentile(scan, 50);
    trial.gatherNs = percentile(gatherNs, 50);
}

} // namespace

MeshTrial runMeshTrial(const std::vector<PaddedVoxels>& chunks, const SideRules& sides, const MeshTrialSpec& spec,
    const std::stop_token& stop)
{
    MeshTrial trial;
    trial.chunks = chunks.size();
    trial.edge = chunks.empty() ? 0 : chunks[0].edge;
    trial.ambientOcclusion = spec.ambientOcclusion;
    const MeshRules rules{&sides, spec.ambientOcclusion};
    std::vector<Method> all;
    for (const Mesher* mesher : spec.methods)
        for (const VertexLayout* layout : spec.layouts)
            all.push_back({mesher, layout, {}, {}});
    measureLimits(chunks, spec.repeat, trial);
    ChunkSurface quads;
    std::vector<std::byte> bytes;
    for (int r = 0; r < spec.repeat; ++r)
        for (const auto& chunk : chunks)
            for (auto& method : all) {
                if (stop.stop_requested()) {
                    trial.stopped = true;
                    return trial;
                }
                method.ns.push_back(nsToMesh(chunk, rules, method, quads, bytes));
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

MeshComparison compareMeshing(
    const MeshSide& a, const MeshSide& b, const SideRules& sides, int rounds, const std::stop_token& stop)
{
    assert(!a.chunks->empty() && !b.chunks->empty());
    MeshComparison out;
    const std::array<const MeshSide*, 2> both{&a, &b};
    std::array<Method, 2> methods{{{a.mesher, a.layout, {}, {}}, {b.mesher, b.layout, {}, {}}}};
    std::array<double, 2> voxels{};
    for (std::size_t s = 0; s < 2; ++s)
        voxels[s] = std::pow(both[s]->chunks->front().edge, 3) * static_cast<double>(both[s]->chunks->size());
    ChunkSurface quads;
    std::vector<std::byte> bytes;
    std::array<double, 2> spent{};
    const auto mesh = [&](std::size_t s, std::size_t chunk, int round) {
        const MeshRules rules{&sides, both[s]->ambientOcclusion};
        const double ns = nsToMesh((*both[s]->chunks)[chunk], rules, methods[s], quads, bytes);
        if (round < 0)
            return countSurface((*both[s]->chunks)[chunk], rules, quads, methods[s]);
        methods[s].ns.push_back(ns);
        spent[s] += ns;
    };
    const bool isChunkByChunk = a.chunks->size() == b.chunks->size();
    for (int round = -1; round < rounds; ++round) {
        spent = {};
        const std::size_t first = round & 1;
        if (stop.stop_requested()) {
            out.stopped = true;
            return out;
        }
        if (isChunkByChunk)
            for (std::size_t i = 0; i < a.chunks->size(); ++i)
                for (const std::size_t turn : {0, 1})
                    mesh((turn + first + i) % 2, i, round);
        else
            for (const std::size_t turn : {0, 1})
                for (std::size_t i = 0; i < both[(turn + first) % 2]->chunks->size(); ++i)
                    mesh((turn + first) % 2, i, round);
        if (round >= 0)
            out.rounds.push_back(spent[0] / voxels[0] / (spent[1] / voxels[1]));
    }
    for (std::size_t s = 0; s < 2; ++s) {
        MeshTrialRow& row = s == 0 ? out.a : out.b;
        row = methods[s].row;
        row.mesher = both[s]->mesher->id;
        row.layout = both[s]->layout->id;
        row.chunkNs = percentilesOf(methods[s].ns);
    }
    out.ratio = ratioOverRounds(out.rounds);
    return out;
}

} // namespace fell::measure
