// SPDX-License-Identifier: Apache-2.0
// Results as files: CSV that opens again, JSON for scripts, SVG for people; report.h has the rest.
#pragma once

#include <fell/measure/transect.h>

#include <array>
#include <span>

namespace fell::measure {

/// One line a row of the result under a header line, after "# key: value" lines that say what was measured on what.
/// docs/file-formats.md describes it.
std::string toCsv(const TransectResult& result);

/// The rows of several trials, each line with what it was measured on; for spreadsheets, it does not open again.
std::string toCsv(std::span<const TransectResult> trials);

/// Reads what toCsv wrote: all rows, and the lines before them. Setups are known by name only.
/// Errors: no such file format, a missing or unknown column, a number that is none; with the line.
Outcome<TransectResult> parseResultCsv(std::string_view csv, const std::string& where);

/// The document that fell-cli transect --json prints; with the raw samples on request.
enum class RawSamples { Without, With };
nlohmann::ordered_json toJson(const TransectResult& result, RawSamples samples = RawSamples::Without);

/// Reads what toJson wrote, samples included where they are there. Older documents may lack what was added since.
/// Errors: no such document, a missing or wrong part, a setup of another version; with its place.
Outcome<TransectResult> parseResultJson(std::string_view json, const std::string& where);
Outcome<TransectResult> resultFrom(const nlohmann::json& root, const std::string& where);

/// Two plots, mesh build time and frame time against what was varied, with percentile bands, units and a legend; with
/// two things varied a heat map of each for every setup.
std::string toSvg(const TransectResult& result);

/// The colour of a heat map's field: red, green and blue of 255 for the share of the way from the cheapest to the
/// dearest, from light to dark.
std::array<int, 3> evenScale(double share);

} // namespace fell::measure
