// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/measured_run.h>

#include <fell/measure/transect.h>

#include <fell/measure/cull_trial.h>
#include <fell/measure/reference.h>
#include <fell/measure/stopwatch.h>
#include <fell/stream/thread_clock.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstring>
#include <map>
#include <thread>

namespace fell::measure {
namespace {

using Clock = std::chrono::steady_clock;

constexpr std::size_t kMaxWarmUp = 24; // frames
constexpr std::uint64_t kChurnSeed = 1; // the same for every trial

/// Until the thread has worked for so long.
void waitBusily(double ns)
{
    const std::uint64_t start = threadNs();
    while (static_cast<double>(threadNs() - start) < ns) { }
}

/// Square kilometres of ground within the render distance.
double groundOf(const Setup& setup, double voxelMetres)
{
    const double km = setup.stream.distance * setup.chunk.edge * voxelMetres / 1000;
    return M_PI * km * km;
}

/// One setup at one value in one round: a separate world, from nothing.
class MeasuredRun {
public:
    MeasuredRun(const TransectSpec& spec, Samples& samples, const DrawHooks* hooks, const std::stop_token& stop)
        : m_spec(spec)
        , m_samples(samples)
        , m_hooks(hooks)
        , m_stop(stop)
        , m_setup(*samples.setup)
        , m_rules(std::make_shared<const SideRules>(sideRulesOf(spec.terrain->recipe.blocks)))
    {
        writeField(*findField(spec.vary), m_setup, samples.value);
        if (!spec.second.empty())
            writeField(*findField(spec.second), m_setup, samples.second);
        m_setup = settledFor(std::move(m_setup), spec.terrain->recipe.voxelMetres);
        if (hooks)
            hooks->begin(m_setup, *spec.terrain);
    }

    /// False if it was stopped.
    bool run()
    {
        m_looksAtMeshes = m_samples.rounds.empty() && !hasLevels(m_setup.lod);
        m_samples.rounds.push_back({m_samples.meshNs.size(), m_samples.frameMs.size(), m_samples.changeMs.size()});
        const auto start = Clock::now();
        // A copy: what one leg's churn changes is not there in the next.
        Streamer streamer(
            m_spec.terrain, m_setup, m_reference.hook(), m_spec.changes ? m_spec.changes->copy() : nullptr);
        if (m_hooks)
            streamer.lookThrough(pixelsPerRadian(m_setup.draw.fieldOfView, m_hooks->height));
        if (m_samples.side == 'A' && m_spec.slowerA > 0)
            streamer.onMeshed(
                [share = m_spec.slowerA](std::uint64_t ns) { waitBusily(static_cast<double>(ns) * share); });
        const Eye first = eyeOn(m_spec.route, 0, *m_spec.terrain);
        if (!settle(streamer, first))
            return false;
        m_samples.ready.push_back(secondsSince(start));
        m_samples.firstViewNs.push_back(static_cast<double>(streamer.counts().meshNs));
        m_samples.squareKm = groundOf(m_setup, m_spec.terrain->recipe.voxelMetres);
        m_samples.edge = m_setup.chunk.edge;
        for (const auto& [chunk, meshes] : m_firstView) {
            m_samples.firstView.quads += meshes.quads;
            m_samples.firstView.bytes += meshes.bytes;
            m_samples.firstView.digest += meshes.digest; // a sum: in whatever order they came
        }
        m_looksAtMeshes = false;
        if (m_hooks)
            warmUp(streamer, first);
        FrameCost last;
        for (int i = 0; i < m_spec.frames; ++i) {
            const Eye eye = eyeOn(
                m_spec.route, m_spec.frames > 1 ? static_cast<double>(i) / (m_spec.frames - 1) : 0, *m_spec.terrain);
            if (!settle(streamer, eye))
                return false;
            if (m_spec.churn.kind != ChurnKind::None && !churn(streamer, eye, i))
                return false;
            if (m_hooks)
                note(last = draw(streamer, eye));
        }
        if (m_hooks && m_spec.trySteps && m_samples.steps.empty() && !trySteps(streamer))
            return false;
        const StreamCounts counts = streamer.counts();
        m_samples.residentChunks = counts.resident;
        m_samples.full |= counts.full;
        m_samples.failedChunks = std::max(m_samples.failedChunks, counts.failed);
        if (m_samples.firstError.empty())
            m_samples.firstError = streamer.firstError();
        m_samples.gpuBytes = m_hooks ? last.gpuBytes : counts.meshBytes;
        m_samples.processBytes = std::max(m_samples.processBytes, processBytes());
        return true;
    }

private:
    /// Has the frame's changes made and taken.
    bool churn(Streamer& streamer, const Eye& eye, int frame)
    {
        streamer.edit(churnEdit(m_spec.churn, kChurnSeed, frame, eye.cell, m_spec.terrain, m_rules));
        m_samples.churn.changes += static_cast<std::uint64_t>(m_spec.churn.each);
        return settle(streamer, eye);
    }

    void warmUp(const Streamer& streamer, const Eye& eye)
    {
        std::vector<double> frames;
        while (!isSteady(frames) && frames.size() < kMaxWarmUp && !m_stop.stop_requested())
            frames.push_back(draw(streamer, eye).ms);
        m_samples.warmUp = std::max(m_samples.warmUp, static_cast<int>(frames.size()));
    }

    /// What each cull step saves, and each pass costs, in the middle of the route.
    bool trySteps(Streamer& streamer)
    {
        const Eye eye = eyeOn(m_spec.route, 0.5, *m_spec.terrain);
        if (!settle(streamer, eye))
            return false;
        m_samples.steps = tried(cullVariants(m_setup.cull), streamer, eye);
        m_hooks->choose(m_setup.cull);
        if (!m_hooks->leaveOut)
            return true;
        m_samples.passes = tried(passVariants(m_setup.cull, m_hooks->passes), streamer, eye);
        m_hooks->leaveOut(0);
        return true;
    }

    std::vector<CullTrialRow> tried(std::vector<CullVariant> variants, const Streamer& streamer, const Eye& eye) const
    {
        constexpr int kRounds = 3;
        CullTrial trial(std::move(variants), kRounds);
        while (!trial.isDone() && !m_stop.stop_requested()) {
            m_hooks->choose(trial.next().choices);
            if (m_hooks->leaveOut)
                m_hooks->leaveOut(trial.next().leftOut);
            trial.note(draw(streamer, eye));
        }
        return trial.rows();
    }

    FrameCost draw(const Streamer& streamer, const Eye& eye) const
    {
        return m_hooks->draw(eye, isSurelyFree(streamer, m_setup, *m_hooks, eye));
    }

    bool settle(Streamer& streamer, const Eye& eye)
    {
        streamer.moveTo(chunkOf(eye.cell, m_setup.chunk.edge));
        while (!m_stop.stop_requested()) {
            const auto events = streamer.take(SIZE_MAX);
            for (const StreamEvent& event : events)
                apply(event);
            if (!events.empty())
                continue;
            if (streamer.settled())
                return true;
            std::this_thread::sleep_for(std::chrono::microseconds(200));
        }
        return false;
    }

    void apply(const StreamEvent& event)
    {
        const bool upload = event.kind == StreamEvent::Kind::Upload;
        if (event.kind == StreamEvent::Kind::Edited) {
            m_samples.churn.add(*event.edited);
            m_samples.changeMs.push_back(static_cast<double>(event.edited->readyNs) / 1e6);
        }
        const bool isChange = upload && event.mesh.edit != 0;
        if (upload && !event.mesh.isBare && !isChange)
            m_samples.addMesh(event.mesh.meshNs, m_reference.referenceNsNear(event.chunk));
        if (m_looksAtMeshes && upload && !event.mesh.isBare)
            m_firstView[event.chunk] = meshesOf(event);
        else if (m_looksAtMeshes && event.kind == StreamEvent::Kind::Release)
            m_firstView.erase(event.chunk);
        const auto start = Clock::now();
        if (m_hooks)
            m_hooks->apply(event);
        if (isChange) {
            m_samples.churn.bytes += event.mesh.mesh.bytes();
            m_samples.churn.uploadNs += static_cast<std::uint64_t>(secondsSince(start) * 1e9);
        }
    }

    static ViewMeshes meshesOf(const StreamEvent& event)
    {
        const ChunkMesh& mesh = event.mesh.mesh;
        std::uint64_t digest = mix64(static_cast<std::uint64_t>(event.chunk.x) * 3
            + static_cast<std::uint64_t>(event.chunk.y) * 5 + static_cast<std::uint64_t>(event.chunk.z) * 7);
        const auto add = [&digest](const void* from, std::size_t bytes) {
            const auto* at = static_cast<const unsigned char*>(from);
            for (; bytes >= 8; bytes -= 8, at += 8) {
                std::uint64_t word = 0;
                std::memcpy(&word, at, 8);
                digest = (digest ^ word) * 0x9E3779B97F4A7C15ULL;
                digest ^= digest >> 29;
            }
            for (; bytes > 0; --bytes)
                digest = mix64(digest ^ *at++);
        };
        add(mesh.vertices.data(), mesh.vertices.size());
        add(mesh.shapes.vertices.data(), mesh.shapes.vertices.size() * sizeof(MeshVertex));
        add(mesh.shapes.indices.data(), mesh.shapes.indices.size() * sizeof(std::uint32_t));
        return {mesh.quadCount(), mesh.bytes(), mix64(digest)};
    }

    void note(const FrameCost& frame)
    {
        m_samples.frameMs.push_back(frame.ms);
        m_samples.cpuMs.push_back(frame.cpuMs);
        m_samples.gpuMs.push_back(frame.gpuMs);
        m_samples.chunks.push_back(static_cast<double>(frame.chunks));
        m_samples.triangles.push_back(static_cast<double>(frame.triangles));
        m_samples.drawCalls.push_back(static_cast<double>(frame.drawCalls));
    }

    const TransectSpec& m_spec;
    Samples& m_samples;
    const DrawHooks* m_hooks;
    std::stop_token m_stop;
    Setup m_setup;
    std::shared_ptr<const SideRules> m_rules;
    ReferenceTimer m_reference;
    std::map<ChunkPos, ViewMeshes> m_firstView; // of the first round, until it has settled
    bool m_looksAtMeshes = false;
};

} // namespace

TransectRow rowOf(const Samples& from)
{
    TransectRow row;
    row.setup = from.setup->name;
    row.side = from.side;
    row.value = from.value;
    row.second = from.second;
    row.meshNs = percentilesOf(from.meshNs);
    row.frameMs = percentilesOf(from.frameMs);
    row.cpuMs = percentile(from.cpuMs, 50);
    row.gpuMs = percentile(from.gpuMs, 50);
    row.meshSamples.assign(from.meshNs.begin(), from.meshNs.end());
    row.frameSamples.assign(from.frameMs.begin(), from.frameMs.end());
    row.readySeconds = percentile(from.ready, 50);
    const auto median = [](const std::vector<double>& of) { return static_cast<std::uint64_t>(percentile(of, 50)); };
    row.chunks = median(from.chunks);
    row.triangles = median(from.triangles);
    row.drawCalls = median(from.drawCalls);
    row.residentChunks = from.residentChunks;
    row.gpuBytes = from.gpuBytes;
    row.processBytes = from.processBytes;
    row.full = from.full;
    row.failedChunks = from.failedChunks;
    row.firstError = from.firstError;
    row.warmUp = from.warmUp;
    std::vector<double> worst; // p95 of each round
    for (std::size_t round = 0; round < from.rounds.size(); ++round) {
        if (const auto mesh = from.meshOf(round); !mesh.empty()) {
            row.meshRounds.push_back(percentile(mesh, 50));
            row.roundsInReferences.push_back(from.inReferences(round));
        }
        if (const auto frames = from.framesOf(round); !frames.empty())
            row.frameRounds.push_back(percentile(frames, 50)), worst.push_back(percentile(frames, 95));
    }
    constexpr std::size_t kFewest = 3; // rounds: of two, Student's t on one degree of freedom says nothing
    const auto known = [](const std::vector<double>& rounds) {
        return rounds.size() < kFewest ? Interval{} : intervalOverRounds(rounds);
    };
    row.meshNsP50 = known(row.meshRounds);
    row.frameMsP50 = known(row.frameRounds);
    row.frameMsP95 = known(worst);
    row.meshInReferences = percentile(row.roundsInReferences, 50);
    row.steps = from.steps;
    row.passes = from.passes;
    row.churn = from.churn;
    row.firstView = from.firstView;
    if (from.squareKm > 0)
        row.meshMsPerSquareKm = percentile(from.firstViewNs, 50) / 1e6 / from.squareKm;
    if (from.edge > 0)
        row.meshNsPerVoxel = row.meshNs.p50 / std::pow(from.edge, 3);
    row.churn.readyMs = percentilesOf(from.changeMs);
    return row;
}

bool measureRound(const TransectSpec& spec, Samples& samples, const DrawHooks* hooks, const std::stop_token& stop)
{
    return MeasuredRun(spec, samples, hooks, stop).run();
}

} // namespace fell::measure
