// SPDX-License-Identifier: Apache-2.0
// Streaming: what a second worker brings, and what remembering lives costs.
#include "in_turn.h"
#include <fell/demo/demo_folder.h>

#include <fell/measure/route.h>
#include <fell/stream/streamer.h>

#include <thread>

namespace fell::bench {
namespace {

/// A world made from nothing around the beginning of the demo route; nothing is drawn.
class World {
public:
    World()
        : m_terrain(makeTerrain(findWorld("corrowdale", demoFolder()).take()))
        , m_eye(eyeOn(findRoute("beck-to-summit", demoFolder() / "routes").take(), 0, *m_terrain))
    {
        m_setup.light.mode = "none";
        m_setup.mesh.ambientOcclusion = "corners";
        m_setup.cull.steps = {"octree", "distance", "hidden", "facing"};
        m_setup.stream.distance = 10;
    }

    /// How many chunks and bytes there are once everything is there.
    [[nodiscard]] StreamCounts make(int workers) const
    {
        Setup setup = m_setup;
        setup.stream.workers = workers;
        Streamer streamer(m_terrain, setup);
        streamer.moveTo(chunkOf(m_eye.cell, setup.chunk.edge));
        while (!streamer.settled()) {
            streamer.deliver({}, [](const StreamEvent&) {});
            std::this_thread::sleep_for(std::chrono::milliseconds(1)); // it must not take the second worker's core
        }
        return streamer.counts();
    }

private:
    std::shared_ptr<const Terrain> m_terrain;
    Setup m_setup;
    Eye m_eye;
};

/// "ratio" is the time of one worker over that of two, from seed to ready meshes.
void oneWorkerOverTwo(benchmark::State& state)
{
    World world;
    const StreamCounts one = world.make(1), two = world.make(2);
    if (one.generated != two.generated || one.meshBytes != two.meshBytes || one.voxelBytes != two.voxelBytes)
        return state.SkipWithError("one worker and two make different worlds");
    compareInPairs(
        state, [&] { (void)world.make(1); }, [&] { (void)world.make(2); });
}
BENCHMARK(oneWorkerOverTwo)->Name("stream/one_worker_over_two/corrowdale")->UseRealTime()->MinTime(atLeast(25));

/// What two of this machine's cores give at all: "ratio" is two worlds made one after the other over the same two made
/// at the same time, each by a separate worker, that share nothing.
void oneWorldOverTwo(benchmark::State& state)
{
    World world;
    compareInPairs(
        state,
        [&] {
            (void)world.make(1);
            (void)world.make(1);
        },
        [&] {
            const std::jthread other([&] { (void)world.make(1); });
            (void)world.make(1);
        });
}
BENCHMARK(oneWorldOverTwo)->Name("stream/one_world_over_two_at_once/corrowdale")->UseRealTime()->MinTime(atLeast(12));

/// "ratio" is the work of a chunk over what noting its life costs: at least 100.
void workOverLives(benchmark::State& state)
{
    constexpr int kEvents = 5; // generating, generated, meshing, meshed, uploaded
    World world;
    const StreamCounts counts = world.make(1);
    const auto workNs = static_cast<double>(counts.generateNs + counts.meshNs) / static_cast<double>(counts.generated);
    LifeRecorder lives;
    std::vector<double> work, notes;
    for (auto _ : state)
        for (int round = 0; round < 200; ++round) {
            constexpr int kChunks = 100;
            notes.push_back(secondsFor([&] {
                for (std::int64_t i = 0; i < kChunks * kEvents; ++i)
                    lives.note({i, round, -i}, LifeStep::Meshed, 1, 17);
            }) / kChunks);
            work.push_back(workNs * 1e-9);
        }
    const Ratio ratio = ratioOfMedians(work, notes);
    state.counters["ratio"] = ratio.ratio;
    state.counters["low"] = ratio.low;
    state.counters["high"] = ratio.high;
    state.counters["chunk_us"] = workNs / 1000;
    state.counters["life_ns"] = percentile(notes, 50) * 1e9;
}
BENCHMARK(workOverLives)->Name("stream/chunk_work_over_its_life/corrowdale");

} // namespace
} // namespace fell::bench
