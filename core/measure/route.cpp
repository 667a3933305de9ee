// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/route.h>

#include <fell/input/json_reader.h>
#include <fell/input/nearest.h>
#include <fell/input/text_file.h>
#include <fell/terrain/columns.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>

namespace fs = std::filesystem;

namespace fell::measure {
namespace {

RoutePoint readPoint(JsonReader& from)
{
    from.onlyKeys({"at", "yaw", "pitch"});
    RoutePoint point;
    const auto& at = from.json().is_object() && from.has("at") ? from.json()["at"] : nlohmann::json();
    if (!at.is_array() || at.size() != 3
        || !std::all_of(at.begin(), at.end(), [](const auto& n) { return n.is_number(); })) {
        from.fail("at", "three numbers [x, y, z] in metres are expected");
        return point;
    }
    for (std::size_t i = 0; i < 3; ++i) {
        point.at[i] = at[i].template get<double>();
        if (!(std::abs(point.at[i]) <= 1e6))
            from.fail("at", "three numbers from -1e6 to 1e6 are expected");
    }
    point.yaw = from.number("yaw", {-3600, 3600});
    point.pitch = from.number("pitch", {-90, 90});
    return point;
}

constexpr double kUnderground = -1e6; // metres: lifts nothing

double spline(double a, double b, double c, double d, double t)
{
    return b + 0.5 * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)));
}

} // namespace

Outcome<Route> parseRoute(std::string_view json, const std::string& where)
{
    auto parsed = parseJson(json, where);
    if (!parsed)
        return parsed.problem();
    std::optional<Problem> problem;
    JsonReader root(parsed.value(), problem, where);
    root.onlyKeys({"format", "version", "name", "title", "note", "clear", "points"});
    static const std::vector<std::string> kFormat{"fell-route"};
    root.choice("format", kFormat);
    root.integer("version", 1, 1);
    Route route;
    route.name = root.text("name", 40);
    route.title = root.has("title") ? root.text("title", 80) : route.name;
    route.clear = root.numberOr("clear", 2, {-1e6, 10000});
    root.each("points", 1000, [&](JsonReader point) { route.points.push_back(readPoint(point)); });
    if (!problem && route.points.size() < 2)
        root.fail("points", "at least two points are expected");
    if (problem)
        return *problem;
    return route;
}

Outcome<Route> findRoute(const std::string& nameOrFile, const fs::path& folder)
{
    std::error_code error;
    const bool plainName = nameOrFile.find('/') == std::string::npos && !nameOrFile.empty();
    const fs::path named = folder / (nameOrFile + ".json");
    const fs::path file = plainName && fs::exists(named, error) ? named : fs::path(nameOrFile);
    if (!fs::exists(file, error)) {
        std::vector<std::string> names;
        for (const auto& entry : fs::directory_iterator(folder, error))
            if (entry.path().extension() == ".json")
                names.push_back(entry.path().stem().string());
        std::sort(names.begin(), names.end());
        return Problem{"--route " + nameOrFile, "",
            "there is neither a file nor a route of this name; " + allowedNames(nameOrFile, names)};
    }
    const auto text = readFile(file);
    if (!text)
        return text.problem();
    return parseRoute(text.value(), file.string());
}

std::string toJson(const Route& route)
{
    nlohmann::ordered_json root{{"format", "fell-route"}, {"version", 1}, {"name", route.name}, {"title", route.title},
        {"clear", route.clear}, {"points", nlohmann::ordered_json::array()}};
    for (const RoutePoint& point : route.points)
        root["points"].push_back({{"at", point.at}, {"yaw", point.yaw}, {"pitch", point.pitch}});
    return root.dump(2) + "\n";
}

RoutePoint pointAt(const Eye& eye, const Terrain& terrain)
{
    const double metres = terrain.recipe.voxelMetres;
    return {{(static_cast<double>(eye.cell.x) + eye.within.x) * metres,
                (static_cast<double>(eye.cell.y) + eye.within.y) * metres,
                (static_cast<double>(eye.cell.z) + eye.within.z) * metres},
        eye.yaw, eye.pitch};
}

void RouteRecorder::note(const Eye& eye, double seconds, const Terrain& terrain)
{
    RoutePoint now = pointAt(eye, terrain);
    if (m_last) { // on from the last yaw, the shorter way round: a route turns as the eye did
        now.yaw = m_last->yaw + std::remainder(now.yaw - m_last->yaw, 360);
        if (now.at == m_last->at && now.yaw == m_last->yaw && now.pitch == m_last->pitch)
            return;
    }
    m_last = now;
    m_since += seconds;
    if (!m_points.empty() && m_since < m_interval)
        return;
    m_since = 0;
    m_points.push_back(now);
    if (m_points.size() < kMax)
        return;
    for (std::size_t i = 0; i < kMax / 2; ++i)
        m_points[i] = m_points[2 * i];
    m_points.resize(kMax / 2);
    m_interval *= 2;
}

Outcome<Route> RouteRecorder::route(const std::string& name, const Terrain& terrain) const
{
    Route out;
    out.name = name.substr(0, 40);
    out.title = name.substr(0, 80);
    out.points = m_points;
    if (m_last && m_points.size() < kMax && (m_points.empty() || m_points.back().at != m_last->at))
        out.points.push_back(*m_last);
    if (out.points.size() < 2)
        return Problem{"", "", "nothing was flown while the route was recorded: two places or more are expected"};
    // Yaws that went round many times come back into what a file may hold.
    const double turns = 360 * std::round(out.points.front().yaw / 360);
    for (RoutePoint& point : out.points) {
        point.yaw = std::clamp(point.yaw - turns, -3600.0, 3600.0);
        for (double& metres : point.at)
            metres = std::round(metres * 1000) / 1000;
        const Eye lifted = eyeAt(point, out.clear, terrain);
        if (std::abs(pointAt(lifted, terrain).at[1] - point.at[1]) > 0.01)
            out.clear = kUnderground;
    }
    return out;
}

Eye eyeAt(const RoutePoint& point, double clear, const Terrain& terrain)
{
    const double x = point.at[0] * terrain.voxelsPerMetre, z = point.at[2] * terrain.voxelsPerMetre;
    double y = point.at[1] * terrain.voxelsPerMetre;
    if (!terrain.recipe.pattern) {
        const double ground
            = groundHeight(terrain, static_cast<std::int64_t>(std::floor(x)), static_cast<std::int64_t>(std::floor(z)));
        const double surface
            = std::max(ground, static_cast<double>(std::max<std::int64_t>(terrain.waterLevel, -1000000)));
        y = std::max(y, surface + clear * terrain.voxelsPerMetre);
    }
    Eye eye;
    eye.within = {0, 0, 0};
    eye.yaw = point.yaw;
    eye.pitch = point.pitch;
    return moved(eye, {x, y, z});
}

Eye eyeOn(const Route& route, double t, const Terrain& terrain)
{
    return eyeAt(pointOn(route, t), route.clear, terrain);
}

RoutePoint pointOn(const Route& route, double t)
{
    const auto last = route.points.size() - 1;
    const double along = std::clamp(t, 0.0, 1.0) * static_cast<double>(last);
    const std::size_t i = std::min(static_cast<std::size_t>(along), last - 1);
    const double f = along - static_cast<double>(i);
    const RoutePoint &a = route.points[i > 0 ? i - 1 : 0], &b = route.points[i], &c = route.points[i + 1],
                     &d = route.points[std::min(i + 2, last)];
    RoutePoint at;
    for (std::size_t axis = 0; axis < 3; ++axis)
        at.at[axis] = spline(a.at[axis], b.at[axis], c.at[axis], d.at[axis], f);
    at.yaw = b.yaw + f * (c.yaw - b.yaw);
    at.pitch = b.pitch + f * (c.pitch - b.pitch);
    return at;
}

} // namespace fell::measure
