// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/route_controller.h>

#include <fell/app/views/dialogs.h>
#include <fell/input/text_file.h>

namespace fell::app {

RouteController::RouteController(WorldSession& session, Dialogs& dialogs)
    : m_session(session)
    , m_dialogs(dialogs)
{
}

void RouteController::record()
{
    if (!m_session.recorder) {
        m_session.recorder.emplace();
        emit recording(true);
        emit note(tr("Recording a route: fly it, then press Ctrl+R again"));
        return;
    }
    // A name that is refused is asked for again; only Discard drops the recording.
    QString name = unusedName();
    do {
        name = askName(name.isEmpty() ? unusedName() : name);
        if (name.isEmpty() && mayDiscardRecording()) {
            m_session.recorder.reset();
            emit recording(false);
            return;
        }
    } while (name.isEmpty() || !mayReplace(name) || !keepRecorded(name));
    m_session.recorder.reset();
    emit recording(false);
}

/// "my-route", or the first of "my-route-2", "my-route-3" ... that no route has.
QString RouteController::unusedName()
{
    const QStringList taken = routeNames();
    QString name = tr("my-route");
    for (int i = 2; taken.contains(name); ++i)
        name = tr("my-route-%1").arg(i);
    return name;
}

bool RouteController::mayDiscardRecording()
{
    return m_dialogs.confirms(QStringLiteral("discardRecordingQuestion"), tr("Discard the recording?"),
        tr("The route of %1 points that you have just flown is in no file.").arg(m_session.recorder->points()),
        tr("Discard"), tr("Name it…"));
}

bool RouteController::mayReplace(const QString& name)
{
    std::error_code error;
    if (!isRouteName(name) || !std::filesystem::exists(routesFolder() / (name.toStdString() + ".json"), error))
        return true;
    return m_dialogs.confirms(QStringLiteral("replaceRouteQuestion"), tr("Replace the route?"),
        tr("There is a route “%1” already.").arg(name), tr("Replace"), tr("Another name…"));
}

QString RouteController::askName(const QString& suggested)
{
    return m_dialogs.line(tr("Keep the route"), tr("Its name, for the list of routes:"), suggested);
}

bool RouteController::keepRecorded(const QString& name)
{
    return keep(m_session.recorder->route(name.toStdString(), m_session.terrain()), name);
}

bool RouteController::keepEdited(const QString& name)
{
    Route route = *m_session.routeEditor.route();
    route.name = name.toStdString();
    route.title = route.name;
    return keep(route, name);
}

void RouteController::askKeepEdited()
{
    const QString name = askName(QString::fromStdString(m_session.routeEditor.route()->name));
    if (!name.isEmpty())
        keepEdited(name);
}

bool RouteController::keep(const Outcome<Route>& route, const QString& name)
{
    if (!isRouteName(name)) {
        emit trouble(tr("“%1” is no name for a route: use 1 to 40 letters, digits, spaces, - and _").arg(name));
        return false;
    }
    auto problem = route ? makeFolder(routesFolder()) : std::optional(route.problem());
    if (!problem)
        problem = writeFile(routesFolder() / (name.toStdString() + ".json"), toJson(route.value()));
    if (problem) {
        emit trouble(QString::fromStdString(sentence(*problem)));
        return false;
    }
    m_session.noteRoute(name);
    emit kept(name);
    emit note(tr("Kept the route “%1”, %2 points: the next walk goes along it, Ctrl+P flies it")
                  .arg(name)
                  .arg(route.value().points.size()));
    return true;
}

void RouteController::fly(const std::string& name)
{
    auto route = routeIn(m_session.terrain(), m_session.changes().get(), name);
    if (!route) {
        emit trouble(QString::fromStdString(sentence(route.problem())));
        return;
    }
    emit flies();
    m_session.flyAlong(route.take());
}

} // namespace fell::app

#include "moc_route_controller.cpp"
