// SPDX-License-Identifier: Apache-2.0
// Whatever a transect's JSON or CSV holds: results that can be written in every form, and in their own one so that they
// are the same when they are read again; or one sentence, never a crash.
#include "support/all_names.h"
#include <fell/measure/compared_builds.h>
#include <fell/measure/findings.h>
#include <fell/measure/results.h>

#include <nlohmann/json.hpp>

#include <cstdlib>

namespace {

std::string jsonOf(const fell::TransectResult& result)
{
    return fell::toJson(result, fell::RawSamples::With).dump();
}

/// Everything that is done with a result that was opened.
void use(const fell::TransectResult& result)
{
    (void)fell::findingsOf(result);
    (void)fell::toSvg(result);
    (void)fell::toCsv(result);
    (void)jsonOf(result);
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    const auto fromJson = fell::parseResultJson(text, "fuzz"), fromCsv = fell::parseResultCsv(text, "fuzz");
    if (const auto builds = fell::parseComparedBuilds(text, "fuzz", 0.02)) {
        for (const auto& cost : builds.value().costs)
            if (cost.ratio.low > cost.ratio.ratio || cost.ratio.high < cost.ratio.ratio)
                std::abort();
        (void)fell::toJUnit(builds.value(), 0.02);
    } else if (builds.problem().what.empty()) {
        std::abort();
    }
    for (const auto& result : {fromJson, fromCsv})
        if (result)
            use(result.value());
        else if (result.problem().what.empty())
            std::abort();
    if (fromJson) {
        const std::string json = jsonOf(fromJson.value());
        const auto again = fell::parseResultJson(json, "written");
        if (!again || jsonOf(again.value()) != json)
            std::abort();
    }
    if (fromCsv) {
        const std::string csv = fell::toCsv(fromCsv.value());
        const auto again = fell::parseResultCsv(csv, "written");
        if (!again || fell::toCsv(again.value()) != csv)
            std::abort();
    }
    return 0;
}
