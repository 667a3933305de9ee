// SPDX-License-Identifier: GPL-3.0-or-later
// Routes by name: the user's own, those of the open world file, and the demo's.
#pragma once

#include <fell/input/problem.h>
#include <fell/measure/route.h>
#include <fell/save/changes.h>

#include <QStringList>

#include <filesystem>
#include <string>

namespace fell::app {

/// Where the user's own routes lie: fell/routes below XDG_DATA_HOME or ~/.local/share.
std::filesystem::path routesFolder();
/// Where the routes of the world file that is open lie, for as long as it is: a temporary folder of this process.
std::filesystem::path worldRoutesFolder();
/// The world is closed: removes that folder.
void dropWorldRoutes();
/// One of the user's routes, of the open world's, or of the demo's, or a file.
Outcome<Route> routeNamed(const std::string& name);
/// The same in a world, where kRoundChanges is the route round everything that was changed of it.
constexpr const char* kRoundChanges = "round-the-changes";
Outcome<Route> routeIn(const Terrain& terrain, const WorldChanges* changes, const std::string& name);
/// The names of the JSON files of a folder, in order; none where there is no folder.
QStringList namesIn(const std::filesystem::path& folder);
/// The names of all, the demo's first.
QStringList routeNames();
/// 1 to 40 letters, digits, spaces, - and _, so that it is a file name wherever it comes from.
bool isRouteName(const QString& name);

} // namespace fell::app
