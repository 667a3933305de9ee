// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/machine.h>

#include <fell/measure/statistics.h>
#include <fell/measure/stopwatch.h>

#include <chrono>
#include <ctime>
#include <fstream>
#include <thread>
#include <unistd.h>

namespace fell::measure {

Machine thisMachine()
{
    Machine machine;
    std::ifstream cpu("/proc/cpuinfo");
    for (std::string line; std::getline(cpu, line);)
        if (line.rfind("model name", 0) == 0) {
            machine.processor = line.substr(line.find(':') + 2);
            break;
        }
    machine.cores = static_cast<int>(std::thread::hardware_concurrency());
    machine.compiler = "g++ " __VERSION__;
    machine.level = FELL_LEVEL;
    machine.commit = buildCommit();
    const std::time_t now = std::chrono::system_clock::to_time_t(std::chrono::system_clock::now());
    std::tm utc{};
    ::gmtime_r(&now, &utc);
    char text[32];
    std::strftime(text, sizeof text, "%Y-%m-%dT%H:%M:%SZ", &utc);
    machine.date = text;
    return machine;
}

std::string versionLine(const std::string& program)
{
    return program + " " FELL_VERSION ", commit " + buildCommit() + ", g++ " __VERSION__ ", " FELL_LEVEL;
}

std::uint64_t processBytes()
{
    std::ifstream statm("/proc/self/statm");
    std::uint64_t total = 0, resident = 0;
    statm >> total >> resident;
    return resident * static_cast<std::uint64_t>(::sysconf(_SC_PAGESIZE));
}

double machineNoise()
{
    constexpr int kRuns = 60, kSteps = 300000;
    std::vector<double> ns;
    std::uint64_t state = 1;
    for (int run = 0; run < kRuns; ++run)
        ns.push_back(nsOf([&state] {
            for (int i = 0; i < kSteps; ++i) // each step waits for the one before: nothing but the clock matters
                state = state * 6364136223846793005U + 1442695040888963407U;
        }));
    doNotOptimize(state);
    const Percentiles all = percentilesOf(ns);
    return (all.p95 - all.p5) / all.p50;
}

} // namespace fell::measure
