// SPDX-License-Identifier: Apache-2.0
// Results as files: CSV that opens again, JSON for scripts, SVG for people; report.h has the rest.
#pragma once

#include "measure/transect.h"

namespace fell {

/// One line a row of the result under a header line, after "# key: value" lines that say what was measured on what.
/// docs/file-formats.md describes it.
std::string toCsv(const TransectResult& result);

/// Reads what toCsv wrote: all rows, and the lines before them. Setups are known by name only.
/// Errors: no such file format, a missing or unknown column, a number that is none; with the line.
Outcome<TransectResult> parseResultCsv(std::string_view csv, const std::string& where);

/// The document that fell-cli transect --json prints.
nlohmann::ordered_json toJson(const TransectResult& result);

/// Two plots, mesh build time and frame time against what was varied, with percentile bands, units and a legend.
std::string toSvg(const TransectResult& result);

} // namespace fell
