// SPDX-License-Identifier: GPL-3.0-or-later
// One background task at a time: it runs on a separate thread; the window thread gets the result.
#pragma once

#include <fell/namespaces.h>

#include <QObject>

#include <functional>
#include <thread>

namespace fell::app {

class BackgroundTask : public QObject {
    Q_OBJECT
public:
    using QObject::QObject;
    ~BackgroundTask() override { stop(); }

    void stop() { m_thread.request_stop(); }
    [[nodiscard]] bool isRunning() const { return m_running; }

signals:
    void changed(); // it has begun, ended or been stopped
    void broke(const QString& sentence); // it ran out of memory, or met an error that nothing foresaw

protected:
    /// Runs `work` on a thread; what it returns is called on the window's, before `changed`. Nothing happens while
    /// another runs.
    using Done = std::function<void()>;
    void start(std::function<Done(const std::stop_token&)> work)
    {
        if (m_running)
            return;
        m_running = true;
        emit changed();
        m_thread = std::jthread([this, work = std::move(work)](const std::stop_token& stop) {
            Done done;
            try {
                done = work(stop);
            } catch (const std::exception& error) {
                done = [this, what = QString::fromUtf8(error.what())] {
                    emit broke(tr("Stopped by an unexpected error: %1").arg(what));
                };
            }
            QMetaObject::invokeMethod(this, [this, done = std::move(done)] {
                m_running = false;
                if (done)
                    done();
                emit changed();
            });
        });
    }

private:
    bool m_running = false;
    std::jthread m_thread; // last: ends first
};

} // namespace fell::app
