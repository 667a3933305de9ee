// SPDX-License-Identifier: Apache-2.0
// How far the measuring can be trusted on this machine, now: a setup against itself, and against itself made slower.
#pragma once

#include <fell/measure/gate.h>
#include <fell/measure/transect.h>

namespace fell::measure {

struct TrustSpec {
    std::shared_ptr<const Terrain> terrain;
    Setup setup;
    Route route;
    int trials = 20; // 1 to 200, of each of the two questions
    int rounds = 6; // 2 to 50, of each transect
    int frames = 8; // along the route in each round
    double slower = 0.05; // the known slowdown, a share of the mesh time: 0.01 to 1
    std::shared_ptr<const WorldChanges> changes{}; // what was changed of the world; null: nothing
    double allowed = kGateAllowed; // that the power table judges by
    /// Slowdowns of the power table next to 0 and `slower`, which are asked anyway: shares of the mesh time, 0.01 to 1.
    std::vector<double> others{0.1};
};

/// How often a gate of this number of rounds would have said what, had the truth been this slowdown.
struct PowerRow {
    int rounds = 0;
    double slower = 0; // the truth
    int trials = 0, saidSlower = 0, saidWithin = 0; // the rest was inconclusive
};

/// Judges every group of 3, 6, 12, 24 rounds in turn by verdictFor, as far as there are two groups or more.
/// `ratios`: mesh time of the slowed side over that of the other, a round each.
std::vector<PowerRow> powerOf(std::span<const double> ratios, double slower, double allowed);

/// What the trials found; every list has one entry a trial.
struct TrustResult {
    std::vector<Ratio> same; // mesh time of the setup over that of the same setup: 1 is the truth
    std::vector<Ratio> slower; // over that of the setup that was not slowed: 1 + slower is the truth
    std::vector<double> mediansUs, mediansInReferences; // of the unslowed B of every transect, one after the other
    double allowed = kGateAllowed; // as the spec said
    std::vector<PowerRow> power; // by slowdown, then by rounds
    bool stopped = false;

    [[nodiscard]] int holdOne() const; // trials of `same` whose interval holds 1
    [[nodiscard]] int found() const; // trials of `slower` that a gate calls slower
};

/// By how much each value differs from the one before: the larger over the smaller, less 1.
std::vector<double> stepsBetween(std::span<const double> values);

/// Checks everything that can be wrong with a spec before the work begins.
std::optional<Problem> checkTrust(const TrustSpec& spec);

/// Measures meshing only, the two questions in turn. The slowdown is real: each chunk's worker waits busily for that
/// share of what meshing took (BuildRules::meshed).
/// Errors  Asserts checkTrust(spec) found nothing.
/// Cost    2 * (2 + others) * trials * rounds worlds; some 5 s a transect.
TrustResult runTrust(
    const TrustSpec& spec, const std::function<void(const TransectProgress&)>& progress, const std::stop_token& stop);

} // namespace fell::measure
