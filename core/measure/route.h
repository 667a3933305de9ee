// SPDX-License-Identifier: Apache-2.0
// A camera path: the same every time, so that frames can be compared.
#pragma once

#include <fell/cull/view.h>
#include <fell/input/problem.h>
#include <fell/terrain/terrain.h>

#include <array>
#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace fell::measure {

struct RoutePoint {
    std::array<double, 3> at{}; // metres
    double yaw = 0, pitch = 0; // degrees
};

struct Route {
    std::string name, title;
    std::vector<RoutePoint> points; // at least 2
    double clear = 2; // metres that the eye stays above the ground
};

Outcome<Route> parseRoute(std::string_view json, const std::string& where);
/// A file, or the name of one in `folder`. Errors: neither (the sentence lists the names), or what parseRoute says.
Outcome<Route> findRoute(const std::string& nameOrFile, const std::filesystem::path& folder);

/// The place at `t` of the route before it is lifted over the ground.
RoutePoint pointOn(const Route& route, double t);

/// The eye at `t` of the route, 0 the first point and 1 the last, on a curve through all points.
/// Source  Catmull and Rom, "A Class of Local Interpolating Splines", 1974 (uniform).
Eye eyeOn(const Route& route, double t, const Terrain& terrain);

/// The file that parseRoute reads.
std::string toJson(const Route& route);

/// Makes a route of a flight: a point every half second of flying, so that the route goes at the pace that was flown.
/// A class because it remembers when it took the last.
class RouteRecorder {
public:
    static constexpr std::size_t kMax = 1000; // points; beyond, every second one goes and half as many are taken
    /// Once a frame. Where neither the eye nor the view has moved, no time passes.
    void note(const Eye& eye, double seconds, const Terrain& terrain);
    [[nodiscard]] std::size_t points() const { return m_points.size(); }
    /// Ends where the eye was last. Its `clear` lifts none of its points. Errors: fewer than two points.
    [[nodiscard]] Outcome<Route> route(const std::string& name, const Terrain& terrain) const;

private:
    std::vector<RoutePoint> m_points;
    std::optional<RoutePoint> m_last; // where the eye was last
    double m_interval = 0.5, m_since = 0; // seconds
};

/// The eye's place in metres.
RoutePoint pointAt(const Eye& eye, const Terrain& terrain);

/// The eye at a place in metres, lifted to stay `clear` metres above the ground.
Eye eyeAt(const RoutePoint& point, double clear, const Terrain& terrain);

} // namespace fell::measure
