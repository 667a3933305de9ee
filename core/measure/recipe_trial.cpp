// SPDX-License-Identifier: Apache-2.0
#include "measure/recipe_trial.h"

#include "measure/stopwatch.h"
#include "terrain/generate.h"

#include <algorithm>
#include <array>

namespace fell {
namespace {

constexpr int kEdge = 32;
constexpr std::array<std::array<std::int64_t, 2>, 8> kPlaces{
    {{0, 0}, {4, -2}, {1, 2}, {-2, 1}, {-7, -7}, {3, 3}, {-9, 3}, {5, -9}}}; // chunks

/// Nanoseconds a column.
double columnNs(const Terrain& terrain)
{
    const Generator& generator = *findGenerator("blocks");
    return nsOf([&] {
        for (const auto& [x, z] : kPlaces) {
            const ColumnPatch columns = generator.columns(terrain, x * kEdge, z * kEdge, kEdge);
            const std::int64_t low = chunkOf({0, static_cast<std::int64_t>(columns.lowest), 0}, kEdge).y - 1,
                               high = chunkOf({0, columns.top, 0}, kEdge).y;
            for (std::int64_t y = low; y <= std::min(high, low + 6); ++y)
                keep(generator.voxels(terrain, columns, {x, y, z}));
        }
    }) / (kPlaces.size() * kEdge * kEdge);
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
    constexpr int kRounds = 3;
    std::vector<double> least(without.size(), 1e18);
    out.columnNs = 1e18;
    for (int round = 0; round < kRounds; ++round)
        for (std::size_t i = 0; i < without.size(); ++i) {
            if (stop.stop_requested()) {
                out.stopped = true;
                return out;
            }
            if (i % 8 == 0) // as often as not much changes meanwhile
                out.columnNs = std::min(out.columnNs, columnNs(*whole.value()));
            if (without[i])
                least[i] = std::min(least[i], columnNs(*without[i]));
        }
    for (std::size_t i = 0; i < without.size(); ++i)
        if (without[i]) {
            out.layers[i].columnNs = std::max(0.0, out.columnNs - least[i]);
            out.layers[i].share = out.layers[i].columnNs / out.columnNs;
        }
    return out;
}

} // namespace fell
