// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/transect.h>

#include <nlohmann/json.hpp>

#include <fell/measure/measured_run.h>

#include <algorithm>
#include <cassert>
#include <cstring>

namespace fell::measure {
namespace {

std::string shown(const nlohmann::json& value)
{
    return value.is_string() ? value.get<std::string>() : value.dump();
}

/// Each value with each of the second ones.
std::vector<std::pair<nlohmann::json, nlohmann::json>> pairsOf(const TransectSpec& spec)
{
    std::vector<std::pair<nlohmann::json, nlohmann::json>> out;
    const std::vector<nlohmann::json> seconds
        = spec.second.empty() ? std::vector<nlohmann::json>(1) : spec.secondValues;
    for (const auto& second : seconds)
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
                result.ratios.push_back({all[i].value, "frame_ms", frameRatio(all[i], all[i + 1]), all[i].second});
            result.ratios.push_back({all[i].value, "mesh_ns", meshRatio(all[i], all[i + 1]), all[i].second});
            if (!all[i].changeMs.empty() && !all[i + 1].changeMs.empty())
                result.ratios.push_back({all[i].value, "change_ms", changeRatio(all[i], all[i + 1]), all[i].second});
        }
    result.toFirst.clear();
    for (std::size_t i = 0; i < all.size(); ++i) {
        const Samples& one = all[i];
        // The first sample with the same second value and the same setup.
        const auto first = std::find_if(all.begin(), all.end(),
            [&one](const Samples& of) { return of.second == one.second && of.side == one.side; });
        if (first == all.begin() + static_cast<std::ptrdiff_t>(i) || one.value.is_number() || one.ready.empty()
            || first->ready.empty())
            continue;
        const auto add = [&](const char* what, const Ratio& ratio) {
            result.toFirst.push_back({one.value, what, ratio, one.second, first->value, one.side});
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
    result.second = spec.second;
    result.secondUnit = spec.second.empty() ? "" : findField(spec.second)->unit;
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
        return Problem{"--vary " + path, "", "1 to 100 values are expected"};
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
    return streamer.nearPlaneIsClear(eye, lensFor(setup.draw.fieldOfView, aspect, 0, setup.chunk.edge)).value_or(false);
}

std::optional<Problem> checkTransect(const TransectSpec& spec)
{
    if (auto wrong = checkVaried(spec.vary, spec.values, spec.a))
        return wrong;
    if (!spec.second.empty()) {
        if (auto wrong = checkVaried(spec.second, spec.secondValues, spec.a))
            return wrong;
        if (spec.second == spec.vary)
            return Problem{"--vary " + spec.vary, "", "is given twice; two different paths are expected"};
        if (spec.values.size() * spec.secondValues.size() > 400)
            return Problem{"--vary " + spec.second, "",
                "makes " + std::to_string(spec.values.size() * spec.secondValues.size())
                    + " pairs of values, 400 are allowed"};
    }
    for (const Setup* of : {&spec.a, spec.b ? &*spec.b : &spec.a})
        for (const auto& [value, second] : pairsOf(spec)) {
            Setup tried = *of;
            findField(spec.vary)->write(tried, value);
            if (!spec.second.empty())
                findField(spec.second)->write(tried, second);
            auto wrong = checkSetup(tried);
            if (!wrong && spec.terrain)
                wrong = settleDistance(tried, spec.terrain->recipe.voxelMetres);
            if (wrong)
                return Problem{"--vary " + spec.vary, "", "with " + of->name + " " + wrong->where + " " + wrong->what};
        }
    if (spec.rounds < 1 || spec.rounds > 50)
        return Problem{"--rounds " + std::to_string(spec.rounds), "", "a whole number from 1 to 50 is expected"};
    if (spec.frames < 1 || spec.frames > 10000)
        return Problem{"--frames " + std::to_string(spec.frames), "", "a whole number from 1 to 10000 is expected"};
    return spec.terrain ? checkChurn(spec.churn, spec.terrain->recipe.blocks) : std::nullopt;
}

TransectResult runTransect(const TransectSpec& spec, const DrawHooks* hooks,
    const std::function<void(const TransectProgress&)>& progress, const std::stop_token& stop)
{
    assert(!checkTransect(spec));
    TransectResult result = headerOf(spec, hooks);
    const std::size_t sides = spec.b ? 2 : 1;
    std::vector<Samples> all;
    for (const auto& [value, second] : pairsOf(spec))
        for (std::size_t side = 0; side < sides; ++side) {
            Samples one;
            one.setup = side == 0 ? &spec.a : &*spec.b;
            one.side = side == 0 ? 'A' : 'B';
            one.value = value;
            one.second = second;
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
                        + (one.second.is_null() ? "" : ", " + shown(one.second) + " " + result.secondUnit) + ", round "
                        + std::to_string(round + 1) + " of " + std::to_string(spec.rounds),
                    &result});
            result.stopped = stop.stop_requested() || !measureRound(spec, one, hooks, stop);
            done += 1;
            summarise(all, result);
        }
    if (progress)
        progress({1, result.stopped ? "stopped" : "done", &result});
    return result;
}

} // namespace fell::measure
