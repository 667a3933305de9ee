// SPDX-License-Identifier: Apache-2.0
// What the rows of a transect say together: reach and growth.
#include <fell/measure/transect.h>

#include <algorithm>

namespace fell::measure {
namespace {

TransectReach reachOf(const std::vector<TransectRow>& rows, char side, const Setup& setup, const nlohmann::json& second)
{
    TransectReach reach{setup.name, side, setup.draw.budget, std::nullopt, false, second};
    std::vector<std::pair<double, double>> curve; // value, p95
    for (const auto& row : rows)
        if (row.side == side && row.second == second && row.value.is_number() && row.frameMs.count > 0)
            curve.emplace_back(row.value.get<double>(), row.frameMs.p95);
    std::sort(curve.begin(), curve.end());
    for (std::size_t i = 0; i < curve.size() && curve[i].second <= reach.budgetMs; ++i) {
        reach.value = curve[i].first;
        if (i + 1 == curve.size())
            reach.beyond = true;
        else if (curve[i + 1].second > reach.budgetMs) {
            const auto [x0, y0] = curve[i];
            const auto [x1, y1] = curve[i + 1];
            reach.value = x0 + (x1 - x0) * (reach.budgetMs - y0) / (y1 - y0);
        }
    }
    return reach;
}

std::vector<TransectGrowth> growthOf(
    const std::vector<TransectRow>& rows, char side, const std::string& setup, const nlohmann::json& second)
{
    const std::pair<const char*, double (*)(const TransectRow&)> kCosts[]{
        {"mesh_ns", [](const TransectRow& row) { return row.meshNs.p50; }},
        {"frame_ms", [](const TransectRow& row) { return row.frameMs.p50; }},
        {"triangles", [](const TransectRow& row) { return static_cast<double>(row.triangles); }},
        {"gpu_bytes", [](const TransectRow& row) { return static_cast<double>(row.gpuBytes); }}};
    std::vector<TransectGrowth> all;
    for (const auto& [what, cost] : kCosts) {
        std::vector<double> xs, ys;
        for (const TransectRow& row : rows)
            if (row.side == side && row.second == second && row.value.is_number()) {
                xs.push_back(row.value.get<double>());
                ys.push_back(cost(row));
            }
        if (const Growth growth = fell::measure::growthOf(xs, ys); growth.points > 0)
            all.push_back({setup, side, what, growth, second});
    }
    return all;
}

} // namespace

std::string variedIn(const TransectResult& result)
{
    return result.vary + (result.second.empty() ? "" : " x " + result.second);
}

bool isEmpty(const TransectResult& result)
{
    return std::all_of(result.rows.begin(), result.rows.end(),
        [](const TransectRow& row) { return row.meshNs.count == 0 && row.triangles == 0; });
}

Outcome<Setup> setupOf(const TransectResult& result, const TransectRow& row)
{
    Setup setup = row.side == 'B' && result.b ? *result.b : result.a;
    for (const auto& [path, value] : {std::pair(result.vary, row.value), std::pair(result.second, row.second)}) {
        if (path.empty())
            continue;
        const SetupField* field = findField(path);
        if (!field)
            return Problem{"the result", "", "varies " + path + ", which is no setting; " + allowedPaths(path)};
        if (auto wrong = writeField(*field, setup, value))
            return Problem{"the result", "", path + " " + *wrong};
    }
    if (auto wrong = checkSetup(setup))
        return *wrong;
    return setup;
}

const Growth* growthOf(const TransectResult& result, char side, const std::string& what)
{
    for (const TransectGrowth& one : result.growth)
        if (one.side == side && one.what == what)
            return &one.growth;
    return nullptr;
}

std::vector<nlohmann::json> secondValuesOf(const TransectResult& result)
{
    std::vector<nlohmann::json> out;
    for (const TransectRow& row : result.rows)
        if (std::find(out.begin(), out.end(), row.second) == out.end())
            out.push_back(row.second);
    return out;
}

void concludeFromRows(TransectResult& result)
{
    result.reach.clear();
    result.growth.clear();
    const auto conclude = [&result](char side, const Setup& setup) {
        for (const auto& second : secondValuesOf(result)) {
            if (!result.driver.empty())
                result.reach.push_back(reachOf(result.rows, side, setup, second));
            for (auto& growth : growthOf(result.rows, side, setup.name, second))
                result.growth.push_back(std::move(growth));
        }
    };
    conclude('A', result.a);
    if (result.b)
        conclude('B', *result.b);
}

} // namespace fell::measure
