// SPDX-License-Identifier: Apache-2.0
#include "gate_comparison.h"
#include "common.h"
#include <fell/input/text_file.h>
#include <fell/measure/compared_builds.h>

#include <nlohmann/json.hpp>

#include <iostream>

namespace fell::cli {
namespace {

nlohmann::ordered_json toJson(const ComparedBuilds& builds, const std::string& file, double allowed)
{
    nlohmann::ordered_json out{{"comparison", file}, {"of", builds.format}, {"rounds", builds.rounds},
        {"allowed", allowed}, {"costs", nlohmann::ordered_json::array()}, {"counts", nlohmann::ordered_json::array()}};
    for (const auto& cost : builds.costs)
        out["costs"].push_back({{"path", cost.path}, {"ratio", cost.ratio.ratio}, {"low", cost.ratio.low},
            {"high", cost.ratio.high}, {"verdict", textOf(cost.verdict)}});
    for (const auto& count : builds.counts)
        out["counts"].push_back(
            {{"path", count.path}, {"then", count.then}, {"now", count.now}, {"verdict", textOf(count.verdict)}});
    return out;
}

} // namespace

int judgeComparison(const ComparisonArguments& arguments)
{
    const auto text = readFile(arguments.file);
    if (!text)
        return fail(text.problem());
    const auto builds = parseComparedBuilds(text.value(), arguments.file, arguments.allowed);
    if (!builds)
        return fail(builds.problem());
    if (!arguments.junit.empty()) {
        if (const int code = refuseOutput(arguments.junit, {}, {arguments.file}); code != kDone)
            return code;
        if (auto problem = writeFile(arguments.junit, toJUnit(builds.value(), arguments.allowed)))
            return fail(*problem, kCannotWrite);
    }
    if (arguments.json) {
        printDocument("fell-gate-comparison", toJson(builds.value(), arguments.file, arguments.allowed));
    } else {
        for (const auto& cost : builds.value().costs)
            std::cout << sentenceOf(cost) << ": " << textOf(cost.verdict) << "\n";
        for (const auto& count : builds.value().counts)
            std::cout << sentenceOf(count) << ": " << (count.verdict == Verdict::Slower ? "differs" : "within") << "\n";
    }
    const Verdict verdict = builds.value().verdict();
    return verdict == Verdict::Slower ? kDoesNotHold : verdict == Verdict::Inconclusive ? kInconclusive : kDone;
}

} // namespace fell::cli
