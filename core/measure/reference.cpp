// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/reference.h>

#include <fell/measure/statistics.h>
#include <fell/measure/stopwatch.h>
#include <fell/stream/thread_clock.h>

#include <algorithm>

namespace fell::measure {
namespace {

constexpr int kEdge = 16;

/// A chunk of the ground, `cx` to `cz` chunks from the middle one. Whole numbers only: no machine rounds it otherwise.
VoxelChunk groundAt(int cx, int cy, int cz)
{
    const auto wave = [](int at, int length) { // 0 to length / 2 and back
        const int in = (at + 8 * length) % length;
        return std::min(in, length - in);
    };
    std::vector<Material> voxels;
    for (int y = cy * kEdge; y < (cy + 1) * kEdge; ++y)
        for (int z = cz * kEdge; z < (cz + 1) * kEdge; ++z)
            for (int x = cx * kEdge; x < (cx + 1) * kEdge; ++x) {
                const bool ground = y < wave(x + z / 3, 18) + wave(z - x / 4, 13);
                voxels.push_back(ground ? static_cast<Material>(1 + (y + 60) / 3 % 3) : kOpen);
            }
    return {kEdge, std::move(voxels)};
}

SharedAround<VoxelChunk> groundAround()
{
    SharedAround<VoxelChunk> out;
    std::size_t i = 0;
    for (int cy = -1; cy <= 1; ++cy)
        for (int cz = -1; cz <= 1; ++cz)
            for (int cx = -1; cx <= 1; ++cx)
                out[i++] = std::make_shared<const VoxelChunk>(groundAt(cx, cy, cz));
    return out;
}

/// Named in full: the reference stays the same whatever the defaults are.
Setup referenceSetup()
{
    Setup setup;
    setup.chunk.edge = kEdge;
    setup.light.mode = "none";
    setup.mesh = {"greedy-bits", "corners", "rim", "baked"};
    setup.lod.scheme = "off";
    return setup;
}

} // namespace

double meshReferenceChunk()
{
    static const SharedAround<VoxelChunk> kGround = groundAround();
    static const BuildRules kRules = [] {
        BlockSet blocks;
        for (const char* name : {"first", "second", "third"})
            blocks.kinds.push_back({.name = name});
        return BuildRules(blocks, referenceSetup());
    }();
    thread_local BuildScratch scratch;
    BuildInput input{{}, &kGround, nullptr, {}, {}};
    input.isSeenThroughAlike = true; // meshing alone is the reference
    const std::uint64_t start = threadNs();
    doNotOptimize(buildChunk(input, kRules, scratch));
    return static_cast<double>(threadNs() - start);
}

Streamer::BeforeJob ReferenceTimer::hook()
{
    return [this](const ChunkJob& job) {
        if (job.kind != ChunkJob::Kind::Mesh)
            return;
        std::unique_lock lock(m_mutex);
        Worker& worker = m_workers[std::this_thread::get_id()]; // stays where it is while others are added
        if (worker.jobs++ % kEach == 0) {
            lock.unlock();
            const double ns = meshReferenceChunk();
            lock.lock();
            worker.last = {worker.jobs == 1 ? ns : worker.last[1], worker.jobs == 1 ? ns : worker.last[2], ns};
        }
        m_beside[job.chunk] = percentile(worker.last, 50);
    };
}

double ReferenceTimer::referenceNsNear(ChunkPos chunk) const
{
    const std::scoped_lock lock(m_mutex);
    const auto found = m_beside.find(chunk);
    return found == m_beside.end() ? 0 : found->second;
}

} // namespace fell::measure
