// SPDX-License-Identifier: Apache-2.0
#include "measure/transect.h"

#include <nlohmann/json.hpp>

#include "measure/cull_trial.h"
#include "measure/reference.h"
#include "measure/stopwatch.h"
#include "stream/thread_clock.h"

#include <algorithm>
#include <cassert>
#include <chrono>
#include <cmath>
#include <cstring>
#include <map>
#include <span>
#include <thread>

namespace fell {
namespace {

using Clock = std::chrono::steady_clock;
constexpr std::size_t kMostWarmUp = 24; // frames
constexpr std::uint64_t kChurnSeed = 1; // the same for every trial

/// Until the thread has worked for so long.
void waitBusily(double ns)
{
    const std::uint64_t start = threadNs();
    while (static_cast<double>(threadNs() - start) < ns) { }
}

/// Raw samples of one setup at one value over all rounds.
struct Samples { // NOLINT(bugprone-exception-escape): the JSON library does not mark its moves
    const Setup* setup = nullptr;
    char side = 'A';
    nlohmann::json value, across;
    std::vector<double> cpuMs, gpuMs; // beside frameMs
    std::vector<double> meshNs, frameMs, ready, chunks, triangles, drawCalls, changeMs;
    std::vector<double> meshInReferences; // beside meshNs; 0 where the reference was not taken
    ChurnCost churn;
    std::uint64_t residentChunks = 0, gpuBytes = 0, processBytes = 0;
    bool full = false;
    int warmUp = 0;
    struct Round { // where its samples begin
        std::size_t mesh = 0, frames = 0, changes = 0;
    };
    std::vector<Round> rounds;
    std::vector<CullTrialRow> steps, passes;
    ViewMeshes firstView;
    std::vector<double> firstViewNs; // thread time of all meshes of the first view, a round each
    double squareKm = 0;
    int edge = 0;

    /// The samples of one round.
    [[nodiscard]] std::span<const double> framesOf(std::size_t round) const
    {
        const std::size_t end = round + 1 < rounds.size() ? rounds[round + 1].frames : frameMs.size();
        return std::span(frameMs).subspan(rounds[round].frames, end - rounds[round].frames);
    }
    [[nodiscard]] std::span<const double> meshOf(std::size_t round) const
    {
        const std::size_t end = round + 1 < rounds.size() ? rounds[round + 1].mesh : meshNs.size();
        return std::span(meshNs).subspan(rounds[round].mesh, end - rounds[round].mesh);
    }
    void addMesh(double ns, double referenceNs)
    {
        meshNs.push_back(ns);
        meshInReferences.push_back(referenceNs > 0 ? ns / referenceNs : 0);
    }
    /// The median of the round's meshes in references; 0 without any.
    [[nodiscard]] double inReferences(std::size_t round) const
    {
        const std::size_t end = round + 1 < rounds.size() ? rounds[round + 1].mesh : meshInReferences.size();
        return percentile(std::span(meshInReferences).subspan(rounds[round].mesh, end - rounds[round].mesh), 50);
    }
    [[nodiscard]] std::span<const double> changesOf(std::size_t round) const
    {
        const std::size_t end = round + 1 < rounds.size() ? rounds[round + 1].changes : changeMs.size();
        return std::span(changeMs).subspan(rounds[round].changes, end - rounds[round].changes);
    }
};

TransectRow rowOf(const Samples& from)
{
    TransectRow row;
    row.setup = from.setup->name;
    row.side = from.side;
    row.value = from.value;
    row.across = from.across;
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
    row.meshNsP50 = intervalOverRounds(row.meshRounds);
    row.frameMsP50 = intervalOverRounds(row.frameRounds);
    row.frameMsP95 = intervalOverRounds(worst);
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

/// Square kilometres of ground within the render distance.
double groundOf(const Setup& setup, double voxelMetres)
{
    const double km = setup.stream.distance * setup.chunk.edge * voxelMetres / 1000;
    return M_PI * km * km;
}

/// One setup at one value in one round: a world of its own, from nothing.
class Leg {
public:
    Leg(const TransectSpec& spec, Samples& samples, const DrawHooks* hooks, const std::stop_token& stop)
        : m_spec(spec)
        , m_samples(samples)
        , m_hooks(hooks)
        , m_stop(stop)
        , m_setup(*samples.setup)
        , m_rules(std::make_shared<const SideRules>(sideRulesOf(spec.terrain->recipe.blocks)))
    {
        writeField(*findField(spec.vary), m_setup, samples.value);
        if (!spec.across.empty())
            writeField(*findField(spec.across), m_setup, samples.across);
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
        while (!isSteady(frames) && frames.size() < kMostWarmUp && !m_stop.stop_requested())
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
            m_samples.addMesh(event.mesh.meshNs, m_reference.besideChunk(event.chunk));
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
        add(mesh.shapes.data(), mesh.shapes.size() * sizeof(MeshVertex));
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
    ReferenceBeside m_reference;
    std::map<ChunkPos, ViewMeshes> m_firstView; // of the first round, until it has settled
    bool m_looksAtMeshes = false;
};

std::string shown(const nlohmann::json& value)
{
    return value.is_string() ? value.get<std::string>() : value.dump();
}

/// Each value with each of the second ones.
std::vector<std::pair<nlohmann::json, nlohmann::json>> pairsOf(const TransectSpec& spec)
{
    std::vector<std::pair<nlohmann::json, nlohmann::json>> out;
    const std::vector<nlohmann::json> across = spec.across.empty() ? std::vector<nlohmann::json>(1) : spec.acrossValues;
    for (const auto& second : across)
        for (const auto& value : spec.values)
            out.emplace_back(value, second);
    return out;
}

/// A / B over the rounds that both have whole. Frames are those of the same places, so each is divided by its own.
Ratio frameRatio(const Samples& a, const Samples& b)
{
    std::vector<double> rounds;
    for (std::size_t round = 0; round < std::min(a.rounds.size(), b.rounds.size()); ++round) {
        const auto as = a.framesOf(round), bs = b.framesOf(round);
        std::vector<double> each;
        for (std::size_t i = 0; i < std::min(as.size(), bs.size()); ++i)
            if (bs[i] > 0)
                each.push_back(as[i] / bs[i]);
        if (!each.empty())
            rounds.push_back(percentile(each, 50));
    }
    return ratioOverRounds(rounds);
}

/// The same of changes, which are not of the same places: the medians of each round.
Ratio changeRatio(const Samples& a, const Samples& b)
{
    std::vector<double> rounds;
    for (std::size_t round = 0; round < std::min(a.rounds.size(), b.rounds.size()); ++round)
        if (const double below = percentile(b.changesOf(round), 50); below > 0 && !a.changesOf(round).empty())
            rounds.push_back(percentile(a.changesOf(round), 50) / below);
    return ratioOverRounds(rounds);
}

/// Mesh time: in references, so that what the machine's clock did between two legs of a round is not in it.
Ratio meshRatio(const Samples& a, const Samples& b)
{
    std::vector<double> rounds;
    for (std::size_t round = 0; round < std::min(a.rounds.size(), b.rounds.size()); ++round)
        if (const double below = b.inReferences(round); below > 0 && a.inReferences(round) > 0)
            rounds.push_back(a.inReferences(round) / below);
    return ratioOverRounds(rounds);
}

/// Puts what has been measured so far into the result.
void summarise(const std::vector<Samples>& all, TransectResult& result)
{
    result.rows.clear();
    result.ratios.clear();
    for (const Samples& one : all)
        if (!one.ready.empty())
            result.rows.push_back(rowOf(one));
    for (std::size_t i = 0; result.b && i + 1 < all.size(); i += 2)
        if (!all[i].ready.empty() && !all[i + 1].ready.empty()) {
            if (!all[i].frameMs.empty() && !all[i + 1].frameMs.empty())
                result.ratios.push_back({all[i].value, "frame_ms", frameRatio(all[i], all[i + 1]), all[i].across});
            result.ratios.push_back({all[i].value, "mesh_ns", meshRatio(all[i], all[i + 1]), all[i].across});
            if (!all[i].changeMs.empty() && !all[i + 1].changeMs.empty())
                result.ratios.push_back({all[i].value, "change_ms", changeRatio(all[i], all[i + 1]), all[i].across});
        }
    result.toFirst.clear();
    for (std::size_t i = 0; i < all.size(); ++i) {
        const Samples& one = all[i];
        // The first sample with the same second value and the same setup.
        const auto first = std::find_if(all.begin(), all.end(),
            [&one](const Samples& of) { return of.across == one.across && of.side == one.side; });
        if (first == all.begin() + static_cast<std::ptrdiff_t>(i) || one.value.is_number() || one.ready.empty()
            || first->ready.empty())
            continue;
        const auto add = [&](const char* what, const Ratio& ratio) {
            result.toFirst.push_back({one.value, what, ratio, one.across, first->value, one.side});
        };
        if (!one.frameMs.empty() && !first->frameMs.empty())
            add("frame_ms", frameRatio(one, *first));
        add("mesh_ns", meshRatio(one, *first));
        if (!one.changeMs.empty() && !first->changeMs.empty())
            add("change_ms", changeRatio(one, *first));
    }
    concludeFromRows(result);
}

TransectResult headerOf(const TransectSpec& spec, const DrawHooks* hooks)
{
    TransectResult result;
    result.world = spec.terrain->recipe.name;
    result.worldName = spec.worldName;
    result.path = spec.route;
    result.seed = spec.terrain->recipe.seed;
    result.vary = spec.vary;
    result.unit = findField(spec.vary)->unit;
    result.across = spec.across;
    result.acrossUnit = spec.across.empty() ? "" : findField(spec.across)->unit;
    result.route = spec.route.title;
    result.driver = hooks ? hooks->driver : "";
    result.rounds = spec.rounds;
    result.frames = spec.frames;
    result.churn = spec.churn;
    result.width = hooks ? hooks->width : 0;
    result.height = hooks ? hooks->height : 0;
    result.machine = thisMachine();
    result.noise = machineNoise();
    result.a = spec.a;
    result.b = spec.b;
    return result;
}

/// What is wrong with one of the things that vary.
std::optional<Problem> checkVaried(
    const std::string& path, const std::vector<nlohmann::json>& values, const Setup& setup)
{
    const SetupField* field = findField(path);
    if (!field)
        return Problem{"--vary " + path, "", "is no path of a setup (fell-cli stages lists them)"};
    if (values.empty() || values.size() > 100)
        return Problem{"--vary " + path, "", "1 to 100 values are wanted"};
    Setup probe = setup;
    for (const auto& value : values)
        if (auto wrong = writeField(*field, probe, value))
            return Problem{"--vary " + path, "", *wrong};
    return std::nullopt;
}

} // namespace

bool isSurelyFree(const Streamer& streamer, const Setup& setup, const DrawHooks& hooks, const Eye& eye)
{
    const double aspect = static_cast<double>(hooks.width) / std::max(1, hooks.height);
    return streamer.isFree(eye, lensFor(setup.draw.fieldOfView, aspect, 0, setup.chunk.edge)).value_or(false);
}

std::optional<Problem> checkTransect(const TransectSpec& spec)
{
    if (auto wrong = checkVaried(spec.vary, spec.values, spec.a))
        return wrong;
    if (!spec.across.empty()) {
        if (auto wrong = checkVaried(spec.across, spec.acrossValues, spec.a))
            return wrong;
        if (spec.across == spec.vary)
            return Problem{"--vary " + spec.vary, "", "is given twice; two different paths are wanted"};
        if (spec.values.size() * spec.acrossValues.size() > 400)
            return Problem{"--vary " + spec.across, "",
                "makes " + std::to_string(spec.values.size() * spec.acrossValues.size())
                    + " pairs of values, 400 are allowed"};
    }
    for (const Setup* of : {&spec.a, spec.b ? &*spec.b : &spec.a})
        for (const auto& [value, across] : pairsOf(spec)) {
            Setup tried = *of;
            findField(spec.vary)->write(tried, value);
            if (!spec.across.empty())
                findField(spec.across)->write(tried, across);
            auto wrong = checkSetup(tried);
            if (!wrong && spec.terrain)
                wrong = settleDistance(tried, spec.terrain->recipe.voxelMetres);
            if (wrong)
                return Problem{"--vary " + spec.vary, "", "with " + of->name + " " + wrong->where + " " + wrong->what};
        }
    if (spec.rounds < 1 || spec.rounds > 50)
        return Problem{"--rounds " + std::to_string(spec.rounds), "", "a whole number from 1 to 50 is wanted"};
    if (spec.frames < 1 || spec.frames > 10000)
        return Problem{"--frames " + std::to_string(spec.frames), "", "a whole number from 1 to 10000 is wanted"};
    return spec.terrain ? checkChurn(spec.churn, spec.terrain->recipe.blocks) : std::nullopt;
}

TransectResult runTransect(const TransectSpec& spec, const DrawHooks* hooks,
    const std::function<void(const TransectProgress&)>& progress, const std::stop_token& stop)
{
    assert(!checkTransect(spec));
    TransectResult result = headerOf(spec, hooks);
    const std::size_t sides = spec.b ? 2 : 1;
    std::vector<Samples> all;
    for (const auto& [value, across] : pairsOf(spec))
        for (std::size_t side = 0; side < sides; ++side) {
            Samples one;
            one.setup = side == 0 ? &spec.a : &*spec.b;
            one.side = side == 0 ? 'A' : 'B';
            one.value = value;
            one.across = across;
            all.push_back(std::move(one));
        }
    const auto legs = static_cast<double>(all.size()) * spec.rounds;
    double done = 0;
    for (int round = 0; round < spec.rounds && !result.stopped; ++round)
        for (std::size_t i = 0; i < all.size() && !result.stopped; ++i) {
            const bool swapped = round % 2 == 1 && sides == 2; // A B, then B A: a drift of the machine hits both
            Samples& one = all[swapped ? i ^ 1 : i];
            if (progress)
                progress({done / legs,
                    std::string(1, one.side) + " " + one.setup->name + ", " + shown(one.value) + " " + result.unit
                        + (one.across.is_null() ? "" : ", " + shown(one.across) + " " + result.acrossUnit) + ", round "
                        + std::to_string(round + 1) + " of " + std::to_string(spec.rounds),
                    &result});
            result.stopped = stop.stop_requested() || !Leg(spec, one, hooks, stop).run();
            done += 1;
            summarise(all, result);
        }
    if (progress)
        progress({1, result.stopped ? "stopped" : "done", &result});
    return result;
}

} // namespace fell
