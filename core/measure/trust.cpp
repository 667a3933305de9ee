// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/trust.h>

#include <algorithm>
#include <cassert>

namespace fell::measure {
namespace {

TransectSpec transectOf(const TrustSpec& spec)
{
    TransectSpec out;
    out.terrain = spec.terrain;
    out.changes = spec.changes;
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
    return static_cast<int>(std::count_if(
        slower.begin(), slower.end(), [this](const Ratio& r) { return verdictFor(r, allowed) == Verdict::Slower; }));
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
        return Problem{"--trials " + std::to_string(spec.trials), "", "a whole number from 1 to 200 is expected"};
    if (spec.rounds < 2)
        return Problem{"--rounds " + std::to_string(spec.rounds), "", "a whole number from 2 to 50 is expected"};
    if (!(spec.slower >= 0.01 && spec.slower <= 1))
        return Problem{"--slower", "", "1 to 100 percent are allowed"};
    if (!(spec.allowed >= 0 && spec.allowed <= 10))
        return Problem{"--allow", "", "0 to 1000 percent are allowed"};
    return checkTransect(transectOf(spec));
}

std::vector<PowerRow> powerOf(std::span<const double> ratios, double slower, double allowed)
{
    std::vector<PowerRow> out;
    for (const std::size_t rounds : {3, 6, 12, 24}) {
        if (ratios.size() < 2 * rounds)
            break;
        PowerRow row{static_cast<int>(rounds), slower, 0, 0, 0};
        for (std::size_t at = 0; at + rounds <= ratios.size(); at += rounds) {
            const Verdict said = verdictFor(ratioOverRounds(ratios.subspan(at, rounds)), allowed);
            ++row.trials;
            row.saidSlower += said == Verdict::Slower;
            row.saidWithin += said == Verdict::Within;
        }
        out.push_back(row);
    }
    return out;
}

TrustResult runTrust(
    const TrustSpec& spec, const std::function<void(const TransectProgress&)>& progress, const std::stop_token& stop)
{
    assert(!checkTrust(spec));
    TrustResult result;
    result.allowed = spec.allowed;
    TransectSpec transect = transectOf(spec);
    std::vector<double> slowdowns{0, spec.slower};
    for (const double other : spec.others)
        if (std::find(slowdowns.begin(), slowdowns.end(), other) == slowdowns.end())
            slowdowns.push_back(other);
    std::vector<std::vector<double>> rounds(slowdowns.size());
    const auto whole = static_cast<double>(slowdowns.size()) * spec.trials;
    double done = 0;
    for (int trial = 0; trial < spec.trials && !result.stopped; ++trial)
        for (std::size_t i = 0; i < slowdowns.size() && !result.stopped; ++i) {
            transect.slowerA = slowdowns[i];
            const std::string doing = (i == 0 ? "against itself, trial " : "slowed, trial ") + std::to_string(trial + 1)
                + " of " + std::to_string(spec.trials);
            const TransectResult one = runTransect(
                transect, nullptr,
                [&](const TransectProgress& at) {
                    TransectProgress all = at;
                    all.share = (done + at.share) / whole;
                    all.doing = doing;
                    progress(all);
                },
                stop);
            done += 1;
            if (stop.stop_requested()) {
                result.stopped = true;
                break;
            }
            for (const TransectRatio& ratio : one.ratios)
                if (ratio.what == "mesh_ns" && i < 2)
                    (i == 1 ? result.slower : result.same).push_back(ratio.ratio);
            const TransectRow *a = nullptr, *b = nullptr;
            for (const TransectRow& row : one.rows)
                (row.side == 'A' ? a : b) = &row;
            if (!a || !b)
                continue;
            result.mediansUs.push_back(b->meshNs.p50 / 1000);
            result.mediansInReferences.push_back(b->meshInReferences);
            for (std::size_t r = 0; r < std::min(a->roundsInReferences.size(), b->roundsInReferences.size()); ++r)
                if (b->roundsInReferences[r] > 0)
                    rounds[i].push_back(a->roundsInReferences[r] / b->roundsInReferences[r]);
        }
    for (std::size_t i = 0; i < slowdowns.size(); ++i)
        for (PowerRow& row : powerOf(rounds[i], slowdowns[i], spec.allowed))
            result.power.push_back(row);
    return result;
}

} // namespace fell::measure
