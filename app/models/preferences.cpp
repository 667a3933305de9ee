// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/preferences.h>

#include <QDir>
#include <QFileInfo>
#include <QSettings>
#include <QStandardPaths>

#include <algorithm>

namespace fell::app {
namespace {

constexpr int kMaxBytes = 4096; // of a value
constexpr int kMaxKeys = 400;
constexpr double kFarthestMetres = 100000;

/// A text of a file that anything may have been written into.
QString textOf(const QSettings& file, const QString& key)
{
    const QString text = file.value(key).toString();
    return text.size() <= kMaxBytes ? text : QString();
}

} // namespace

QString preferencesFile()
{
    return QStandardPaths::writableLocation(QStandardPaths::GenericConfigLocation) + QStringLiteral("/fell/window.ini");
}

Preferences readPreferences(const QString& file)
{
    Preferences out;
    if (constexpr qint64 kLargest = 1 << 20; QFileInfo(file).size() > kLargest || !QFileInfo(file).isFile())
        return out;
    QSettings in(file, QSettings::IniFormat);
    out.geometry = in.value(QStringLiteral("window/geometry")).toByteArray().left(kMaxBytes);
    out.page = textOf(in, QStringLiteral("window/page"));
    out.stage = textOf(in, QStringLiteral("window/stage"));
    out.theme = textOf(in, QStringLiteral("window/theme"));
    if (out.theme != QLatin1String("limewash") && out.theme != QLatin1String("slate"))
        out.theme.clear();
    for (const QString& world : in.value(QStringLiteral("worlds/recent")).toStringList())
        if (out.recentWorlds.size() < kRecentWorlds && world.size() <= kMaxBytes && QDir::isAbsolutePath(world)
            && !out.recentWorlds.contains(world))
            out.recentWorlds << world;
    const int drivers = in.beginReadArray(QStringLiteral("distances"));
    for (int i = 0; i < std::min(drivers, kMaxKeys); ++i) {
        in.setArrayIndex(i);
        const double metres = in.value(QStringLiteral("metres")).toDouble();
        if (const QString driver = textOf(in, QStringLiteral("driver"));
            !driver.isEmpty() && metres >= 1 && metres <= kFarthestMetres)
            out.distances[driver] = metres;
    }
    in.endArray();
    in.beginGroup(QStringLiteral("keys"));
    for (const QString& id : in.childKeys().mid(0, kMaxKeys))
        // An empty text is a choice too: no keys.
        out.keys[id] = QKeySequence::fromString(textOf(in, id), QKeySequence::PortableText);
    return out;
}

bool writePreferences(const Preferences& preferences, const QString& file)
{
    QDir().mkpath(QFileInfo(file).path());
    QSettings out(file, QSettings::IniFormat);
    out.clear();
    out.setValue(QStringLiteral("window/geometry"), preferences.geometry);
    out.setValue(QStringLiteral("window/page"), preferences.page);
    out.setValue(QStringLiteral("window/stage"), preferences.stage);
    out.setValue(QStringLiteral("window/theme"), preferences.theme);
    out.setValue(QStringLiteral("worlds/recent"), preferences.recentWorlds);
    for (auto at = preferences.keys.begin(); at != preferences.keys.end(); ++at)
        out.setValue(QStringLiteral("keys/") + at.key(), at.value().toString(QKeySequence::PortableText));
    out.beginWriteArray(QStringLiteral("distances"));
    int place = 0;
    for (auto at = preferences.distances.begin(); at != preferences.distances.end(); ++at) {
        out.setArrayIndex(place++);
        out.setValue(QStringLiteral("driver"), at.key());
        out.setValue(QStringLiteral("metres"), at.value());
    }
    out.endArray();
    out.sync();
    return out.status() == QSettings::NoError;
}

QStringList withRecent(QStringList worlds, const QString& world)
{
    worlds.removeAll(world);
    worlds.prepend(world);
    return worlds.mid(0, kRecentWorlds);
}

} // namespace fell::app
