// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "common.h"
#include "shell.h"
#include <fell/measure/findings.h>
#include <fell/measure/statistics.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <iostream>
#include <map>
#include <regex>

namespace fell::cli {
namespace {

struct DuelArguments {
    std::string a, b;
    std::vector<std::string> what;
    int rounds = 5;
    bool json = false;
};

/// What one document says: costs, and what must not change from round to round.
struct Said {
    std::string format;
    std::map<std::string, double> costs; // by path, e.g. "rows[0].chunk_ns.p50"
    std::map<std::string, std::string> counts; // whole numbers and digests
};

/// Does a key name a time or memory by its unit, as schemas/notes.json says?
bool isCost(const std::string& key)
{
    static const std::regex kUnit("(^|_)(ns|us|ms|s|bytes)(_per_[a-z0-9]+)?$");
    return std::regex_search(key, kUnit);
}

/// Collects the leaves below a value. `cost`: a key above it has a unit; of its percentiles p50 and p95 are kept.
void collect(const nlohmann::json& value, const std::string& path, const std::string& key, bool cost, Said& out)
{
    if (value.is_object()) {
        for (const auto& [name, below] : value.items())
            if (name != "setups" && name != "machine" && name != "path" && name != "limits") // not of what was measured
                collect(below, path.empty() ? name : path + "." + name, name, isCost(name) || cost, out);
    } else if (value.is_array()) {
        for (std::size_t i = 0; i < value.size(); ++i)
            if (value[i].is_structured())
                collect(value[i], path + "[" + std::to_string(i) + "]", key, cost, out);
    } else if (cost && value.is_number()) {
        if (isCost(key) || key == "p50" || key == "p95")
            out.costs[path] = value.get<double>();
    } else if (value.is_number_integer() || key.find("digest") != std::string::npos) {
        out.counts[path] = value.is_string() ? value.get<std::string>() : value.dump();
    }
}

Outcome<Said> runOnce(const std::string& side, const std::string& command, const std::stop_token& stop)
{
    const auto ran = runShell(command, stop);
    if (!ran)
        return ran.problem();
    if (ran.value().stopped)
        return Said();
    const auto problem = [&](std::string what) { return Problem{side + " \"" + command + "\"", "", std::move(what)}; };
    constexpr std::size_t kMaxQuoted = 300;
    if (ran.value().code != kDone && ran.value().code != kInconclusive) {
        const std::string said = cutText(ran.value().err.substr(0, ran.value().err.find('\n')), kMaxQuoted);
        return problem("ended with " + std::to_string(ran.value().code) + ", 0 is expected"
            + (said.empty() ? "" : "; it says: " + said));
    }
    const auto document = nlohmann::json::parse(ran.value().out, nullptr, false);
    if (!document.is_object() || !document.contains("format") || !document["format"].is_string())
        return problem("prints no Fell document: add --json, one JSON object with a format is expected");
    Said said;
    said.format = document["format"];
    collect(document, "", "", false, said);
    if (said.costs.empty())
        return problem("prints no time and no memory: a key that ends with a unit, such as chunk_ns, is expected");
    return said;
}

/// All rounds of both.
struct Duel {
    std::map<std::string, std::vector<double>> ratios; // by path, A over B
    std::map<std::string, std::array<std::string, 2>> counts; // that differ between A and B
    std::vector<std::string> unsteady; // counts that differ from round to round of one side
    int rounds = 0;
    bool stopped = false;
};

void addRound(const std::array<Said, 2>& both, Duel& duel)
{
    for (const auto& [path, a] : both[0].costs)
        if (const auto b = both[1].costs.find(path); b != both[1].costs.end() && a > 0 && b->second > 0)
            duel.ratios[path].push_back(a / b->second);
    ++duel.rounds;
}

Outcome<Duel> runRounds(const DuelArguments& arguments, const std::stop_token& stop)
{
    Duel duel;
    std::array<Said, 2> first;
    for (int round = 0; round < arguments.rounds; ++round) {
        std::array<Said, 2> both;
        for (const int turn : {0, 1}) { // A B, B A, ...
            const auto side = static_cast<std::size_t>((turn + round) % 2);
            showProgress(static_cast<double>(round * 2 + turn) / (arguments.rounds * 2),
                "round " + std::to_string(round + 1) + ", " + (side == 0 ? "A" : "B"));
            auto said = runOnce(side == 0 ? "A" : "B", side == 0 ? arguments.a : arguments.b, stop);
            if (!said)
                return said.problem();
            if (stop.stop_requested()) {
                duel.stopped = true;
                return duel;
            }
            both[side] = said.take();
        }
        if (both[0].format != both[1].format)
            return Problem{"A and B", "",
                "print " + both[0].format + " and " + both[1].format + ": two commands of one kind are expected"};
        if (round == 0)
            first = both;
        for (const std::size_t side : {0U, 1U})
            for (const auto& [path, value] : both[side].counts)
                if (const auto then = first[side].counts.find(path);
                    (then == first[side].counts.end() || then->second != value)
                    && std::find(duel.unsteady.begin(), duel.unsteady.end(), path) == duel.unsteady.end())
                    duel.unsteady.push_back(path);
        addRound(both, duel);
    }
    for (const auto& [path, a] : first[0].counts)
        if (const auto b = first[1].counts.find(path); b != first[1].counts.end() && b->second != a
            && std::find(duel.unsteady.begin(), duel.unsteady.end(), path) == duel.unsteady.end())
            duel.counts[path] = {a, b->second};
    return duel;
}

bool isDigest(const std::string& path)
{
    return path.find("digest") != std::string::npos;
}

int sayDuel(const DuelArguments& arguments, const Duel& duel)
{
    const bool isSame
        = std::none_of(duel.counts.begin(), duel.counts.end(), [](const auto& count) { return isDigest(count.first); });
    auto costs = nlohmann::ordered_json::array(), counts = nlohmann::ordered_json::array();
    for (const auto& [path, ratios] : duel.ratios) {
        const bool isAsked = arguments.what.empty()
            || std::find(arguments.what.begin(), arguments.what.end(), path) != arguments.what.end();
        if (!isAsked || ratios.size() != static_cast<std::size_t>(duel.rounds))
            continue;
        const Ratio ratio = ratioOverRounds(ratios);
        costs.push_back({{"path", path}, {"ratio", ratio.ratio}, {"low", ratio.low}, {"high", ratio.high}});
        if (!arguments.json)
            std::printf("%s: A needs %sx of B (%s to %s, 95 %% over %d rounds)\n", path.c_str(),
                shownFigure(ratio.ratio).c_str(), shownFigure(ratio.low).c_str(), shownFigure(ratio.high).c_str(),
                duel.rounds);
    }
    for (const auto& [path, values] : duel.counts) {
        counts.push_back({{"path", path}, {"a", values[0]}, {"b", values[1]}});
        if (!arguments.json)
            std::printf("%s: A %s, B %s%s\n", path.c_str(), values[0].c_str(), values[1].c_str(),
                isDigest(path) ? "; THEIR RESULTS DIFFER" : "");
    }
    if (costs.empty()) {
        std::string known;
        for (const auto& [path, ratios] : duel.ratios)
            known += (known.empty() ? "" : ", ") + path;
        return fail({"--what", "", "names no cost that both print; allowed are " + known});
    }
    if (arguments.json)
        printDocument("fell-duel",
            {{"a", arguments.a}, {"b", arguments.b}, {"rounds", duel.rounds}, {"same", isSame}, {"costs", costs},
                {"counts", counts}});
    return isSame ? kDone : kDoesNotHold;
}

int runDuel(const DuelArguments& arguments, const std::stop_token& stop)
{
    if (arguments.rounds < 3 || arguments.rounds > 100)
        return fail({"--rounds " + std::to_string(arguments.rounds), "",
            "3 to 100 rounds are allowed: fewer show no interval"});
    const auto duel = runRounds(arguments, stop);
    if (!duel)
        return fail(duel.problem());
    if (duel.value().stopped)
        return kStopped;
    showProgress(1, "all rounds");
    return sayDuel(arguments, duel.value());
}

} // namespace

Run addDuel(CLI::App& parser)
{
    auto* command = parser.add_subcommand("duel",
        "run two commands in turn and compare what they measure, such as two builds; exit code 1 if their digests "
        "differ");
    auto arguments = std::make_shared<DuelArguments>();
    command->add_option("a", arguments->a, "command A, for the shell; it prints a Fell document")->required();
    command->add_option("b", arguments->b, "command B")->required();
    command->add_option("--rounds", arguments->rounds, "how often both run, A B, B A, ...")->capture_default_str();
    command->add_option("--what", arguments->what, "paths of the document, such as rows[0].chunk_ns.p50; else all")
        ->delimiter(',');
    command->add_flag("--json", arguments->json, "print one JSON document instead of text for people");
    return [arguments](const std::stop_token& stop) -> int { return runDuel(*arguments, stop); };
}

} // namespace fell::cli
