// SPDX-License-Identifier: GPL-3.0-or-later
// What the window remembers from one session to the next: nothing of it is measured.
#pragma once

#include <fell/namespaces.h>

#include <QByteArray>
#include <QKeySequence>
#include <QMap>
#include <QString>
#include <QStringList>

namespace fell::app {

struct Preferences {
    QByteArray geometry; // as QWidget::saveGeometry gives it
    QString page; // id of the action that shows it; empty: the field
    QString stage; // whose bench is open; empty: the first
    QString theme; // "limewash" or "slate"; empty: as the desktop
    QStringList recentWorlds; // absolute paths, the newest first
    QMap<QString, QKeySequence> keys; // by id of the action: those that differ from the standard
    QMap<QString, double> distances; // metres by driver, as they were found
    bool operator==(const Preferences&) const = default;
};

/// $XDG_CONFIG_HOME/fell/window.ini, or the same below ~/.config.
QString preferencesFile();
/// A file that is missing or damaged gives standard values; a value that is not allowed is left out.
Preferences readPreferences(const QString& file = preferencesFile());
/// False where it cannot be written. The file is replaced as a whole.
bool writePreferences(const Preferences& preferences, const QString& file = preferencesFile());

/// The list with `world` as its first entry, without a second mention of it, and at most kRecentWorlds long.
constexpr int kRecentWorlds = 8;
QStringList withRecent(QStringList worlds, const QString& world);

} // namespace fell::app
