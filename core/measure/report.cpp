// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/report.h>

#include <fell/measure/findings.h>
#include <fell/measure/markup.h>

#include <charconv>

namespace fell::measure {
namespace {

std::string fixed(double value, int digits)
{
    char text[64];
    const auto end = std::to_chars(text, text + sizeof text, value, std::chars_format::fixed, digits);
    return {text, end.ptr};
}

std::string nameOf(const TransectRow& row)
{
    return std::string(1, row.side) + " " + row.setup;
}

std::string intervalText(const Interval& of, double unit)
{
    if (!of.isKnown())
        return "-"; // one round
    return fixed(of.low / unit, 2) + " to " + fixed(of.high / unit, 2);
}

std::string questionOf(const TransectResult& result)
{
    std::string text = "What does " + variedIn(result) + " cost"
        + (result.b ? " with " + result.a.name + " and with " + result.b->name : " with " + result.a.name) + "? "
        + "World " + result.world + ", seed " + std::to_string(result.seed) + ", route " + result.route + ", "
        + counted(static_cast<std::uint64_t>(result.rounds), "round") + " of "
        + counted(static_cast<std::uint64_t>(result.frames), "frame")
        + (result.churn.kind == ChurnKind::None ? ""
                                                : ", " + std::to_string(result.churn.each) + " "
                    + churnChoice(result.churn.kind).one + (result.churn.each == 1 ? "" : "s") + " changed in each")
        + (result.b && result.inTurn ? ", the setups taking turns A B, B A." : ".");
    return text;
}

ReportTable differencesTable(const TransectResult& result)
{
    ReportTable table{{"choice", "A " + result.a.name, "B " + result.b->name}, {}, false};
    for (const SetupDifference& one : differencesOf(result.a, *result.b))
        table.rows.push_back({one.path, one.a, one.b});
    return table;
}

ReportTable rowsTable(const TransectResult& result)
{
    ReportTable table{
        {"setup", variedIn(result), "mesh us p50", "its interval", "p95", "in references", "ms per km2", "ns per voxel",
            "frame ms p50", "its interval", "p95", "its interval", "p99", "worst", "CPU ms", "GPU ms", "ready s",
            "chunks drawn", "triangles", "graphics MiB", "warm-up", "outliers"},
        {}, true};
    for (const TransectRow& row : result.rows)
        table.rows.push_back({nameOf(row), shownPlace(row.value, row.second) + (row.full ? " (memory full)" : ""),
            fixed(row.meshNs.p50 / 1000, 1), intervalText(row.meshNsP50, 1000), fixed(row.meshNs.p95 / 1000, 1),
            row.meshInReferences > 0 ? fixed(row.meshInReferences, 3) : "",
            row.meshMsPerSquareKm > 0 ? fixed(row.meshMsPerSquareKm, 0) : "",
            row.meshNsPerVoxel > 0 ? fixed(row.meshNsPerVoxel, 2) : "", fixed(row.frameMs.p50, 2),
            intervalText(row.frameMsP50, 1), fixed(row.frameMs.p95, 2), intervalText(row.frameMsP95, 1),
            fixed(row.frameMs.p99, 2), fixed(row.frameMs.max, 2), fixed(row.cpuMs, 2),
            row.gpuMs > 0 ? fixed(row.gpuMs, 2) : "", fixed(row.readySeconds, 2), std::to_string(row.chunks),
            std::to_string(row.triangles), fixed(static_cast<double>(row.gpuBytes) / (1 << 20), 1),
            std::to_string(row.warmUp), std::to_string(row.frameMs.outliers)});
    return table;
}

ReportTable churnTable(const TransectResult& result)
{
    ReportTable table{
        {"setup", variedIn(result), "changes", "voxels changed", "voxels relit", "chunks relit", "chunks meshed",
            "KiB uploaded", "light us", "mesh us", "upload us", "a frame's ms p50", "p95"},
        {}, true};
    for (const TransectRow& row : result.rows) {
        const ChurnCost& cost = row.churn;
        if (cost.changes == 0)
            continue;
        const auto each = [&cost](std::uint64_t sum, double unit = 1) {
            return fixed(static_cast<double>(sum) / static_cast<double>(cost.changes) / unit, 2);
        };
        table.rows.push_back({nameOf(row), shownPlace(row.value, row.second), std::to_string(cost.changes),
            each(cost.voxels), each(cost.relitVoxels), each(cost.relit), each(cost.meshed), each(cost.bytes, 1024),
            each(cost.lightNs, 1000), each(cost.meshNs, 1000), each(cost.uploadNs, 1000), fixed(cost.readyMs.p50, 2),
            fixed(cost.readyMs.p95, 2)});
    }
    return table;
}

ReportTable stepsTable(const std::vector<CullTrialRow>& rows)
{
    ReportTable table{{"drawn with", "frame ms p50", "culling ms", "chunks", "triangles", "draws"}, {}, true};
    for (const CullTrialRow& of : rows)
        table.rows.push_back({of.what, fixed(of.frameMs.p50, 2), fixed(of.cullMs, 3), std::to_string(of.chunks),
            std::to_string(of.triangles), std::to_string(of.drawCalls)});
    return table;
}

ReportList auditsList(const TransectResult& result)
{
    ReportList list;
    for (const AuditNote& audit : result.audits)
        list.items.push_back(audit.what + ": " + std::to_string(audit.cases) + " cases, "
            + (audit.differences == 0 ? "no difference" : std::to_string(audit.differences) + " differences: FAILED"));
    return list;
}

ReportList machineList(const TransectResult& result)
{
    const Machine& machine = result.machine;
    ReportList list{{machine.processor + ", " + std::to_string(machine.cores) + " cores",
        result.driver.empty()
            ? std::string("nothing was drawn")
            : result.driver + ", " + std::to_string(result.width) + " x " + std::to_string(result.height) + " pixels",
        machine.compiler + ", level " + machine.level, "commit " + machine.commit, machine.date}};
    if (result.noise > 0)
        list.items.push_back("noise before the first round: " + fixed(result.noise * 100, 1) + " %");
    return list;
}

/// Pipes and line breaks would end a cell.
std::string cell(const std::string& text)
{
    std::string out;
    for (const char c : text)
        out += c == '|' ? std::string("\\|") : std::string(1, c == '\n' ? ' ' : c);
    return out;
}

struct Markdown {
    std::string operator()(const std::string& text) const { return text + "\n\n"; }
    std::string operator()(const ReportPlots&) const { return {}; }
    std::string operator()(const ReportList& list) const
    {
        std::string out;
        for (const auto& item : list.items)
            out += "- " + item + "\n";
        return out + "\n";
    }
    std::string operator()(const ReportTable& table) const
    {
        const auto line = [](const std::vector<std::string>& cells) {
            std::string out = "|";
            for (const auto& one : cells)
                out += " " + cell(one) + " |";
            return out + "\n";
        };
        std::string out = line(table.head) + "|";
        for (std::size_t i = 0; i < table.head.size(); ++i)
            out += i == 0 || !table.numbers ? " --- |" : " ---: |";
        out += "\n";
        for (const auto& row : table.rows)
            out += line(row);
        return out + "\n";
    }
};

struct Html {
    const std::string& plots;

    std::string operator()(const std::string& text) const { return "<p>" + escapedForMarkup(text) + "</p>\n"; }
    std::string operator()(const ReportPlots&) const { return "<figure>" + plots + "</figure>\n"; }
    std::string operator()(const ReportList& list) const
    {
        std::string out = "<ul>\n";
        for (const auto& item : list.items)
            out += "<li>" + escapedForMarkup(item) + "</li>\n";
        return out + "</ul>\n";
    }
    std::string operator()(const ReportTable& table) const
    {
        const auto line = [](const std::vector<std::string>& cells, const char* tag) {
            std::string out = "<tr>";
            for (const auto& one : cells)
                out += std::string("<") + tag + ">" + escapedForMarkup(one) + "</" + tag + ">";
            return out + "</tr>\n";
        };
        std::string out = std::string("<table") + (table.numbers ? " class=\"numbers\"" : "") + ">\n<thead>"
            + line(table.head, "th") + "</thead>\n<tbody>\n";
        for (const auto& row : table.rows)
            out += line(row, "td");
        return out + "</tbody>\n</table>\n";
    }
};

constexpr const char* kStyle = R"(
body { background: #FAF8F2; color: #22282B; font: 15px/1.45 Inter, "DejaVu Sans", sans-serif; margin: 32px auto; max-width: 1160px; padding: 0 20px; }
h1 { font-size: 24px; } h2 { font-size: 17px; margin-top: 30px; }
figure { margin: 0; overflow-x: auto; }
table { border-collapse: collapse; font-size: 13px; font-variant-numeric: tabular-nums; }
th, td { border-bottom: 1px solid #D9D4C5; padding: 5px 10px; text-align: left; white-space: nowrap; }
.numbers td + td, .numbers th + th { text-align: right; }
th { color: #6B7276; font-weight: 600; }
)";

} // namespace

Report reportOf(const TransectResult& result)
{
    Report report{"Transect: " + variedIn(result) + " in " + result.world, {}};
    report.sections.push_back({"The question", {questionOf(result)}});
    if (result.b) {
        ReportTable table = differencesTable(result);
        if (table.rows.empty())
            report.sections.push_back({"How the setups differ", {std::string("They do not: both are the same.")}});
        else
            report.sections.push_back({"How the setups differ", {std::move(table)}});
    }
    report.sections.push_back({"What was found", {ReportList{findingsOf(result)}, ReportPlots{}}});
    report.sections.push_back({"Measured",
        {rowsTable(result),
            std::string(
                "An interval holds the percentile's geometric mean over rounds at 95 % (Student's t on "
                "logarithms); it takes "
                "three rounds. Milliseconds per square kilometre are thread time of all meshes of the first view "
                "over the "
                "ground within the render distance; nanoseconds per voxel are the median chunk's.")}});
    if (ReportTable churn = churnTable(result); !churn.rows.empty())
        report.sections.push_back({"What one change costs", {std::move(churn)}});
    for (const TransectRow& row : result.rows)
        for (const auto& [title, tried] :
            {std::pair{"What each cull step saves: ", &row.steps}, {"What each pass of a frame costs: ", &row.passes}})
            if (!tried->empty())
                report.sections.push_back(
                    {title + nameOf(row) + " at " + shownPlace(row.value, row.second), {stepsTable(*tried)}});
    if (!result.audits.empty())
        report.sections.push_back({"Audits", {auditsList(result)}});
    report.sections.push_back({"The machine", {machineList(result)}});
    if (auto caveats = caveatsOf(result); !caveats.empty())
        report.sections.push_back({"To beware of", {ReportList{std::move(caveats)}}});
    return report;
}

std::string toMarkdown(const Report& report)
{
    std::string out = "# " + report.title + "\n\n";
    for (const ReportSection& section : report.sections) {
        out += "## " + section.title + "\n\n";
        for (const auto& part : section.parts)
            out += std::visit(Markdown{}, part);
    }
    return out;
}

std::string toHtml(const Report& report, const std::string& plots)
{
    std::string out = "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<title>"
        + escapedForMarkup(report.title) + "</title>\n<style>" + kStyle + "</style>\n</head>\n<body>\n<h1>"
        + escapedForMarkup(report.title) + "</h1>\n";
    for (const ReportSection& section : report.sections) {
        out += "<h2>" + escapedForMarkup(section.title) + "</h2>\n";
        for (const auto& part : section.parts)
            out += std::visit(Html{plots}, part);
    }
    return out + "</body>\n</html>\n";
}

} // namespace fell::measure
