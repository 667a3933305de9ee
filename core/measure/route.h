// SPDX-License-Identifier: Apache-2.0
// A camera path: the same every time, so that frames can be compared.
#pragma once

#include "cull/view.h"
#include "input/problem.h"
#include "terrain/terrain.h"

#include <array>
#include <filesystem>
#include <string>
#include <vector>

namespace fell {

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

/// The eye at `t` of the route, 0 the first point and 1 the last, on a curve through all points.
/// Source  Catmull and Rom, "A Class of Local Interpolating Splines", 1974 (uniform).
Eye eyeOn(const Route& route, double t, const Terrain& terrain);

/// The eye at a place in metres, lifted to stay `clear` metres above the ground.
Eye eyeAt(const RoutePoint& point, double clear, const Terrain& terrain);

} // namespace fell
