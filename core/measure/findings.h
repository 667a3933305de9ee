// SPDX-License-Identifier: Apache-2.0
// What a transect shows, in words: nothing is said that its intervals do not allow.
#pragma once

#include <fell/measure/transect.h>

#include <string>
#include <vector>

namespace fell::measure {

/// With fewer rounds an interval says more of its method than of what was measured, so none is shown.
constexpr int kRoundsForInterval = 3;

/// "A needs 0.61x the frame time of B (0.58 to 0.64)", or "no difference shown in frame time (0.97 to 1.04)" where the
/// interval holds 1, or what is missing where there is none.
std::string verdictOf(const TransectRatio& ratio, int rounds = kRoundsForInterval);

/// A finding as a card: one number, how sure it is, and one sentence.
struct Finding {
    std::string number; // "0.18x", "6.00 chunks", "none"
    std::string interval; // "95 %: 0.14 to 0.24, 6 rounds", or why there is none
    std::string sentence; // "A needs 0.18x the frame time of B at 4 chunks"
    bool isDecided = true; // false: no difference is shown, or too little was measured
};
/// The ratios and loads at the last value, the reach, a choice's values against its first, and growth over four values
/// or more.
std::vector<Finding> cardsOf(const TransectResult& result);

/// One sentence each: the reach of each setup; the verdicts, of the last value only or of all; how the costs grow.
enum class Verdicts { Last, All };
std::vector<std::string> findingsOf(const TransectResult& result, Verdicts verdicts = Verdicts::All);

/// What a reader of the result should know of how it came about: an early stop, a full memory, a noisy machine, few
/// rounds, a software rasteriser, outliers.
std::vector<std::string> caveatsOf(const TransectResult& result);

/// The choices that the two setups do not share: path, A's value, B's value.
struct SetupDifference {
    std::string path, a, b;
};
std::vector<SetupDifference> differencesOf(const Setup& a, const Setup& b);

/// Two digits behind the point below 10, one below 100, none above.
std::string shownFigure(double value);

/// A value of a setup as people write it.
std::string shownValue(const nlohmann::json& value);
/// The same with the second value where there is one: "8 x 32".
std::string shownPlace(const nlohmann::json& value, const nlohmann::json& second);

} // namespace fell::measure
