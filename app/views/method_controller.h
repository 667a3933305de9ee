// SPDX-License-Identifier: GPL-3.0-or-later
// Loading meshers from shared libraries, and what the setups do with a new build.
#pragma once

#include <fell/app/models/method_loader.h>
#include <fell/app/models/world_session.h>

#include <QObject>

namespace fell::app {

class Dialogs;

class MethodController : public QObject {
    Q_OBJECT
public:
    /// Both must outlive it.
    MethodController(WorldSession& session, Dialogs& dialogs);

    void askLoad();
    /// It becomes the mesher of the edited setup once it passed its check.
    void load(const QString& file);
    /// A new build becomes the mesher of setup B, and A keeps the one before; else it takes the place of that one.
    void keepOldBuilds(bool on) { m_keepsOld = on; }
    [[nodiscard]] MethodLoader& loader() { return m_loader; }

signals:
    void trouble(const QString& sentence);
    void note(const QString& sentence);
    /// The table of meshers has one more.
    void listChanged();
    /// As SetupController has it.
    void besideChanged();

private:
    void use(const QString& id, const QString& before);
    void compare(const Mesher& mesher);

    WorldSession& m_session;
    Dialogs& m_dialogs;
    MethodLoader m_loader;
    bool m_keepsOld = false;
};

} // namespace fell::app
