// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/routes.h>

#include <fell/app/models/world_session.h>

#include <fell/demo/demo_folder.h>
#include <fell/input/temp_folder.h>
#include <fell/measure/sample.h>

#include <fell/measure/ledger.h>

#include <QRegularExpression>

namespace fell::app {
namespace {

std::shared_ptr<const TempFolder>& worldRoutes()
{
    static std::shared_ptr<const TempFolder> folder;
    return folder;
}

} // namespace

void dropWorldRoutes()
{
    worldRoutes() = nullptr;
}

std::filesystem::path routesFolder()
{
    return homeLedger().parent_path() / "routes";
}

Outcome<Route> routeNamed(const std::string& name)
{
    std::error_code error;
    for (const auto& folder : {routesFolder(), worldRoutesFolder()})
        if (const auto own = folder / (name + ".json"); std::filesystem::exists(own, error))
            return findRoute(own.string(), demoFolder() / "routes");
    return findRoute(name, demoFolder() / "routes");
}

Outcome<Route> routeIn(const Terrain& terrain, const WorldChanges* changes, const std::string& name)
{
    if (name != kRoundChanges)
        return routeNamed(name);
    auto round = changes ? routeRoundChanges(terrain, *changes) : std::nullopt;
    if (!round)
        return Problem{"route", "", "leads around the edits, and the world has none: choose another route"};
    return std::move(*round);
}

QStringList namesIn(const std::filesystem::path& folder)
{
    QStringList names;
    std::error_code error;
    for (const auto& entry : std::filesystem::directory_iterator(folder, error))
        if (entry.path().extension() == ".json")
            names << QString::fromStdString(entry.path().stem().string());
    names.sort();
    return names;
}

std::filesystem::path worldRoutesFolder()
{
    if (!worldRoutes())
        if (auto made = TempFolder::make())
            worldRoutes() = made.take();
    return worldRoutes() ? worldRoutes()->path() : std::filesystem::path("/nonexistent"); // writing there is refused
}

bool isRouteName(const QString& name)
{
    static const QRegularExpression kPlain(QStringLiteral("^[A-Za-z0-9][A-Za-z0-9 _-]{0,39}$"));
    return kPlain.match(name).hasMatch();
}

QStringList routeNames()
{
    QStringList names = namesIn(demoFolder() / "routes") + namesIn(worldRoutesFolder()) + namesIn(routesFolder());
    names.removeDuplicates(); // the user's own replaces the demo's
    return names;
}

} // namespace fell::app
