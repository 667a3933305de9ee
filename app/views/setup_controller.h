// SPDX-License-Identifier: GPL-3.0-or-later
// Portal, saving and comparing setups.
#pragma once

#include <fell/app/models/world_session.h>

#include <QObject>

namespace fell::app {

class Dialogs;

class SetupController : public QObject {
    Q_OBJECT
public:
    /// Both must outlive it.
    SetupController(WorldSession& session, Dialogs& dialogs);

    /// Into the setup that is edited: a demo by name or a file. False with a sentence where something is wrong with it.
    bool open(const QString& nameOrFile);
    void askOpen();
    bool save(const QString& file);
    void askSave();
    /// Draws a second setup next to the first: a name or file, "" for a copy of A to change, nothing to end it.
    bool compareWith(const std::optional<QString>& nameOrFile);
    void askCompare();
    /// Setup B is A without levels of detail, both as far as full detail is held in a moment.
    void compareWithFullDetail();
    /// For the next session: what was chosen in this one is in no file otherwise.
    void keepForNextSession() const;
    /// Those of the last session are one click away.
    void openLast() { open(QString::fromStdString(lastSetupFile(false).string())); }
    void compareWithLast() { compareWith(QString::fromStdString(lastSetupFile(true).string())); }

signals:
    void trouble(const QString& sentence);
    void note(const QString& sentence);
    /// Another setup is next to the first: figures of the one before do not go on.
    void besideChanged();

private:
    bool fits(const Setup& next);
    [[nodiscard]] QString askFile(const QString& title);

    WorldSession& m_session;
    Dialogs& m_dialogs;
};

} // namespace fell::app
