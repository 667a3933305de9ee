// SPDX-License-Identifier: Apache-2.0
// The JSON document of a transect, written and read.
#include <fell/input/json_reader.h>
#include <fell/measure/findings.h>
#include <fell/measure/results.h>

#include <nlohmann/json.hpp>

#include <charconv>
#include <cmath>
#include <limits>

namespace fell::measure {
namespace {

using Json = nlohmann::ordered_json;
constexpr NumberRange kAnyCost{0, 1e18};
constexpr int kResultVersion = 1; // documents of before have none
constexpr std::int64_t kMaxCount = std::int64_t{1} << 60;
constexpr std::size_t kMaxRows = 1000, kMaxSamples = 10'000'000;

constexpr std::pair<const char*, std::uint64_t ChurnCost::*> kChurnCounts[]{{"changes", &ChurnCost::changes},
    {"voxels", &ChurnCost::voxels}, {"relit_voxels", &ChurnCost::relitVoxels}, {"relit_chunks", &ChurnCost::relit},
    {"meshed_chunks", &ChurnCost::meshed}, {"uploaded_bytes", &ChurnCost::bytes}, {"voxel_ns", &ChurnCost::voxelNs},
    {"light_ns", &ChurnCost::lightNs}, {"mesh_ns", &ChurnCost::meshNs}, {"upload_ns", &ChurnCost::uploadNs}};

Json percentilesJson(const Percentiles& of)
{
    return {{"p5", of.p5}, {"p50", of.p50}, {"p95", of.p95}, {"p99", of.p99}, {"max", of.max}, {"samples", of.count},
        {"outliers", of.outliers}};
}

/// A digest has 64 bits, more than a double keeps.
std::string hexOf(std::uint64_t digest)
{
    char text[17];
    std::snprintf(text, sizeof text, "%016llx", static_cast<unsigned long long>(digest));
    return text;
}

Json intervalJson(const Interval& of)
{
    return {of.low, of.high};
}

/// Each as the shortest decimal that is still the same float; as doubles they would be twice as long.
Json rawJson(const std::vector<float>& samples)
{
    Json out = Json::array();
    for (const float sample : samples) {
        char text[32];
        const auto end = std::to_chars(text, text + sizeof text, sample);
        double value = 0;
        std::from_chars(text, end.ptr, value);
        out.push_back(value);
    }
    return out;
}

Json rowJson(const TransectRow& row, bool withSamples)
{
    Json out{{"setup", row.setup}, {"side", std::string(1, row.side)}, {"value", row.value}};
    if (!row.second.is_null())
        out["across"] = row.second;
    out["mesh_ns"] = percentilesJson(row.meshNs);
    out["mesh_ns"]["p50_interval"] = intervalJson(row.meshNsP50);
    out["mesh_ns"]["rounds"] = row.meshRounds;
    if (row.meshInReferences > 0) {
        out["mesh_ns"]["in_references"] = row.meshInReferences;
        out["mesh_ns"]["rounds_in_references"] = row.roundsInReferences;
    }
    out["mesh_ms_per_km2"] = row.meshMsPerSquareKm;
    out["mesh_ns_per_voxel"] = row.meshNsPerVoxel;
    out["ready_s"] = row.readySeconds;
    out["frame_ms"] = percentilesJson(row.frameMs);
    out["frame_ms"]["p50_interval"] = intervalJson(row.frameMsP50);
    out["frame_ms"]["p95_interval"] = intervalJson(row.frameMsP95);
    out["frame_ms"]["cpu_ms"] = row.cpuMs; // medians: latency is frame_ms itself
    out["frame_ms"]["gpu_ms"] = row.gpuMs;
    out["frame_ms"]["warm_up"] = row.warmUp;
    out["frame_ms"]["rounds"] = row.frameRounds;
    if (withSamples) {
        out["mesh_ns"]["raw"] = rawJson(row.meshSamples);
        out["frame_ms"]["raw"] = rawJson(row.frameSamples);
    }
    if (row.firstView.quads > 0)
        out["first_view"] = {{"mesh_quads", row.firstView.quads}, {"mesh_bytes", row.firstView.bytes},
            {"mesh_digest", hexOf(row.firstView.digest)}};
    out["chunks"] = row.chunks;
    out["triangles"] = row.triangles;
    out["draw_calls"] = row.drawCalls;
    out["resident_chunks"] = row.residentChunks;
    out["gpu_bytes"] = row.gpuBytes;
    out["process_bytes"] = row.processBytes;
    out["memory_full"] = row.full;
    if (row.failedChunks > 0) {
        out["failed_chunks"] = row.failedChunks;
        out["first_error"] = row.firstError;
    }
    if (row.churn.changes > 0) {
        Json& churn = out["churn"];
        for (const auto& [key, of] : kChurnCounts)
            churn[key] = row.churn.*of;
        churn["frame_ready_ms"] = percentilesJson(row.churn.readyMs);
    }
    for (const auto& [key, tried] : {std::pair{"cull_steps", &row.steps}, {"passes", &row.passes}}) {
        out[key] = Json::array();
        for (const CullTrialRow& of : *tried)
            out[key].push_back(
                {{"what", of.what}, {"without", of.step}, {"frame_ms", of.frameMs.p50}, {"cull_ms", of.cullMs},
                    {"chunks", of.chunks}, {"triangles", of.triangles}, {"draw_calls", of.drawCalls}});
    }
    return out;
}

/// With the second value, where there is one.
Json withAcross(Json out, const nlohmann::json& second)
{
    if (!second.is_null())
        out["across"] = second;
    return out;
}

/// A number that JSON has no word for, infinity, is written as null.
double numberOrInfinity(JsonReader& from, const char* key)
{
    if (from.has(key) && from.json()[key].is_null())
        return std::numeric_limits<double>::infinity();
    return from.number(key, kAnyCost);
}

std::uint64_t countOr(JsonReader& from, const char* key)
{
    return static_cast<std::uint64_t>(from.integerOr(key, 0, 0, kMaxCount));
}

/// A value that was measured: a number, a text or a list of texts.
nlohmann::json valueOf(JsonReader& from, const char* key, bool isRequired)
{
    if (!from.has(key)) {
        if (isRequired)
            from.fail(key, "is missing, a value of a setup is expected");
        return {};
    }
    const nlohmann::json& value = from.json()[key];
    if (!value.is_number() && !value.is_string() && !value.is_array())
        from.fail(key, "is no value of a setup: a number, a text or a list is expected");
    return value;
}

template <typename Number> std::vector<Number> numbersOf(JsonReader& from, const char* key)
{
    std::vector<Number> out;
    if (!from.has(key))
        return out;
    const nlohmann::json& list = from.json()[key];
    if (!list.is_array() || list.size() > kMaxSamples) {
        from.fail(key, "is no list of at most " + std::to_string(kMaxSamples) + " numbers");
        return out;
    }
    for (const auto& one : list)
        if (!one.is_number() || !(one.get<double>() >= 0 && one.get<double>() <= kAnyCost.high)) {
            from.fail(key, "holds what is no number from 0 to 1e18");
            return {};
        } else {
            out.push_back(one.get<Number>());
        }
    return out;
}

Percentiles percentilesFrom(JsonReader& from)
{
    Percentiles out;
    out.p5 = from.numberOr("p5", 0, kAnyCost);
    out.p50 = from.number("p50", kAnyCost);
    out.p95 = from.number("p95", kAnyCost);
    out.p99 = from.number("p99", kAnyCost);
    out.max = from.numberOr("max", out.p99, kAnyCost);
    out.count = countOr(from, "samples");
    out.outliers = countOr(from, "outliers");
    return out;
}

Interval intervalFrom(JsonReader& from, const char* key)
{
    const auto both = from.pairOr(key, {0, 0}, kAnyCost);
    return {both[0], both[1]};
}

char sideOf(JsonReader& from)
{
    static const std::vector<std::string> kSides{"A", "B"};
    return from.choice("side", kSides) == "B" ? 'B' : 'A';
}

ViewMeshes firstViewFrom(JsonReader view)
{
    ViewMeshes out;
    out.quads = countOr(view, "mesh_quads");
    out.bytes = countOr(view, "mesh_bytes");
    const std::string digest = view.text("mesh_digest");
    const auto read = std::from_chars(digest.data(), digest.data() + digest.size(), out.digest, 16);
    if (read.ec != std::errc{} || read.ptr != digest.data() + digest.size())
        view.fail("mesh_digest", "is no hexadecimal number of 64 bits");
    return out;
}

std::vector<CullTrialRow> triedFrom(JsonReader& from, const char* key)
{
    std::vector<CullTrialRow> out;
    from.each(key, 100, [&out](JsonReader of) {
        CullTrialRow step;
        step.what = of.text("what");
        step.step = of.text("without");
        step.frameMs.p50 = of.number("frame_ms", kAnyCost);
        step.cullMs = of.number("cull_ms", kAnyCost);
        step.chunks = countOr(of, "chunks");
        step.triangles = countOr(of, "triangles");
        step.drawCalls = countOr(of, "draw_calls");
        out.push_back(std::move(step));
    });
    return out;
}

TransectRow rowFrom(JsonReader from)
{
    TransectRow row;
    row.setup = from.text("setup");
    row.side = sideOf(from);
    row.value = valueOf(from, "value", true);
    row.second = valueOf(from, "across", false);
    JsonReader mesh = from.object("mesh_ns");
    row.meshNs = percentilesFrom(mesh);
    row.meshNsP50 = intervalFrom(mesh, "p50_interval");
    row.meshRounds = numbersOf<double>(mesh, "rounds");
    row.meshInReferences = mesh.numberOr("in_references", 0, kAnyCost);
    row.roundsInReferences = numbersOf<double>(mesh, "rounds_in_references");
    row.meshSamples = numbersOf<float>(mesh, "raw");
    JsonReader frame = from.object("frame_ms");
    row.frameMs = percentilesFrom(frame);
    row.frameMsP50 = intervalFrom(frame, "p50_interval");
    row.frameMsP95 = intervalFrom(frame, "p95_interval");
    row.cpuMs = frame.numberOr("cpu_ms", 0, kAnyCost);
    row.gpuMs = frame.numberOr("gpu_ms", 0, kAnyCost);
    row.frameRounds = numbersOf<double>(frame, "rounds");
    row.frameSamples = numbersOf<float>(frame, "raw");
    row.warmUp = static_cast<int>(frame.integerOr("warm_up", 0, 0, 10000));
    row.meshMsPerSquareKm = from.numberOr("mesh_ms_per_km2", 0, kAnyCost);
    row.meshNsPerVoxel = from.numberOr("mesh_ns_per_voxel", 0, kAnyCost);
    row.readySeconds = from.numberOr("ready_s", 0, kAnyCost);
    if (from.has("first_view"))
        row.firstView = firstViewFrom(from.object("first_view"));
    row.chunks = countOr(from, "chunks");
    row.triangles = countOr(from, "triangles");
    row.drawCalls = countOr(from, "draw_calls");
    row.residentChunks = countOr(from, "resident_chunks");
    row.gpuBytes = countOr(from, "gpu_bytes");
    row.processBytes = countOr(from, "process_bytes");
    row.full = from.has("memory_full") && from.flag("memory_full");
    row.failedChunks = countOr(from, "failed_chunks");
    row.firstError = from.has("first_error") ? from.text("first_error") : std::string();
    if (from.has("churn")) {
        JsonReader churn = from.object("churn");
        for (const auto& [key, of] : kChurnCounts)
            row.churn.*of = countOr(churn, key);
        JsonReader ready = churn.object("frame_ready_ms");
        row.churn.readyMs = percentilesFrom(ready);
    }
    row.steps = triedFrom(from, "cull_steps");
    row.passes = triedFrom(from, "passes");
    return row;
}

Machine machineFrom(JsonReader machine)
{
    Machine out;
    out.processor = machine.text("processor");
    out.commit = machine.text("commit");
    out.cores = static_cast<int>(machine.integerOr("cores", 0, 0, 1 << 16));
    out.compiler = machine.has("compiler") ? machine.text("compiler") : "";
    out.level = machine.has("level") ? machine.text("level") : "";
    out.date = machine.has("date") ? machine.text("date") : "";
    return out;
}

TransectRatio ratioFrom(JsonReader of)
{
    TransectRatio ratio;
    ratio.value = valueOf(of, "value", true);
    ratio.second = valueOf(of, "across", false);
    ratio.what = of.text("what");
    ratio.ratio.ratio = of.number("ratio", kAnyCost);
    ratio.ratio.low = of.number("low", kAnyCost);
    ratio.ratio.high = numberOrInfinity(of, "high");
    ratio.to = valueOf(of, "to", false);
    if (of.has("side"))
        ratio.side = sideOf(of);
    return ratio;
}

Outcome<Setup> setupFrom(const nlohmann::json& root, const char* side, const std::string& where)
{
    return parseSetup(root["setups"][side].dump(), where + ", setups/" + side);
}

} // namespace

Json toJson(const TransectResult& result, RawSamples samples)
{
    Json root{{"format", "fell-transect"}, {"version", kResultVersion}, {"vary", result.vary}, {"unit", result.unit}};
    if (!result.second.empty()) {
        root["across"] = result.second;
        root["across_unit"] = result.secondUnit;
    }
    root.update(Json{{"world", result.world}, {"seed", result.seed}, {"route", result.route}, {"rounds", result.rounds},
        {"frames", result.frames}, {"driver", result.driver}, {"noise", result.noise},
        {"size", {result.width, result.height}}, {"stopped", result.stopped}, {"churn", textOf(result.churn)}});
    if (!result.worldName.empty())
        root["world_name"] = result.worldName;
    if (result.path)
        root["path"] = Json::parse(toJson(*result.path));
    root["machine"] = {{"processor", result.machine.processor}, {"cores", result.machine.cores},
        {"compiler", result.machine.compiler}, {"level", result.machine.level}, {"commit", result.machine.commit},
        {"date", result.machine.date}};
    root["setups"]["A"] = Json::parse(toJson(result.a));
    if (result.b) {
        root["setups"]["B"] = Json::parse(toJson(*result.b));
        root["differences"] = Json::array();
        for (const SetupDifference& one : differencesOf(result.a, *result.b))
            root["differences"].push_back({{"path", one.path}, {"a", one.a}, {"b", one.b}});
    }
    root["rows"] = Json::array();
    for (const auto& row : result.rows)
        root["rows"].push_back(rowJson(row, samples == RawSamples::With));
    root["reach"] = Json::array();
    for (const auto& reach : result.reach)
        root["reach"].push_back(
            withAcross({{"setup", reach.setup}, {"side", std::string(1, reach.side)}, {"budget_ms", reach.budgetMs},
                           {"value", reach.value ? Json(*reach.value) : Json()}, {"beyond", reach.beyond}},
                reach.second));
    root["growth"] = Json::array();
    for (const auto& growth : result.growth)
        root["growth"].push_back(
            withAcross({{"setup", growth.setup}, {"side", std::string(1, growth.side)}, {"what", growth.what},
                           {"exponent", growth.growth.exponent}, {"low", growth.growth.low},
                           {"high", growth.growth.high}, {"points", growth.growth.points}},
                growth.second));
    root["ratios"] = Json::array();
    for (const auto& ratio : result.ratios)
        root["ratios"].push_back(withAcross(
            {{"value", ratio.value}, {"what", ratio.what}, {"ratio", ratio.ratio.ratio}, {"low", ratio.ratio.low},
                {"high", ratio.ratio.high}, {"verdict", verdictOf(ratio, result.rounds)}},
            ratio.second));
    for (const auto& ratio : result.toFirst)
        root["ratios"].push_back(withAcross(
            {{"value", ratio.value}, {"to", ratio.to}, {"side", std::string(1, ratio.side)}, {"what", ratio.what},
                {"ratio", ratio.ratio.ratio}, {"low", ratio.ratio.low}, {"high", ratio.ratio.high}},
            ratio.second));
    root["audits"] = Json::array();
    for (const auto& audit : result.audits)
        root["audits"].push_back({{"what", audit.what}, {"cases", audit.cases}, {"differences", audit.differences}});
    return root;
}

Outcome<TransectResult> parseResultJson(std::string_view json, const std::string& where)
{
    const auto root = parseJson(json, where);
    if (!root)
        return Problem{
            where, "", "is no transect's JSON, which fell-cli transect --json or --out writes: " + root.problem().what};
    return resultFrom(root.value(), where);
}

/// Both setups and the path.
static std::optional<Problem> readSetups(const nlohmann::json& root, const std::string& where, TransectResult& out)
{
    auto a = setupFrom(root, "A", where);
    if (!a)
        return a.problem();
    out.a = a.take();
    if (root.contains("path")) {
        auto path = parseRoute(root["path"].dump(), where + ", path");
        if (!path)
            return path.problem();
        out.path = path.take();
    }
    if (root["setups"].contains("B")) {
        auto b = setupFrom(root, "B", where);
        if (!b)
            return b.problem();
        out.b = b.take();
    }
    return std::nullopt;
}

Outcome<TransectResult> resultFrom(const nlohmann::json& root, const std::string& where)
{
    if (!root.is_object() || !root.contains("rows") || !root["rows"].is_array())
        return Problem{where, "", "is no transect's JSON; fell-cli transect --json, or --out, writes one"};
    std::optional<Problem> problem;
    JsonReader reader(root, problem, where);
    TransectResult out;
    if (reader.has("version") && reader.integer("version", 0, 1 << 20) > kResultVersion)
        return Problem{where, "/version",
            "is of a newer Fell: use that one; this one reads up to " + std::to_string(kResultVersion)};
    out.vary = reader.text("vary");
    out.unit = reader.has("unit") ? reader.text("unit") : "";
    out.second = reader.has("across") ? reader.text("across") : "";
    out.secondUnit = reader.has("across_unit") ? reader.text("across_unit") : "";
    out.world = reader.text("world");
    out.seed = reader.seed("seed");
    out.route = reader.text("route");
    if (reader.has("world_name"))
        out.worldName = reader.text("world_name", 4096);
    out.driver = reader.text("driver");
    out.rounds = static_cast<int>(reader.integer("rounds", 1, 50));
    out.frames = static_cast<int>(reader.integer("frames", 1, 10000));
    out.noise = reader.numberOr("noise", 0, kAnyCost);
    out.stopped = reader.has("stopped") && reader.flag("stopped");
    if (reader.has("churn")) {
        if (auto churn = parseChurn(reader.text("churn")))
            out.churn = churn.value();
        else
            reader.fail("churn", churn.problem().what);
    }
    const auto size = reader.pair("size", {0, 1 << 15});
    out.width = static_cast<int>(size[0]);
    out.height = static_cast<int>(size[1]);
    out.machine = machineFrom(reader.object("machine"));
    JsonReader setups = reader.object("setups");
    (void)setups.object("A");
    reader.each("rows", kMaxRows, [&out](JsonReader row) { out.rows.push_back(rowFrom(std::move(row))); });
    reader.each("ratios", 6 * kMaxRows, [&out](JsonReader of) {
        TransectRatio ratio = ratioFrom(std::move(of));
        (ratio.to.is_null() ? out.ratios : out.toFirst).push_back(std::move(ratio));
    });
    reader.each("audits", 100, [&out](JsonReader of) {
        out.audits.push_back({of.text("what"), countOr(of, "cases"), countOr(of, "differences")});
    });
    if (problem)
        return *problem;
    if (auto wrong = readSetups(root, where, out))
        return *wrong;
    if (out.rows.empty())
        return Problem{where, "/rows", "holds no row"};
    concludeFromRows(out);
    return out;
}

} // namespace fell::measure
