// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/reach.h>

#include <nlohmann/json.hpp>

#include <fell/measure/findings.h>

#include <algorithm>
#include <cassert>

namespace fell::measure {
namespace {

std::string chunks(int count)
{
    return counted(static_cast<std::uint64_t>(count), "chunk");
}

class ReachSearch {
public:
    ReachSearch(const ReachSpec& spec, const DrawHooks& hooks,
        const std::function<void(const ReachResult&, const std::string&)>& progress, const std::stop_token& stop)
        : m_spec(spec)
        , m_hooks(hooks)
        , m_progress(progress)
        , m_stop(stop)
    {
        m_result.world = spec.terrain->recipe.name;
        m_result.route = spec.route.title;
        m_result.driver = hooks.driver;
        m_result.setup = spec.setup;
        m_result.noise = machineNoise();
    }

    ReachResult run()
    {
        const int max = m_spec.farthest > 0 ? m_spec.farthest
            : hasLevels(m_spec.setup.lod)   ? kFarthestWithLevels
                                            : kFarthestPlain;
        int within = 0, beyond = max + 1;
        for (int distance = 1; distance <= max && beyond > max; distance = std::min(2 * distance, max))
            if (measure(distance, false)) {
                within = distance;
                if (distance == max)
                    break;
            } else if (!m_isEmptyHere) { // a frame of nothing tells nothing of the distances beyond
                beyond = distance;
            } else if (distance == max || m_result.stopped) {
                break;
            }
        while (!m_result.stopped && beyond - within > 1) {
            const int middle = within + (beyond - within) / 2;
            (measure(middle, false) ? within : beyond) = middle;
        }
        while (!m_result.stopped && within > 0 && !isMeasuredTwice(within))
            --within;
        if (!m_result.stopped && within > 0) {
            m_result.distance = within;
            m_result.isBeyond = within == max;
        }
        return m_result;
    }

private:
    /// Measures a distance until it has kept the budget twice. False where it breaks it once, and when it was stopped.
    bool isMeasuredTwice(int distance)
    {
        const auto kept = [&] {
            return std::count_if(m_result.steps.begin(), m_result.steps.end(),
                [distance](const ReachStep& step) { return step.distance == distance && step.isWithin; });
        };
        do {
            if (!measure(distance, true))
                return false;
        } while (kept() < 2);
        return true;
    }

    /// False where the budget is broken, and when it was stopped.
    bool measure(int distance, bool isConfirming)
    {
        if (m_result.stopped)
            return false;
        if (m_progress)
            m_progress(m_result, m_spec.setup.name + ", " + chunks(distance) + (isConfirming ? ", once more" : ""));
        TransectSpec spec;
        spec.terrain = m_spec.terrain;
        spec.changes = m_spec.changes;
        spec.a = m_spec.setup;
        spec.route = m_spec.route;
        spec.values = {distance};
        spec.rounds = 1;
        spec.frames = m_spec.frames;
        spec.trySteps = false;
        const TransectResult at = runTransect(spec, &m_hooks, {}, m_stop);
        if (at.stopped || at.rows.empty()) {
            m_result.stopped = true;
            return false;
        }
        const Percentiles& frames = at.rows[0].frameMs;
        m_isEmptyHere = measure::isEmpty(at);
        m_result.isEmpty = m_isEmptyHere && (m_result.steps.empty() || m_result.isEmpty);
        m_result.steps.push_back({distance, frames, frames.p95 <= m_spec.setup.draw.budget, isConfirming});
        std::vector<double> xs, ys;
        for (const ReachStep& step : m_result.steps) {
            xs.push_back(step.distance);
            ys.push_back(step.frameMs.p95);
        }
        m_result.growth = growthOf(xs, ys);
        return m_result.steps.back().isWithin;
    }

    const ReachSpec& m_spec;
    const DrawHooks& m_hooks;
    const std::function<void(const ReachResult&, const std::string&)>& m_progress;
    std::stop_token m_stop;
    ReachResult m_result;
    bool m_isEmptyHere = false; // nothing was drawn at the distance that was measured last
};

} // namespace

ReachResult findReach(const ReachSpec& spec, const DrawHooks& hooks,
    const std::function<void(const ReachResult& soFar, const std::string& doing)>& progress,
    const std::stop_token& stop)
{
    assert(hooks.draw && spec.frames >= 1 && spec.frames <= 10000);
    return ReachSearch(spec, hooks, progress, stop).run();
}

std::vector<std::string> findingsOf(const ReachResult& result)
{
    const std::string within = " within " + shownFigure(result.setup.draw.budget) + " ms at p95";
    std::vector<std::string> out;
    if (result.stopped)
        out.push_back("It was stopped before the reach of " + result.setup.name + " was found");
    else if (!result.distance)
        out.push_back(result.setup.name + " does not reach one chunk" + within);
    else
        out.push_back(result.setup.name + " reaches " + (result.isBeyond ? "at least " : "") + chunks(*result.distance)
            + within + ", measured twice");
    if (result.growth.points > 0 && result.distance)
        out.push_back("p95 grows with the distance to the power of " + shownFigure(result.growth.exponent) + " ("
            + shownFigure(result.growth.low) + " to " + shownFigure(result.growth.high)
            + "); going on like that, not measured, " + chunks(2 * *result.distance) + " would take "
            + shownFigure(result.growth.at(2.0 * *result.distance)) + " ms");
    out.push_back("Drawn by " + result.driver);
    return out;
}

nlohmann::ordered_json toJson(const ReachResult& result)
{
    using Json = nlohmann::ordered_json;
    Json steps = Json::array();
    for (const ReachStep& step : result.steps)
        steps.push_back({{"distance", step.distance},
            {"frame_ms",
                {{"p50", step.frameMs.p50}, {"p95", step.frameMs.p95}, {"p99", step.frameMs.p99},
                    {"max", step.frameMs.max}, {"samples", step.frameMs.count}}},
            {"within", step.isWithin}, {"confirming", step.isConfirming}});
    const Growth& growth = result.growth;
    return {{"setup", result.setup.name}, {"budget_ms", result.setup.draw.budget},
        {"value", result.distance ? Json(*result.distance) : Json()}, {"beyond", result.isBeyond},
        {"stopped", result.stopped}, {"world", result.world}, {"route", result.route}, {"driver", result.driver},
        {"noise", result.noise}, {"steps", std::move(steps)},
        {"growth",
            {{"exponent", growth.exponent}, {"low", growth.low}, {"high", growth.high}, {"points", growth.points},
                {"factor", growth.factor}}}};
}

} // namespace fell::measure
