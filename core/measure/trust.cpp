// SPDX-License-Identifier: Apache-2.0
#include "measure/trust.h"

#include <algorithm>
#include <cassert>

namespace fell {
namespace {

TransectSpec transectOf(const TrustSpec& spec)
{
    TransectSpec out;
    out.terrain = spec.terrain;
    out.a = spec.setup;
    out.b = spec.setup;
    out.values = {spec.setup.stream.distance};
    out.route = spec.route;
    out.rounds = spec.rounds;
    out.frames = spec.frames;
    out.trySteps = false;
    return out;
}

} // namespace

int TrustResult::holdOne() const
{
    return static_cast<int>(
        std::count_if(same.begin(), same.end(), [](const Ratio& r) { return r.low <= 1 && r.high >= 1; }));
}

int TrustResult::found() const
{
    return static_cast<int>(std::count_if(slower.begin(), slower.end(), [](const Ratio& r) { return r.low > 1; }));
}

std::vector<double> stepsBetween(std::span<const double> values)
{
    std::vector<double> steps;
    for (std::size_t i = 1; i < values.size(); ++i) {
        const auto [low, high] = std::minmax(values[i - 1], values[i]);
        steps.push_back(low > 0 ? high / low - 1 : 0);
    }
    return steps;
}

std::optional<Problem> checkTrust(const TrustSpec& spec)
{
    if (spec.trials < 1 || spec.trials > 200)
        return Problem{"--trials " + std::to_string(spec.trials), "", "a whole number from 1 to 200 is wanted"};
    if (spec.rounds < 2)
        return Problem{"--rounds " + std::to_string(spec.rounds), "", "a whole number from 2 to 50 is wanted"};
    if (!(spec.slower >= 0.01 && spec.slower <= 1))
        return Problem{"--slower", "", "1 to 100 percent are allowed"};
    return checkTransect(transectOf(spec));
}

TrustResult runTrust(
    const TrustSpec& spec, const std::function<void(const TransectProgress&)>& progress, const std::stop_token& stop)
{
    assert(!checkTrust(spec));
    TrustResult result;
    TransectSpec transect = transectOf(spec);
    const int whole = 2 * spec.trials;
    for (int i = 0; i < whole; ++i) {
        const bool isSlower = i % 2 == 1;
        transect.slowerA = isSlower ? spec.slower : 0;
        const TransectResult one = runTransect(
            transect, nullptr,
            [&](const TransectProgress& at) {
                TransectProgress all = at;
                all.share = (i + at.share) / whole;
                all.doing = (isSlower ? "slowed, trial " : "against itself, trial ") + std::to_string(i / 2 + 1)
                    + " of " + std::to_string(spec.trials);
                progress(all);
            },
            stop);
        if (stop.stop_requested()) {
            result.stopped = true;
            break;
        }
        for (const TransectRatio& ratio : one.ratios)
            if (ratio.what == "mesh_ns")
                (isSlower ? result.slower : result.same).push_back(ratio.ratio);
        for (const TransectRow& row : one.rows)
            if (row.side == 'B') {
                result.mediansUs.push_back(row.meshNs.p50 / 1000);
                result.mediansInReferences.push_back(row.meshInReferences);
            }
    }
    return result;
}

} // namespace fell
