// SPDX-License-Identifier: Apache-2.0
// What the window itself costs: its plots, its event loop next to slow frames, and its rest. Without a display.
#include "in_turn.h"

#include <fell/app/views/main_window.h>
#include <fell/app/views/theme.h>
#include <fell/app/views/transect_plots.h>
#include <fell/demo/demo_folder.h>
#include <fell/measure/statistics.h>

#include <QApplication>
#include <QEventLoop>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPixmap>
#include <QThread>
#include <QTimer>

#include <nlohmann/json.hpp>

#include <ctime>
#include <random>

namespace fell::bench {
namespace {

using namespace app;

/// Ten values of one setup, each with the same number of frames and meshes.
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

/// Events are handled meanwhile; without any the thread sleeps.
void waitFor(int milliseconds)
{
    QEventLoop loop;
    QTimer::singleShot(milliseconds, &loop, &QEventLoop::quit);
    loop.exec();
}

/// The window on Corrowdale, as large as a laptop's, with everything there that it shows.
class OpenWindow {
public:
    explicit OpenWindow(int distance)
        : m_window(makeTerrain(findWorld("corrowdale", demoFolder()).take()), setupOf(distance))
    {
        m_window.resize(1280, 800);
        m_window.show();
    }
    bool settle()
    {
        QElapsedTimer patience;
        patience.start();
        while (patience.elapsed() < 120000) {
            waitFor(20);
            if (!field())
                return false;
            if (field()->isUpToDate() && field()->lastFrame().triangles > 0)
                return true;
        }
        return false;
    }
    MainWindow& window() { return m_window; }
    FieldWindow* field() { return m_window.field().window(); }

private:
    static Setup setupOf(int distance)
    {
        Setup setup = findSetup("near", demoFolder() / "setups").take();
        setup.stream.distance = distance;
        return setup;
    }
    MainWindow m_window;
};

double processorSeconds()
{
    timespec now{};
    clock_gettime(CLOCK_PROCESS_CPUTIME_ID, &now);
    return static_cast<double>(now.tv_sec) + static_cast<double>(now.tv_nsec) * 1e-9;
}

/// How long a turn of the event loop takes while one drags, types and flies and each frame takes long: every side of
/// every voxel, culled by nothing. "turn_ms_p999" and "turn_ms_most" of "turns"; "frame_ms" is the median frame.
void turnsBesideLongFrames(benchmark::State& state)
{
    OpenWindow open(1);
    WorldSession& session = open.window().session();
    session.setups().set("mesh.mesher", "every");
    session.setups().set("cull.steps", nlohmann::json::array());
    if (!open.settle())
        return state.SkipWithError("nothing was drawn");
    FieldWindow& field = *open.field();
    std::vector<double> turns, frames;
    const auto send = [&field](auto event) { QCoreApplication::sendEvent(&field, &event); };
    const auto mouse = [&](QEvent::Type type, int x, Qt::MouseButtons held) {
        send(QMouseEvent(type, QPointF(x, 200), field.mapToGlobal(QPointF(x, 200)),
            type == QEvent::MouseMove ? Qt::NoButton : Qt::LeftButton, held, Qt::NoModifier));
    };
    for (auto _ : state) {
        QElapsedTimer all, turn;
        all.start();
        send(QKeyEvent(QEvent::KeyPress, Qt::Key_W, Qt::NoModifier));
        mouse(QEvent::MouseButtonPress, 300, Qt::LeftButton);
        for (int i = 0; all.elapsed() < 8000; ++i) {
            turn.start();
            mouse(QEvent::MouseMove, 300 + i % 200, Qt::LeftButton);
            QCoreApplication::processEvents();
            turns.push_back(static_cast<double>(turn.nsecsElapsed()) / 1e6);
            if (const double last = field.lastFrame().totalMs; frames.empty() || frames.back() != last)
                frames.push_back(last);
            QThread::usleep(2000); // as often as a mouse tells where it is
        }
        mouse(QEvent::MouseButtonRelease, 300, Qt::NoButton);
        send(QKeyEvent(QEvent::KeyRelease, Qt::Key_W, Qt::NoModifier));
    }
    std::sort(turns.begin(), turns.end());
    std::sort(frames.begin(), frames.end());
    if (frames.empty())
        return state.SkipWithError("no frame was drawn meanwhile");
    state.counters["frame_ms"] = frames[frames.size() / 2];
    state.counters["frames"] = static_cast<double>(frames.size());
    state.counters["turns"] = static_cast<double>(turns.size());
    state.counters["turn_ms_p999"] = turns[turns.size() * 999 / 1000];
    state.counters["turn_ms_most"] = turns.back();
}
BENCHMARK(turnsBesideLongFrames)->Name("window/turns_beside_long_frames")->Iterations(1)->Unit(benchmark::kSecond);

/// What a window costs in which nothing moves: "core_percent" of one core over five seconds.
void rest(benchmark::State& state)
{
    OpenWindow open(3);
    if (!open.settle())
        return state.SkipWithError("nothing was drawn");
    constexpr int kRestMs = 5000;
    waitFor(1000);
    double seconds = 0;
    for (auto _ : state) {
        const double before = processorSeconds();
        waitFor(kRestMs);
        seconds = processorSeconds() - before;
    }
    state.counters["core_percent"] = 100 * seconds / (kRestMs / 1000.0);
}
BENCHMARK(rest)->Name("window/rest")->Iterations(1)->Unit(benchmark::kSecond);

} // namespace
} // namespace fell::bench

int main(int argc, char** argv)
{
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication app(argc, argv);
    fell::app::applyTheme(app, fell::app::limewash());
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    return 0;
}
