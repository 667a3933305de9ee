// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/results.h>

#include <nlohmann/json.hpp>

#include <fell/measure/findings.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <functional>

namespace fell::measure {
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
    int since = 1; // version of the file that has it first
};

std::optional<double> number(const std::string& text)
{
    double value = 0;
    const auto read = std::from_chars(text.data(), text.data() + text.size(), value);
    if (read.ec != std::errc{} || read.ptr != text.data() + text.size() || !std::isfinite(value))
        return std::nullopt;
    return value;
}

template <typename Get> Column numeric(const char* name, Get get, int since = 1)
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
        },
        since};
}

nlohmann::json valueFrom(const std::string& text)
{
    if (const auto value = number(text))
        return *value == std::floor(*value) && std::abs(*value) < 1e15
            ? nlohmann::json(static_cast<std::int64_t>(*value))
            : nlohmann::json(*value);
    return text;
}

/// Long: it is the table of all columns.
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
        numeric("frame_ms_max", [](Row& r) -> double& { return r.frameMs.max; }),
        numeric("frame_samples", [](Row& r) -> std::uint64_t& { return r.frameMs.count; }),
        numeric("ready_s", [](Row& r) -> double& { return r.readySeconds; }),
        numeric("drawn_chunks", [](Row& r) -> std::uint64_t& { return r.chunks; }),
        numeric("triangles", [](Row& r) -> std::uint64_t& { return r.triangles; }),
        numeric("draw_calls", [](Row& r) -> std::uint64_t& { return r.drawCalls; }),
        numeric("resident_chunks", [](Row& r) -> std::uint64_t& { return r.residentChunks; }),
        numeric("gpu_bytes", [](Row& r) -> std::uint64_t& { return r.gpuBytes; }),
        numeric("process_bytes", [](Row& r) -> std::uint64_t& { return r.processBytes; }),
        numeric("memory_full", [](Row& r) -> bool& { return r.full; }),
        {"across", [](const Row& r) { return r.second.is_null() ? std::string() : valueText(r.second); },
            [](Row& r, const std::string& t) {
                r.second = t.empty() ? nlohmann::json() : valueFrom(t);
                return true;
            },
            2},
        numeric(
            "mesh_ns_p50_low", [](Row& r) -> double& { return r.meshNsP50.low; }, 2),
        numeric(
            "mesh_ns_p50_high", [](Row& r) -> double& { return r.meshNsP50.high; }, 2),
        numeric(
            "frame_ms_p50_low", [](Row& r) -> double& { return r.frameMsP50.low; }, 2),
        numeric(
            "frame_ms_p50_high", [](Row& r) -> double& { return r.frameMsP50.high; }, 2),
        numeric(
            "frame_ms_p95_low", [](Row& r) -> double& { return r.frameMsP95.low; }, 2),
        numeric(
            "frame_ms_p95_high", [](Row& r) -> double& { return r.frameMsP95.high; }, 2),
        numeric(
            "changes", [](Row& r) -> std::uint64_t& { return r.churn.changes; }, 3),
        numeric(
            "changed_voxels", [](Row& r) -> std::uint64_t& { return r.churn.voxels; }, 3),
        numeric(
            "relit_voxels", [](Row& r) -> std::uint64_t& { return r.churn.relitVoxels; }, 3),
        numeric(
            "relit_chunks", [](Row& r) -> std::uint64_t& { return r.churn.relit; }, 3),
        numeric(
            "remeshed_chunks", [](Row& r) -> std::uint64_t& { return r.churn.meshed; }, 3),
        numeric(
            "change_bytes", [](Row& r) -> std::uint64_t& { return r.churn.bytes; }, 3),
        numeric(
            "change_light_ns", [](Row& r) -> std::uint64_t& { return r.churn.lightNs; }, 3),
        numeric(
            "change_mesh_ns", [](Row& r) -> std::uint64_t& { return r.churn.meshNs; }, 3),
        numeric(
            "change_ms_p50", [](Row& r) -> double& { return r.churn.readyMs.p50; }, 3),
        numeric(
            "change_ms_p95", [](Row& r) -> double& { return r.churn.readyMs.p95; }, 3),
        numeric(
            "mesh_in_references", [](Row& r) -> double& { return r.meshInReferences; }, 4),
        numeric(
            "mesh_ms_per_km2", [](Row& r) -> double& { return r.meshMsPerSquareKm; }, 5),
        numeric(
            "mesh_ns_per_voxel", [](Row& r) -> double& { return r.meshNsPerVoxel; }, 5),
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
        textNote("across", [](R& r) -> std::string& { return r.second; }),
        textNote("across_unit", [](R& r) -> std::string& { return r.secondUnit; }),
        textNote("route", [](R& r) -> std::string& { return r.route; }),
        countNote("rounds", [](R& r) -> int& { return r.rounds; }),
        countNote("frames", [](R& r) -> int& { return r.frames; }),
        {"churn", [](const R& r) { return textOf(r.churn); },
            [](R& r, const std::string& text) {
                if (const auto read = parseChurn(text))
                    r.churn = read.value();
            }},
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

constexpr int kCsvVersion = 5;

std::string firstLine(int version)
{
    return "# fell-transect " + std::to_string(version);
}

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

std::vector<Column> columnsOf(int version)
{
    std::vector<Column> out;
    for (const auto& column : columns())
        if (column.since <= version)
            out.push_back(column);
    return out;
}

std::string headerLine(int version)
{
    std::string line;
    for (const Column& column : columnsOf(version))
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
    std::string out = firstLine(kCsvVersion) + "\n";
    for (const auto& note : notes())
        out += "# " + std::string(note.key) + ": " + tame(note.write(result)) + "\n";
    out += headerLine(kCsvVersion) + "\n";
    for (const auto& row : result.rows) {
        std::string line;
        for (const auto& column : columns())
            line += (line.empty() ? "" : ",") + tame(column.write(row));
        out += line + "\n";
    }
    return out;
}

std::string toCsv(std::span<const TransectResult> trials)
{
    std::string out;
    for (const auto& note : notes())
        out += std::string(note.key) + ",";
    out += headerLine(kCsvVersion) + "\n";
    for (const TransectResult& trial : trials)
        for (const TransectRow& row : trial.rows) {
            for (const auto& note : notes())
                out += tame(note.write(trial)) + ",";
            std::string line;
            for (const auto& column : columns())
                line += (line.empty() ? "" : ",") + tame(column.write(row));
            out += line + "\n";
        }
    return out;
}

Outcome<TransectResult> parseResultCsv(std::string_view csv, const std::string& where)
{
    if (!isUtf8(csv))
        return Problem{where, "", "is no UTF-8 text: save it in that encoding"};
    const auto lines = splitAt(csv, '\n');
    int version = 0;
    for (int known = 1; known <= kCsvVersion; ++known)
        if (lines[0] == firstLine(known))
            version = known;
    if (version == 0)
        return Problem{where, "",
            "is no transect of Fell that is known here: its first line is not \"" + firstLine(kCsvVersion)
                + "\" or that of an older version"};
    const std::vector<Column> wanted = columnsOf(version);
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
            if (lines[i] != headerLine(version))
                return Problem{at, "",
                    "does not name the columns of version " + std::to_string(version) + ": " + headerLine(version)};
            inRows = true;
            continue;
        }
        const auto cells = splitAt(lines[i], ',');
        if (cells.size() != wanted.size())
            return Problem{at, "",
                "has " + std::to_string(cells.size()) + " cells, " + std::to_string(wanted.size()) + " are expected"};
        TransectRow row;
        for (std::size_t c = 0; c < cells.size(); ++c)
            if (!wanted[c].read(row, cells[c]))
                return Problem{at, "", "\"" + cells[c] + "\" is no value for " + wanted[c].name};
        result.rows.push_back(std::move(row));
    }
    if (result.rows.empty())
        return Problem{where, "", "holds no row of measurements: choose another file"};
    for (const auto& row : result.rows) {
        if (row.side == 'B' && !result.b)
            result.b.emplace();
        (row.side == 'A' ? result.a : *result.b).name = row.setup;
    }
    concludeFromRows(result);
    return result;
}

} // namespace fell::measure
