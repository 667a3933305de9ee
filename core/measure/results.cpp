// SPDX-License-Identifier: Apache-2.0
#include "measure/results.h"

#include "measure/findings.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <functional>

namespace fell {
namespace {

std::string plain(double value)
{
    char text[32];
    const auto end = std::to_chars(text, text + sizeof text, value);
    return {text, end.ptr};
}

std::string valueText(const nlohmann::json& value)
{
    std::string text = shownValue(value);
    if (!value.is_string())
        std::replace(text.begin(), text.end(), ',', '+'); // a list of cull steps must stay one cell
    return text;
}

/// A column of the CSV: how it is written from a row, and read back into one. False if the text is not good.
struct Column {
    const char* name;
    std::function<std::string(const TransectRow&)> write;
    std::function<bool(TransectRow&, const std::string&)> read;
};

std::optional<double> number(const std::string& text)
{
    double value = 0;
    const auto read = std::from_chars(text.data(), text.data() + text.size(), value);
    if (read.ec != std::errc{} || read.ptr != text.data() + text.size() || !std::isfinite(value))
        return std::nullopt;
    return value;
}

template <typename Get> Column numeric(const char* name, Get get)
{
    return {name,
        [get](const TransectRow& row) {
            return plain(static_cast<double>(get(const_cast<TransectRow&>(row))));
        }, // NOLINT
        [get](TransectRow& row, const std::string& text) {
            const auto value = number(text);
            auto& target = get(row);
            if (!value || *value < 0 || *value > 1e18)
                return false;
            target = static_cast<std::remove_reference_t<decltype(target)>>(*value);
            return true;
        }};
}

nlohmann::json valueFrom(const std::string& text)
{
    if (const auto value = number(text))
        return *value == std::floor(*value) && std::abs(*value) < 1e15
            ? nlohmann::json(static_cast<std::int64_t>(*value))
            : nlohmann::json(*value);
    return text;
}

const std::vector<Column>& columns()
{
    using Row = TransectRow;
    static const std::vector<Column> kColumns{
        {"side", [](const Row& r) { return std::string(1, r.side); },
            [](Row& r, const std::string& t) {
                r.side = t == "B" ? 'B' : 'A';
                return t == "A" || t == "B";
            }},
        {"setup", [](const Row& r) { return r.setup; },
            [](Row& r, const std::string& t) {
                r.setup = t;
                return true;
            }},
        {"value", [](const Row& r) { return valueText(r.value); },
            [](Row& r, const std::string& t) {
                r.value = valueFrom(t);
                return !t.empty();
            }},
        numeric("mesh_ns_p5", [](Row& r) -> double& { return r.meshNs.p5; }),
        numeric("mesh_ns_p50", [](Row& r) -> double& { return r.meshNs.p50; }),
        numeric("mesh_ns_p95", [](Row& r) -> double& { return r.meshNs.p95; }),
        numeric("mesh_ns_p99", [](Row& r) -> double& { return r.meshNs.p99; }),
        numeric("mesh_samples", [](Row& r) -> std::uint64_t& { return r.meshNs.count; }),
        numeric("frame_ms_p5", [](Row& r) -> double& { return r.frameMs.p5; }),
        numeric("frame_ms_p50", [](Row& r) -> double& { return r.frameMs.p50; }),
        numeric("frame_ms_p95", [](Row& r) -> double& { return r.frameMs.p95; }),
        numeric("frame_ms_p99", [](Row& r) -> double& { return r.frameMs.p99; }),
        numeric("frame_ms_max", [](Row& r) -> double& { return r.frameMs.most; }),
        numeric("frame_samples", [](Row& r) -> std::uint64_t& { return r.frameMs.count; }),
        numeric("ready_s", [](Row& r) -> double& { return r.readySeconds; }),
        numeric("drawn_chunks", [](Row& r) -> std::uint64_t& { return r.chunks; }),
        numeric("triangles", [](Row& r) -> std::uint64_t& { return r.triangles; }),
        numeric("draw_calls", [](Row& r) -> std::uint64_t& { return r.drawCalls; }),
        numeric("resident_chunks", [](Row& r) -> std::uint64_t& { return r.residentChunks; }),
        numeric("gpu_bytes", [](Row& r) -> std::uint64_t& { return r.gpuBytes; }),
        numeric("process_bytes", [](Row& r) -> std::uint64_t& { return r.processBytes; }),
        numeric("memory_full", [](Row& r) -> bool& { return r.full; }),
    };
    return kColumns;
}

/// A "# key: value" line of the CSV.
struct Note {
    const char* key;
    std::function<std::string(const TransectResult&)> write;
    std::function<void(TransectResult&, const std::string&)> read;
};

template <typename Get> Note textNote(const char* key, Get get)
{
    return {key, [get](const TransectResult& r) { return get(const_cast<TransectResult&>(r)); }, // NOLINT: read only
        [get](TransectResult& r, const std::string& text) { get(r) = text; }};
}

template <typename Get> Note countNote(const char* key, Get get)
{
    return {key,
        [get](const TransectResult& r) {
            return std::to_string(get(const_cast<TransectResult&>(r)));
        }, // NOLINT: read only
        [get](TransectResult& r, const std::string& text) {
            auto& target = get(r);
            std::from_chars(text.data(), text.data() + text.size(), target);
        }};
}

const std::vector<Note>& notes()
{
    using R = TransectResult;
    static const std::vector<Note> kNotes{
        textNote("world", [](R& r) -> std::string& { return r.world; }),
        countNote("seed", [](R& r) -> std::uint64_t& { return r.seed; }),
        textNote("vary", [](R& r) -> std::string& { return r.vary; }),
        textNote("unit", [](R& r) -> std::string& { return r.unit; }),
        textNote("route", [](R& r) -> std::string& { return r.route; }),
        countNote("rounds", [](R& r) -> int& { return r.rounds; }),
        countNote("frames", [](R& r) -> int& { return r.frames; }),
        countNote("width", [](R& r) -> int& { return r.width; }),
        countNote("height", [](R& r) -> int& { return r.height; }),
        textNote("driver", [](R& r) -> std::string& { return r.driver; }),
        {"noise", [](const R& r) { return plain(r.noise); },
            [](R& r, const std::string& text) { r.noise = std::max(0.0, number(text).value_or(0)); }},
        textNote("processor", [](R& r) -> std::string& { return r.machine.processor; }),
        countNote("cores", [](R& r) -> int& { return r.machine.cores; }),
        textNote("compiler", [](R& r) -> std::string& { return r.machine.compiler; }),
        textNote("level", [](R& r) -> std::string& { return r.machine.level; }),
        textNote("commit", [](R& r) -> std::string& { return r.machine.commit; }),
        textNote("date", [](R& r) -> std::string& { return r.machine.date; }),
    };
    return kNotes;
}

constexpr const char* kFirstLine = "# fell-transect 1";

/// No line break and no comma may come out of a name.
std::string tame(std::string text)
{
    std::replace_if(
        text.begin(), text.end(), [](char c) { return c == ',' || c == '\n' || c == '\r'; }, ' ');
    return text;
}

std::vector<std::string> splitAt(std::string_view text, char at)
{
    std::vector<std::string> parts{""};
    for (const char c : text)
        if (c == at)
            parts.emplace_back();
        else if (c != '\r')
            parts.back() += c;
    return parts;
}

std::string headerLine()
{
    std::string line;
    for (const auto& column : columns())
        line += (line.empty() ? "" : ",") + std::string(column.name);
    return line;
}

void readNote(TransectResult& result, const std::string& line)
{
    for (const auto& note : notes())
        if (const std::string start = "# " + std::string(note.key) + ": "; line.rfind(start, 0) == 0)
            note.read(result, line.substr(start.size()));
}

} // namespace

std::string toCsv(const TransectResult& result)
{
    std::string out = std::string(kFirstLine) + "\n";
    for (const auto& note : notes())
        out += "# " + std::string(note.key) + ": " + tame(note.write(result)) + "\n";
    out += headerLine() + "\n";
    for (const auto& row : result.rows) {
        std::string line;
        for (const auto& column : columns())
            line += (line.empty() ? "" : ",") + tame(column.write(row));
        out += line + "\n";
    }
    return out;
}

Outcome<TransectResult> parseResultCsv(std::string_view csv, const std::string& where)
{
    const auto lines = splitAt(csv, '\n');
    if (lines[0] != kFirstLine)
        return Problem{where, "", "is no transect of Fell: its first line is not \"" + std::string(kFirstLine) + "\""};
    TransectResult result;
    bool inRows = false;
    for (std::size_t i = 1; i < lines.size(); ++i) {
        const std::string at = where + ", line " + std::to_string(i + 1);
        if (lines[i].empty())
            continue;
        if (lines[i][0] == '#') {
            readNote(result, lines[i]);
            continue;
        }
        if (!inRows) {
            if (lines[i] != headerLine())
                return Problem{at, "", "does not name the columns of version 1: " + headerLine()};
            inRows = true;
            continue;
        }
        const auto cells = splitAt(lines[i], ',');
        if (cells.size() != columns().size())
            return Problem{at, "",
                "has " + std::to_string(cells.size()) + " cells, " + std::to_string(columns().size()) + " are wanted"};
        TransectRow row;
        for (std::size_t c = 0; c < cells.size(); ++c)
            if (!columns()[c].read(row, cells[c]))
                return Problem{at, "", "\"" + cells[c] + "\" is no value for " + columns()[c].name};
        result.rows.push_back(std::move(row));
    }
    if (result.rows.empty())
        return Problem{where, "", "holds no row of measurements"};
    for (const auto& row : result.rows) {
        if (row.side == 'B' && !result.b)
            result.b.emplace();
        (row.side == 'A' ? result.a : *result.b).name = row.setup;
    }
    concludeFromRows(result);
    return result;
}

nlohmann::ordered_json toJson(const TransectResult& result)
{
    using Json = nlohmann::ordered_json;
    Json root{{"vary", result.vary}, {"unit", result.unit}, {"world", result.world}, {"seed", result.seed},
        {"route", result.route}, {"rounds", result.rounds}, {"frames", result.frames}, {"driver", result.driver},
        {"noise", result.noise}, {"size", {result.width, result.height}}, {"stopped", result.stopped}};
    root["machine"] = {{"processor", result.machine.processor}, {"cores", result.machine.cores},
        {"compiler", result.machine.compiler}, {"level", result.machine.level}, {"commit", result.machine.commit},
        {"date", result.machine.date}};
    root["setups"]["A"] = Json::parse(toJson(result.a));
    if (result.b)
        root["setups"]["B"] = Json::parse(toJson(*result.b));
    const auto stepsOf = [](const TransectRow& row) {
        Json steps = Json::array();
        for (const CullTrialRow& of : row.steps)
            steps.push_back(
                {{"what", of.what}, {"without", of.step}, {"frame_ms", of.frameMs.p50}, {"cull_ms", of.cullMs},
                    {"chunks", of.chunks}, {"triangles", of.triangles}, {"draw_calls", of.drawCalls}});
        return steps;
    };
    root["rows"] = Json::array();
    for (const auto& row : result.rows)
        root["rows"].push_back({{"setup", row.setup}, {"side", std::string(1, row.side)}, {"value", row.value},
            {"mesh_ns",
                {{"p5", row.meshNs.p5}, {"p50", row.meshNs.p50}, {"p95", row.meshNs.p95}, {"p99", row.meshNs.p99},
                    {"samples", row.meshNs.count}, {"rounds", row.meshRounds}}},
            {"ready_s", row.readySeconds},
            {"frame_ms",
                {{"p5", row.frameMs.p5}, {"p50", row.frameMs.p50}, {"p95", row.frameMs.p95}, {"p99", row.frameMs.p99},
                    {"max", row.frameMs.most}, {"samples", row.frameMs.count}, {"outliers", row.frameMs.outliers},
                    {"warm_up", row.warmUp}, {"rounds", row.frameRounds}}},
            {"chunks", row.chunks}, {"triangles", row.triangles}, {"draw_calls", row.drawCalls},
            {"resident_chunks", row.residentChunks}, {"gpu_bytes", row.gpuBytes}, {"process_bytes", row.processBytes},
            {"memory_full", row.full}, {"cull_steps", stepsOf(row)}});
    root["reach"] = Json::array();
    for (const auto& reach : result.reach)
        root["reach"].push_back(
            {{"setup", reach.setup}, {"side", std::string(1, reach.side)}, {"budget_ms", reach.budgetMs},
                {"value", reach.value ? Json(*reach.value) : Json()}, {"beyond", reach.beyond}});
    root["growth"] = Json::array();
    for (const auto& growth : result.growth)
        root["growth"].push_back({{"setup", growth.setup}, {"side", std::string(1, growth.side)}, {"what", growth.what},
            {"exponent", growth.growth.exponent}, {"low", growth.growth.low}, {"high", growth.growth.high},
            {"points", growth.growth.points}});
    root["ratios"] = Json::array();
    for (const auto& ratio : result.ratios)
        root["ratios"].push_back({{"value", ratio.value}, {"what", ratio.what}, {"ratio", ratio.ratio.ratio},
            {"low", ratio.ratio.low}, {"high", ratio.ratio.high}, {"verdict", verdictOf(ratio)}});
    return root;
}

} // namespace fell
