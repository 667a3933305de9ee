// SPDX-License-Identifier: Apache-2.0
// What the window itself costs: its plots, without a display.
#include "in_turn.h"

#include "views/theme.h"
#include "views/transect_plots.h"

#include <QApplication>
#include <QLabel>
#include <QPixmap>

#include <random>

namespace fell::bench {
namespace {

/// Ten values of one setup, each with so many frames and meshes.
TransectResult resultWith(std::size_t samplesARow)
{
    std::mt19937 dice(7); // NOLINT(cert-msc51-cpp): the same plot every time
    std::lognormal_distribution<double> frames(2.5, 0.3), meshes(11, 0.6);
    TransectResult result;
    result.world = "Corrowdale";
    result.vary = "stream.distance";
    result.driver = "none";
    for (int value = 1; value <= 10; ++value) {
        TransectRow row;
        row.setup = "near";
        row.value = value;
        std::vector<double> frameMs, meshNs;
        for (std::size_t i = 0; i < samplesARow; ++i) {
            frameMs.push_back(frames(dice) * value);
            meshNs.push_back(meshes(dice));
        }
        row.frameMs = percentilesOf(frameMs);
        row.meshNs = percentilesOf(meshNs);
        row.frameSamples.assign(frameMs.begin(), frameMs.end());
        row.meshSamples.assign(meshNs.begin(), meshNs.end());
        result.rows.push_back(std::move(row));
    }
    concludeFromRows(result);
    return result;
}

/// 100,000 samples, half of them frames and half of them meshes, as points in the two plots, against the percentiles of
/// the same alone. "ratio" is points / percentiles; "plain_us" is what the points take.
void samplesOverPercentiles(benchmark::State& state)
{
    TransectPlots every, bands;
    for (TransectPlots* plots : {&every, &bands})
        plots->resize(1260, 260);
    every.showEverySample(true);
    const TransectResult result = resultWith(5000);
    const auto drawn = [&result](TransectPlots& plots) {
        plots.show(result);
        return plots.picture();
    };
    if (drawn(every).toImage() == drawn(bands).toImage())
        return state.SkipWithError("the points are not to be seen");
    compareInPairs(
        state, [&] { drawn(every); }, [&] { drawn(bands); });
    state.counters["samples"] = 100'000;
}
BENCHMARK(samplesOverPercentiles)
    ->Name("window/samples_over_percentiles/100000")
    ->Iterations(20)
    ->Unit(benchmark::kMillisecond);

} // namespace
} // namespace fell::bench

int main(int argc, char** argv)
{
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication app(argc, argv);
    fell::applyTheme(app, fell::limewash());
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    return 0;
}
