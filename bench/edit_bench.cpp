// SPDX-License-Identifier: Apache-2.0
// Edits: batched against each voxel alone, and one voxel against its chunk lit and meshed from nothing.
#include "in_turn.h"
#include <fell/demo/demo_folder.h>

#include <fell/measure/route.h>
#include <fell/stream/streamer.h>

#include <cstdlib>
#include <map>
#include <random>

namespace fell::bench {
namespace {

/// Resident chunks on one thread: edits run on the thread that asks for events.
class Resident {
public:
    Resident(const std::shared_ptr<const Terrain>& terrain, const Setup& setup, ChunkPos at)
        : m_streamer(terrain, setup)
    {
        m_streamer.moveTo(at);
        take();
        while (!m_streamer.settled())
            take();
        m_filled = m_streamer.counts();
    }

    /// Carries out an edit to its end.
    std::shared_ptr<const EditOutcome> edit(std::vector<VoxelChange> changes)
    {
        m_outcome.reset();
        (void)m_streamer.edit({[&changes](const ReadVoxel&) { return changes; }, false});
        while (!m_outcome)
            take();
        return m_outcome;
    }
    [[nodiscard]] const std::map<ChunkPos, std::vector<std::byte>>& meshes() const { return m_meshes; }
    [[nodiscard]] const StreamCounts& filled() const { return m_filled; }
    [[nodiscard]] Material at(VoxelPos voxel) const
    {
        auto chunk = m_streamer.voxels(chunkOf(voxel, m_streamer.edge()));
        for (int tries = 0; !chunk && tries < 100'000; ++tries) // a worker holds the map for a moment
            chunk = m_streamer.voxels(chunkOf(voxel, m_streamer.edge()));
        const VoxelPos in = voxel - originOf(chunkOf(voxel, m_streamer.edge()), m_streamer.edge());
        return chunk ? chunk->at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z)) : kOpen;
    }

private:
    void take()
    {
        for (StreamEvent& event : m_streamer.take(SIZE_MAX)) {
            if (event.kind == StreamEvent::Kind::Upload)
                m_meshes[event.chunk] = std::move(event.mesh.mesh.vertices);
            else if (event.kind == StreamEvent::Kind::Edited)
                m_outcome = event.edited;
        }
    }
    Streamer m_streamer;
    StreamCounts m_filled;
    std::map<ChunkPos, std::vector<std::byte>> m_meshes;
    std::shared_ptr<const EditOutcome> m_outcome;
};

Setup onOneThread(const char* method)
{
    Setup setup = findSetup("near", demoFolder() / "setups").take();
    setup.stream.shape = "drawing";
    setup.stream.distance = 5;
    setup.edit.method = method;
    return setup;
}

std::vector<VoxelChange> ballAt(VoxelPos middle, int radius)
{
    std::vector<VoxelChange> changes;
    for (int y = -radius; y <= radius; ++y)
        for (int z = -radius; z <= radius; ++z)
            for (int x = -radius; x <= radius; ++x)
                if (x * x + y * y + z * z <= radius * radius)
                    changes.push_back({{middle.x + x, middle.y + y, middle.z + z}, kOpen, kOpen});
    return changes;
}

std::vector<VoxelChange> back(const EditOutcome& outcome)
{
    std::vector<VoxelChange> changes = outcome.changes;
    for (VoxelChange& one : changes)
        std::swap(one.before, one.after);
    return changes;
}

/// "ratio" is a ball removed voxel by voxel over the same ball gathered, from the call to the new meshes: at least 30.
/// "meshed" says how often chunks were meshed for the gathered one, "chunks" how many it touched.
void eachOverGathered(benchmark::State& state)
{
    const bool isQuick = std::getenv("FELL_QUICK") != nullptr;
    const int radius = isQuick ? 4 : 12;
    const auto terrain = makeTerrain(findWorld("corrowdale", demoFolder()).take());
    const int edge = onOneThread("each").chunk.edge;
    // A corner of eight chunks as near to the ground as there is one.
    const std::int64_t x = 3 * edge, z = 3 * edge;
    const std::int64_t y = chunkOf({0, static_cast<std::int64_t>(groundHeight(*terrain, x, z)), 0}, edge).y * edge;
    const VoxelPos corner{x, y, z};
    Resident gathered(terrain, onOneThread("gathered"), chunkOf(corner, edge)),
        each(terrain, onOneThread("each"), chunkOf(corner, edge));
    double together = 0, alone = 0;
    std::shared_ptr<const EditOutcome> last;
    for (auto _ : state) {
        last = gathered.edit(ballAt(corner, radius));
        const auto plain = each.edit(ballAt(corner, radius));
        if (gathered.meshes() != each.meshes() || last->changes.size() != plain->changes.size())
            return state.SkipWithError("the two ways come to different meshes");
        together += static_cast<double>(last->readyNs);
        alone += static_cast<double>(plain->readyNs);
        (void)gathered.edit(back(*last));
    }
    state.counters["ratio"] = alone / together;
    state.counters["gathered_ms"] = together / 1e6;
    state.counters["voxels"] = static_cast<double>(last->changes.size());
    state.counters["meshed"] = last->meshed;
    state.counters["chunks"] = last->voxelChunks;
}
BENCHMARK(eachOverGathered)->Name("edit/each_over_gathered/ball_12")->Iterations(1)->UseRealTime();

/// One voxel placed on lit ground, from the call to the new meshes and light: "p95_us", "p50_us".
/// "ratio" is lighting and meshing one chunk from nothing, on average of those that show something, over the median
/// edit.
void wholeChunkOverOneVoxel(benchmark::State& state)
{
    const auto terrain = makeTerrain(findWorld("corrowdale", demoFolder()).take());
    const Setup setup = onOneThread("gathered");
    const int edge = setup.chunk.edge;
    // Where the demo begins: lamps on posts along the track, the beck between walls.
    const Eye eye = eyeOn(findRoute("beck-to-summit", demoFolder() / "routes").take(), 0.06, *terrain);
    const ChunkPos middle = chunkOf(eye.cell, edge);
    Resident world(terrain, setup, middle);
    std::mt19937_64 dice(4);
    const auto onGround = [&] {
        const auto roll = [&] { return static_cast<std::int64_t>(dice() % 96) - 48; };
        VoxelPos at{eye.cell.x + roll(), 0, eye.cell.z + roll()};
        at.y = static_cast<std::int64_t>(groundHeight(*terrain, at.x, at.z)) + 4;
        while (world.at({at.x, at.y - 1, at.z}) == kOpen && at.y > -200)
            --at.y;
        return at;
    };
    std::vector<double> us, meshed, lightUs, meshUs;
    const int edits = std::getenv("FELL_QUICK") ? 60 : 1000;
    for (auto _ : state)
        for (int i = 0; i < edits; ++i) {
            const VoxelPos at = onGround();
            const auto placed = world.edit({{at, kOpen, 1}});
            us.push_back(static_cast<double>(placed->readyNs) / 1000);
            meshed.push_back(placed->meshed);
            lightUs.push_back(static_cast<double>(placed->lightNs) / 1000);
            meshUs.push_back(static_cast<double>(placed->meshNs) / 1000);
            if (i % 2 == 0)
                (void)world.edit(back(*placed));
        }
    const auto at = [](std::vector<double> values, double part) {
        std::sort(values.begin(), values.end());
        return values[static_cast<std::size_t>(part * static_cast<double>(values.size() - 1))];
    };
    const StreamCounts& filled = world.filled();
    const double whole = (static_cast<double>(filled.lightNs) / static_cast<double>(filled.lit)
                             + static_cast<double>(filled.meshNs) / static_cast<double>(filled.meshed))
        / 1000;
    state.counters["p50_us"] = at(us, 0.5);
    state.counters["p95_us"] = at(us, 0.95);
    state.counters["light_p50_us"] = at(lightUs, 0.5);
    state.counters["light_p95_us"] = at(lightUs, 0.95);
    state.counters["mesh_p50_us"] = at(meshUs, 0.5);
    state.counters["mesh_p95_us"] = at(meshUs, 0.95);
    state.counters["meshed_p95"] = at(meshed, 0.95);
    state.counters["whole_us"] = whole;
    state.counters["ratio"] = whole / at(us, 0.5);
}
BENCHMARK(wholeChunkOverOneVoxel)->Name("edit/whole_chunk_over_one_voxel/corrowdale")->Iterations(1)->UseRealTime();

} // namespace
} // namespace fell::bench
