// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/store_trial.h>

#include <fell/measure/mesh_trial.h>
#include <fell/measure/statistics.h>
#include <fell/measure/stopwatch.h>
#include <fell/stream/level_source.h>

#include <algorithm>
#include <random>

namespace fell::measure {
namespace {

std::size_t sizeOf(int edge)
{
    return static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge);
}

std::vector<Material> insideOf(const PaddedVoxels& padded)
{
    std::vector<Material> out;
    out.reserve(sizeOf(padded.edge));
    for (int y = 0; y < padded.edge; ++y)
        for (int z = 0; z < padded.edge; ++z) {
            const Material* row = padded.voxels.data() + padded.index(0, y, z);
            out.insert(out.end(), row, row + padded.edge);
        }
    return out;
}

/// A cube of many chunks whose lowest corner is `low` chunks from the origin.
std::vector<Material> largeCube(LevelSource& source, int edge, ChunkPos low)
{
    const int chunkEdge = source.edge(), across = edge / chunkEdge;
    std::vector<Material> out(sizeOf(edge));
    for (int cz = 0; cz < across; ++cz)
        for (int cx = 0; cx < across; ++cx)
            for (int cy = 0; cy < across; ++cy) {
                const VoxelChunk chunk = source.voxels(low + ChunkPos{cx, cy, cz});
                for (int y = 0; y < chunkEdge; ++y)
                    for (int z = 0; z < chunkEdge; ++z)
                        chunk.readRow(0, y, z, chunkEdge,
                            out.data() + ((cy * chunkEdge + y) * edge + cz * chunkEdge + z) * std::ptrdiff_t{edge}
                                + cx * chunkEdge);
            }
    return out;
}

struct Samples {
    std::vector<double> build, random, row, edit, bytes;
    bool same = true;
};

void measure(const std::vector<Material>& voxels, int edge, const StorageFormat& form, std::uint64_t seed, Samples& to)
{
    constexpr int kReads = 512, kEdits = 8;
    std::unique_ptr<VoxelStorage> held;
    to.build.push_back(nsOf([&] { held = form.hold(edge, voxels); }));
    to.bytes.push_back(static_cast<double>(held->bytes()));
    std::mt19937_64 dice(seed);
    const auto any = [&] { return static_cast<int>(dice() % static_cast<std::uint64_t>(edge)); };
    std::vector<std::array<int, 3>> places(kReads);
    for (auto& place : places)
        place = {any(), any(), any()};
    std::vector<Material> row(static_cast<std::size_t>(edge));
    to.random.push_back(nsOf([&] {
        unsigned sum = 0;
        for (const auto& [x, y, z] : places)
            sum += held->at(x, y, z);
        doNotOptimize(sum);
    }) / kReads);
    // Rows in the order in which a mesher reads them.
    const int rows = std::min(edge * edge, 1024);
    to.row.push_back(nsOf([&] {
        for (int i = 0; i < rows; ++i) {
            held->readRow(i / edge, i % edge, row.data());
            doNotOptimize(row[0]);
        }
    }) / rows);
    const int edits = edge > 64 ? 1 : kEdits;
    to.edit.push_back(nsOf([&] {
        for (int i = 0; i < edits; ++i) {
            const auto [x, y, z] = places[static_cast<std::size_t>(i)];
            const Material before = held->at(x, y, z);
            held->set(x, y, z, before == 1 ? kOpen : 1);
            held->set(x, y, z, before);
        }
    }) / edits
        / 2);
    for (int i = 0; i < edge * edge && to.same; ++i) {
        held->readRow(i / edge, i % edge, row.data());
        to.same = std::equal(row.begin(), row.end(), voxels.begin() + static_cast<std::ptrdiff_t>(i) * edge);
    }
}

} // namespace

std::vector<std::vector<Material>> sampleCubes(const Terrain& terrain, const Generator& generator, int edge,
    std::size_t count, const std::stop_token& stop, const WorldChanges* changes)
{
    std::vector<std::vector<Material>> out;
    if (edge <= 64) {
        for (const PaddedVoxels& chunk : surfaceChunks(terrain, generator, edge, count, stop, changes))
            out.push_back(insideOf(chunk));
        return out;
    }
    constexpr int kChunk = 64;
    LevelSource source(
        std::shared_ptr<const Terrain>(std::shared_ptr<void>(), &terrain), generator, kChunk, 256, changes);
    const std::int64_t across = edge / kChunk;
    const ChunkPos middle = chunkOf(middleOfInterest(terrain, changes), kChunk);
    for (std::int64_t i = 0; static_cast<std::size_t>(i) < count && !stop.stop_requested(); ++i)
        out.push_back(
            largeCube(source, edge, middle + ChunkPos{(i - 1) * across + across / 2, -across / 2, -across / 2}));
    return out;
}

StoreTrial runStoreTrial(const std::vector<std::vector<Material>>& cubes, int edge,
    const std::vector<const StorageFormat*>& forms, const std::stop_token& stop)
{
    StoreTrial trial;
    trial.edge = edge;
    trial.chunks = cubes.size();
    std::vector<Samples> samples(forms.size());
    for (std::size_t c = 0; c < cubes.size(); ++c)
        for (std::size_t f = 0; f < forms.size(); ++f) {
            if (stop.stop_requested()) {
                trial.stopped = true;
                return trial;
            }
            measure(cubes[c], edge, *forms[f], c, samples[f]);
        }
    for (std::size_t f = 0; f < forms.size(); ++f) {
        const Samples& s = samples[f];
        double bytes = 0;
        for (const double one : s.bytes)
            bytes += one / static_cast<double>(s.bytes.size());
        trial.rows.push_back({forms[f]->id, bytes, percentile(s.build, 50), percentile(s.random, 50),
            percentile(s.row, 50), percentile(s.edit, 50), s.same});
    }
    return trial;
}

} // namespace fell::measure
