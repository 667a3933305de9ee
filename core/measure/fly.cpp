// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/fly.h>

#include <fell/measure/stopwatch.h>

#include <cassert>
#include <chrono>
#include <cmath>
#include <numeric>
#include <thread>

namespace fell::measure {
namespace {

using Clock = std::chrono::steady_clock;

/// Metres along a route's curve, by its chords.
double lengthOf(const Route& route, const Terrain& terrain)
{
    constexpr int kChords = 400;
    double metres = 0;
    Eye last = eyeOn(route, 0, terrain);
    for (int i = 1; i <= kChords; ++i) {
        const Eye next = eyeOn(route, static_cast<double>(i) / kChords, terrain);
        const VoxelPos cells = next.cell - last.cell;
        const double x = static_cast<double>(cells.x) + next.within.x - last.within.x,
                     y = static_cast<double>(cells.y) + next.within.y - last.within.y,
                     z = static_cast<double>(cells.z) + next.within.z - last.within.z;
        metres += std::sqrt(x * x + y * y + z * z) * terrain.recipe.voxelMetres;
        last = next;
    }
    return metres;
}

/// There and back: 0 to 1 to 0.
double toAndFro(double t)
{
    const double within = std::fmod(t, 2.0);
    return within <= 1 ? within : 2 - within;
}

class Flight {
public:
    Flight(const FlySpec& spec, const DrawHooks* hooks, const std::function<void(double, const std::string&)>& progress,
        const std::stop_token& stop)
        : m_spec(spec)
        , m_hooks(hooks)
        , m_progress(progress)
        , m_stop(stop)
    {
    }

    FlyResult run()
    {
        m_result.world = m_spec.terrain->recipe.name;
        m_result.driver = m_hooks ? m_hooks->driver : "";
        m_result.culled.resize(m_spec.setup.cull.steps.size());
        if (m_hooks)
            m_hooks->begin(m_spec.setup, *m_spec.terrain);
        m_start = Clock::now();
        Streamer streamer(m_spec.terrain, m_spec.setup, {}, m_spec.changes);
        if (m_hooks)
            streamer.lookThrough(pixelsPerRadian(m_spec.setup.draw.fieldOfView, m_hooks->height));
        const Eye first = eyeOn(m_spec.route, 0, *m_spec.terrain);
        if (settle(streamer, first)) {
            m_result.settleSeconds = secondsSince(m_start);
            if (m_spec.straight > 0)
                flyStraight(streamer, first);
            else
                flyRoute(streamer, first);
        }
        m_result.stopped = m_stop.stop_requested();
        return std::move(m_result);
    }

private:
    void deliver(Streamer& streamer, const FrameBudget& budget)
    {
        const Delivery done = streamer.deliver(budget, [this](const StreamEvent& event) {
            if (m_hooks)
                m_hooks->apply(event);
        });
        m_result.uploaded += static_cast<std::uint64_t>(done.meshes);
        m_result.released += static_cast<std::uint64_t>(done.releases);
    }

    FrameCost draw(const Streamer& streamer, const Eye& eye) const
    {
        return m_hooks->draw(eye, isSurelyFree(streamer, m_spec.setup, *m_hooks, eye));
    }

    void moveTo(Streamer& streamer, const Eye& eye) const
    {
        streamer.moveTo(chunkOf(eye.cell, m_spec.setup.chunk.edge), sectorOf(eye));
    }

    bool settle(Streamer& streamer, const Eye& eye)
    {
        moveTo(streamer, eye);
        while (!m_stop.stop_requested()) {
            deliver(streamer, {});
            if (m_result.horizonSeconds == 0 && streamer.cover() && streamer.cover()->missing == 0)
                m_result.horizonSeconds = secondsSince(m_start);
            if (streamer.settled())
                return true;
            std::this_thread::sleep_for(std::chrono::milliseconds(1));
        }
        return false;
    }

    void flyRoute(Streamer& streamer, const Eye& first)
    {
        constexpr int kWarmUp = 3;
        constexpr double kStep = 1.0 / 60; // seconds of flight between two frames
        for (int i = 0; m_hooks && i < kWarmUp; ++i)
            draw(streamer, first);
        const double length = std::max(1.0, lengthOf(m_spec.route, *m_spec.terrain));
        const FrameBudget budget = frameBudgetOf(m_spec.setup.upload);
        std::vector<double> frames, shares, chunks, triangles, loaded, calls, places;
        for (int i = 0; i < m_spec.frames && !m_stop.stop_requested(); ++i) {
            m_progress((m_hooks ? 0.5 : 1.0) * i / m_spec.frames, "flying");
            places.push_back(toAndFro(m_spec.speed * kStep * i / length));
            const Eye eye = eyeOn(m_spec.route, places.back(), *m_spec.terrain);
            const auto begun = Clock::now();
            moveTo(streamer, eye);
            deliver(streamer, budget);
            shares.push_back(secondsSince(begun) * 1e6);
            if (m_hooks) {
                streamer.beginFrame();
                const FrameCost cost = draw(streamer, eye);
                streamer.endFrame();
                loaded.push_back(static_cast<double>(cost.loadedTriangles));
                chunks.push_back(static_cast<double>(cost.chunks));
                triangles.push_back(static_cast<double>(cost.triangles));
                calls.push_back(static_cast<double>(cost.drawCalls));
                for (std::size_t s = 0; s < std::min(cost.culled.size(), m_result.culled.size()); ++s)
                    m_result.culled[s] += cost.culled[s];
                m_result.gpuBytes = cost.gpuBytes;
            }
            frames.push_back(secondsSince(begun) * 1e3);
            std::this_thread::sleep_until(
                begun + std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(kStep)));
        }
        m_result.frames = static_cast<int>(frames.size());
        m_result.counts = streamer.counts();
        m_result.processBytes = processBytes();
        m_result.lives = streamer.lives().all();
        m_result.frameMs = percentilesOf(frames);
        m_result.shareUs = percentilesOf(shares);
        const auto median
            = [](const std::vector<double>& of) { return static_cast<std::uint64_t>(percentile(of, 50)); };
        m_result.drawnChunks = median(chunks);
        m_result.triangles = median(triangles);
        m_result.loadedTriangles = median(loaded);
        m_result.drawCalls = median(calls);
        double limit = 1000 * kStep;
        if (m_hooks) {
            flyAgain(streamer, places);
            limit = 2 * m_result.referenceMs.p50;
        }
        m_result.hitches = static_cast<std::uint64_t>(
            std::count_if(frames.begin(), frames.end(), [limit](double frame) { return frame > limit; }));
    }

    /// The same places with everything resident: what a frame costs where nothing streams.
    void flyAgain(Streamer& streamer, const std::vector<double>& places)
    {
        constexpr std::size_t kMax = 120; // a distance between places: their median changes no more
        std::vector<double> frames;
        const std::size_t step = std::max<std::size_t>(1, places.size() / kMax);
        for (std::size_t i = 0; i < places.size(); i += step) {
            m_progress(
                0.5 + 0.5 * static_cast<double>(i) / static_cast<double>(places.size()), "with everything there");
            const Eye eye = eyeOn(m_spec.route, places[i], *m_spec.terrain);
            if (!settle(streamer, eye))
                return;
            frames.push_back(draw(streamer, eye).ms);
        }
        m_result.referenceMs = percentilesOf(frames);
        const double limit = 2 * m_result.referenceMs.p50;
        m_result.referenceHitchShare = static_cast<double>(std::count_if(frames.begin(), frames.end(),
                                           [limit](double frame) { return frame > limit; }))
            / static_cast<double>(std::max<std::size_t>(1, frames.size()));
    }

    void flyStraight(Streamer& streamer, Eye eye)
    {
        constexpr double kMean = 0.05; // of the time, before each moment
        const int edge = m_spec.setup.chunk.edge;
        const auto start = Clock::now();
        const std::array<double, 2> moments{m_spec.straight / 10, m_spec.straight};
        std::vector<FlyBytes> samples;
        std::uint64_t steps = 0;
        double nextSample = 0;
        while (secondsSince(start) < m_spec.straight && !m_stop.stop_requested()) {
            m_progress(secondsSince(start) / m_spec.straight, "straight on, " + std::to_string(steps) + " chunks");
            eye = moved(eye, {edge, 0, 0});
            ++steps;
            const auto begun = Clock::now();
            if (!settle(streamer, eye))
                break;
            m_frames.push_back(secondsSince(begun) * 1e3);
            if (const double now = secondsSince(start); now >= nextSample) {
                const StreamCounts counts = streamer.counts();
                samples.push_back({now, counts.voxelBytes + counts.lightBytes + counts.meshBytes, processBytes()});
                nextSample = now + m_spec.straight / 1000;
            }
        }
        for (const double moment : moments) {
            FlyBytes sum{moment, 0, 0};
            std::uint64_t count = 0;
            // At least the last one before the moment, or the first of all.
            for (auto sample = samples.rbegin(); sample != samples.rend(); ++sample) {
                const bool isLast = std::next(sample) == samples.rend();
                if (sample->seconds > moment && !(isLast && count == 0))
                    continue;
                if (count > 0 && sample->seconds < moment - kMean * m_spec.straight)
                    break;
                sum.world += sample->world;
                sum.process += sample->process;
                ++count;
            }
            if (count > 0)
                m_result.bytes.push_back({moment, sum.world / count, sum.process / count});
        }
        m_result.metresPerSecond
            = static_cast<double>(steps) * edge * m_spec.terrain->recipe.voxelMetres / secondsSince(start);
        m_result.frames = static_cast<int>(m_frames.size());
        m_result.frameMs = percentilesOf(m_frames);
        m_result.counts = streamer.counts();
        m_result.processBytes = processBytes();
        m_result.lives = streamer.lives().all();
    }

    const FlySpec& m_spec;
    const DrawHooks* m_hooks;
    const std::function<void(double, const std::string&)>& m_progress;
    std::stop_token m_stop;
    FlyResult m_result;
    Clock::time_point m_start;
    std::vector<double> m_frames;
};

} // namespace

std::optional<Problem> checkFly(const FlySpec& spec)
{
    if (spec.frames < 1 || spec.frames > 100000)
        return Problem{"--frames", "", "1 to 100000 frames are allowed"};
    if (!(spec.speed >= 0 && spec.speed <= 10000))
        return Problem{"--speed", "", "0 to 10000 metres a second are allowed"};
    if (!(spec.straight >= 0 && spec.straight <= 86400))
        return Problem{"--straight", "", "0 to 86400 seconds are allowed"};
    return std::nullopt;
}

FlyResult runFly(const FlySpec& spec, const DrawHooks* hooks,
    const std::function<void(double, const std::string&)>& progress, const std::stop_token& stop)
{
    assert(!checkFly(spec));
    return Flight(spec, spec.straight > 0 ? nullptr : hooks, progress, stop).run();
}

} // namespace fell::measure
