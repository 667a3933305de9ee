// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/recipe_trial.h>

#include <nlohmann/json.hpp>

#include <fell/measure/statistics.h>
#include <fell/measure/stopwatch.h>
#include <fell/stream/thread_clock.h>
#include <fell/terrain/generate.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

namespace fell::measure {
namespace {

constexpr int kEdge = 32;
constexpr std::array<std::array<std::int64_t, 2>, 8> kPlaces{
    {{0, 0}, {4, -2}, {1, 2}, {-2, 1}, {-7, -7}, {3, 3}, {-9, 3}, {5, -9}}}; // chunks

void generateAt(const Terrain& terrain, const std::array<std::int64_t, 2>& place)
{
    const Generator& generator = *findGenerator("blocks");
    const auto [x, z] = place;
    const ColumnPatch columns = generator.columns(terrain, x * kEdge, z * kEdge, kEdge);
    const std::int64_t low = chunkOf({0, static_cast<std::int64_t>(columns.lowest), 0}, kEdge).y - 1,
                       high = chunkOf({0, columns.top, 0}, kEdge).y;
    for (std::int64_t y = low; y <= std::min(high, low + 6); ++y)
        doNotOptimize(generator.voxels(terrain, columns, {x, y, z}));
}

/// Nanoseconds a column, the second time: the first one brings the noises' tables near, and is not told. Nothing that
/// counts once it shall stop: who waits for the next map waits for one chunk's columns.
double columnNs(const Terrain& terrain, const std::stop_token& stop)
{
    std::uint64_t ns = 0;
    for (int time = 0; time < 2; ++time) {
        const std::uint64_t start = threadNs(); // the time of other threads does not count
        for (const auto& place : kPlaces)
            if (!stop.stop_requested())
                generateAt(terrain, place);
        ns = threadNs() - start;
    }
    return static_cast<double>(ns) / static_cast<double>(kPlaces.size() * kEdge * kEdge);
}

/// The mean, and half of its 95 % interval.
std::pair<double, double> meanOver(std::span<const double> rounds)
{
    const auto count = static_cast<double>(rounds.size());
    const double mean = std::accumulate(rounds.begin(), rounds.end(), 0.0) / count;
    double squares = 0;
    for (const double one : rounds)
        squares += (one - mean) * (one - mean);
    return {mean, studentT95(static_cast<int>(rounds.size()) - 1) * std::sqrt(squares / (count - 1) / count)};
}

} // namespace

Outcome<RecipeCosts> costsOf(
    const RecipeDocument& recipe, const std::string& where, const BlockSource& blocks, const std::stop_token& stop)
{
    RecipeCosts out;
    const auto made = [&](const RecipeDocument& of) -> Outcome<std::shared_ptr<const Terrain>> {
        auto read = parseRecipe(of.dump(), where, blocks);
        if (!read)
            return read.problem();
        return makeTerrain(read.take());
    };
    const auto whole = made(recipe);
    if (!whole)
        return whole.problem();
    if (whole.value()->recipe.pattern)
        return out;
    std::vector<std::shared_ptr<const Terrain>> without; // null where it makes no recipe, and where it is off already
    for (const RecipeLayer& layer : layersOf(recipe)) {
        out.layers.push_back({layer.pointer});
        const auto rest = layer.isOff ? Outcome<std::shared_ptr<const Terrain>>(nullptr)
                                      : made(withLayerOff(recipe, layer.pointer, true));
        without.push_back(rest ? rest.value() : nullptr);
    }
    // Each next to the whole a moment ago: the machine's clock may be another a second later.
    constexpr std::size_t kRounds = 4;
    std::vector<std::array<double, kRounds>> shares(without.size());
    out.columnNs = 1e18;
    for (std::size_t round = 0; round < kRounds; ++round)
        for (std::size_t i = 0; i < without.size(); ++i) {
            const double wholeNs = columnNs(*whole.value(), stop);
            if (without[i])
                shares[i][round] = 1 - columnNs(*without[i], stop) / wholeNs;
            if (stop.stop_requested()) {
                out.stopped = true;
                return out;
            }
            out.columnNs = std::min(out.columnNs, wholeNs);
        }
    for (std::size_t i = 0; i < without.size(); ++i)
        if (without[i]) {
            const auto [mean, half] = meanOver(shares[i]);
            out.layers[i].share = mean;
            out.layers[i].low = mean - half;
            out.layers[i].high = mean + half;
            out.layers[i].columnNs = mean * out.columnNs;
        }
    return out;
}

} // namespace fell::measure
