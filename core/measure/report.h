// SPDX-License-Identifier: Apache-2.0
// A transect for people who were not there: the question, how the setups differ, what was found, the tables, the
// machine and what to beware of.
#pragma once

#include <fell/measure/transect.h>

#include <string>
#include <variant>
#include <vector>

namespace fell::measure {

/// What a report is made of, before it is Markdown or HTML.
struct ReportTable {
    std::vector<std::string> head; // columns after the first hold numbers where `numbers`
    std::vector<std::vector<std::string>> rows;
    bool numbers = true;
};
struct ReportList {
    std::vector<std::string> items;
};
struct ReportPlots { // where the plots stand
};
struct ReportSection {
    std::string title;
    std::vector<std::variant<std::string, ReportTable, ReportList, ReportPlots>> parts;
};
struct Report {
    std::string title;
    std::vector<ReportSection> sections;
};

Report reportOf(const TransectResult& result);

/// Markdown that needs nothing but itself; without plots, which stand in a file next to it.
std::string toMarkdown(const Report& report);

/// One page of HTML with everything in it, no script and nothing that is loaded from elsewhere. `plots` is SVG.
std::string toHtml(const Report& report, const std::string& plots);

} // namespace fell::measure
