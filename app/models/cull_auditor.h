// SPDX-License-Identifier: GPL-3.0-or-later
// Holds every cull step against the picture, in the background: the world in use, around the camera.
#pragma once

#include <fell/audit/cull_audit.h>

#include <QObject>
#include <QString>

#include <memory>
#include <optional>
#include <thread>

namespace fell::app {

class CullAuditor : public QObject {
    Q_OBJECT
public:
    explicit CullAuditor(QObject* parent = nullptr);
    ~CullAuditor() override;

    /// The first view is `eye`, the others are along the demo route of the world, or by chance where it has none. Draws
    /// on a separate thread and context, with one worker.
    void start(std::shared_ptr<const Terrain> terrain, const Setup& setup, const Eye& eye, int views);
    void stop();
    [[nodiscard]] bool isRunning() const { return m_running; }
    [[nodiscard]] double share() const { return m_share; }
    /// The last one that ended; nothing before.
    [[nodiscard]] const std::optional<CullAuditResult>& result() const { return m_result; }
    [[nodiscard]] const QString& trouble() const { return m_trouble; } // why there is none

signals:
    void changed(); // it has begun, ended or been stopped
    void progressed(double share);

private:
    std::optional<CullAuditResult> m_result;
    QString m_trouble;
    double m_share = 0;
    bool m_running = false;
    std::jthread m_thread; // last: ends first
};

} // namespace fell::app
