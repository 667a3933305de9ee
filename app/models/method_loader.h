// SPDX-License-Identifier: GPL-3.0-or-later
// Meshers from shared libraries: checked in a separate process, loaded, and loaded again when their file changes.
#pragma once

#include <fell/app/models/background_task.h>

#include <QDateTime>
#include <QFileSystemWatcher>
#include <QMap>
#include <QProcess>
#include <QSet>
#include <QTimer>

namespace fell::app {

/// The program that checks methods: fell-app, next to this program or in the folder above.
QString checkerProgram();

class MethodLoader : public BackgroundTask {
    Q_OBJECT
public:
    explicit MethodLoader(QString checker = checkerProgram(), QObject* parent = nullptr);
    ~MethodLoader() override;

    /// Checks a library, adds its mesher to the table and watches the file. Ends in loaded or refused. While another
    /// is checked this one waits.
    void load(const QString& file);
    /// Ends the check that runs; nothing is loaded, nothing is said.
    void cancel();
    /// What is checked now; empty: nothing.
    [[nodiscard]] const QString& checking() const { return m_checking; }
    /// The mesher of the newest build of each file.
    [[nodiscard]] QStringList newest() const { return m_ids.values(); }

signals:
    void busyChanged(); // a check has begun or ended
    /// `before`: the mesher that the same file gave before it was built again; empty: it was asked for.
    void loaded(const QString& id, const QString& before);
    void refused(const QString& sentence);

private:
    struct Stamp {
        qint64 size = -1;
        QDateTime written;
        bool operator==(const Stamp&) const = default;
    };
    static Stamp stampOf(const QString& file);
    void next();
    void end();
    void refuse(const QString& file, const QString& sentence);
    void wait(const QString& path);
    void readCheck();
    void loadChecked(const std::string& hash);
    void lookAgain();

    QString m_checker, m_checking;
    QStringList m_waiting;
    QSet<QString> m_asked; // by the user, not by the watcher
    QMap<QString, QString> m_ids; // by absolute path
    QMap<QString, Stamp> m_seen, m_last; // what was loaded; what the last look found
    QFileSystemWatcher m_watcher;
    QTimer m_settle, m_limit;
    QProcess m_check;
};

} // namespace fell::app
