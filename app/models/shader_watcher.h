// SPDX-License-Identifier: GPL-3.0-or-later
// Tells when the files of the folder of shaders have changed.
#pragma once

#include <fell/namespaces.h>

#include <QDateTime>
#include <QFileSystemWatcher>
#include <QMap>
#include <QTimer>

namespace fell::app {

class ShaderWatcher : public QObject {
    Q_OBJECT
public:
    /// An empty folder is not observed.
    explicit ShaderWatcher(QString folder, QObject* parent = nullptr);

signals:
    void changed(); // once for what is written together

private:
    using Stamps = QMap<QString, std::pair<QDateTime, qint64>>;
    [[nodiscard]] Stamps stampsNow();
    void lookAgain();

    QString m_folder;
    QFileSystemWatcher m_watcher;
    QTimer m_settle;
    Stamps m_seen;
};

} // namespace fell::app
