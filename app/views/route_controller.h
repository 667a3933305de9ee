// SPDX-License-Identifier: GPL-3.0-or-later
// Recording, naming and flying routes.
#pragma once

#include <fell/app/models/world_session.h>

#include <QObject>

namespace fell::app {

class Dialogs;

class RouteController : public QObject {
    Q_OBJECT
public:
    /// Both must outlive it.
    RouteController(WorldSession& session, Dialogs& dialogs);

    /// Begins to take down where the eye flies, or ends and asks for a name.
    void record();
    /// Writes what was recorded under a name among the user's routes. False with a sentence where it cannot.
    bool keepRecorded(const QString& name);
    /// The same with the route as the plan shows it.
    bool keepEdited(const QString& name);
    void askKeepEdited();
    /// The eye flies along a route at its own speed until a key is pressed.
    void fly(const std::string& name);

signals:
    void trouble(const QString& sentence);
    void note(const QString& sentence);
    void recording(bool isRecording);
    void kept(const QString& name);
    void flies(); // from now on

private:
    bool keep(const Outcome<Route>& route, const QString& name);
    [[nodiscard]] QString askName(const QString& suggested);
    [[nodiscard]] static QString unusedName();
    bool mayDiscardRecording();
    bool mayReplace(const QString& name);

    WorldSession& m_session;
    Dialogs& m_dialogs;
};

} // namespace fell::app
