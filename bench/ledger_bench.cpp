// SPDX-License-Identifier: Apache-2.0
#include "in_turn.h"

#include <nlohmann/json.hpp>

#include <fell/measure/ledger.h>
#include <fell/measure/results.h>

#include <unistd.h>

#include <cstdlib>
#include <filesystem>

namespace fell::bench {
namespace {

/// As many trials as years of work leave: eight rows of two setups each, without raw samples, which the list does not
/// read.
std::string manyTrials(int count)
{
    TransectResult trial;
    trial.world = "Corrowdale";
    trial.vary = "stream.distance";
    trial.route = "beck to summit";
    trial.driver = "a software rasteriser";
    trial.rounds = 5;
    trial.frames = 24;
    trial.machine = {"a processor", 2, "a compiler", "x86-64-v3", "abc", ""};
    trial.a.name = "near";
    trial.b = trial.a;
    for (int i = 0; i < 16; ++i) {
        TransectRow row;
        row.setup = "near";
        row.side = i % 2 == 0 ? 'A' : 'B';
        row.value = 2 + i / 2;
        row.frameMs = {8, 10.0 + i, 14, 15, 16, 120, 1};
        row.meshNs = {90, 120.0 + i, 200, 210, 220, 5000, 1};
        trial.rows.push_back(row);
    }
    concludeFromRows(trial);
    nlohmann::ordered_json root{{"format", "fell-ledger"}, {"version", 1}, {"trials", nlohmann::ordered_json::array()}};
    auto document = toJson(trial);
    for (int i = 0; i < count; ++i) {
        document["seed"] = i;
        document["machine"]["date"] = "2026-11-26T10:00:" + std::to_string(i);
        root["trials"].push_back({{"tags", i % 7 == 0 ? "before the change" : ""}, {"trial", document}});
    }
    return root.dump();
}

/// Opening a ledger of 10,000 trials and listing them, against reading what the list shows out of every trial's own
/// document. "ratio" is reading / opening; "fast_us" is what opening takes.
void openOverRead(benchmark::State& state)
{
    const int count = std::getenv("FELL_QUICK") ? 500 : 10'000; // NOLINT(concurrency-mt-unsafe)
    const auto folder = std::filesystem::temp_directory_path() / ("fell-ledger-bench-" + std::to_string(::getpid()));
    const auto file = folder / "ledger.db";
    {
        auto made = Ledger::open(file);
        if (!made || !made.take()->importJson(manyTrials(count), "made up"))
            return state.SkipWithError("the ledger could not be made");
    }
    const auto listed = [&file] { return Ledger::open(file).take()->find().take(); };
    const auto read = [&] {
        const auto ledger = Ledger::open(file).take();
        std::vector<TransectResult> all;
        for (std::int64_t id = 1; id <= count; ++id)
            all.push_back(ledger->load(id).take());
        return all;
    };
    const auto entries = listed();
    const auto trials = read();
    bool isSame = entries.size() == trials.size();
    for (const TrialEntry& entry : entries) {
        const TransectResult& trial = trials[static_cast<std::size_t>(entry.id) - 1];
        isSame &= entry.seed == trial.seed && entry.frameMs == trial.rows[14].frameMs.p50;
    }
    if (!isSame)
        return state.SkipWithError("the list and the trials differ");
    compareInPairs(
        state, [&] { benchmark::DoNotOptimize(read()); }, [&] { benchmark::DoNotOptimize(listed()); });
    state.counters["trials"] = count;
    std::filesystem::remove_all(folder);
}
BENCHMARK(openOverRead)->Name("ledger/open_over_read/10000")->Iterations(3)->Unit(benchmark::kMillisecond);

} // namespace
} // namespace fell::bench
