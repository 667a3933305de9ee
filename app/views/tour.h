// SPDX-License-Identifier: GPL-3.0-or-later
// Shows every view once by itself, keeps pictures and a result, and ends: for machines without a screen, and for the
// README.
#pragma once

#include <fell/app/views/main_window.h>

#include <QDir>
#include <QObject>
#include <QTimer>

#include <deque>
#include <functional>

namespace fell::app {

class Tour : public QObject {
    Q_OBJECT
public:
    Tour(MainWindow& window, const QString& folder);
    void start();

signals:
    /// `trouble` is empty if everything was written.
    void ended(const QString& trouble);

private:
    /// A step is tried every 100 ms until it says true; a step that takes longer than a minute ends the tour.
    using Step = std::function<bool()>;
    void tick();
    void cullTab(int index);
    void keep(const char* name);
    [[nodiscard]] Step wait(int ms);

    MainWindow& m_window;
    QDir m_folder;
    std::deque<Step> m_steps;
    QTimer m_timer;
    QElapsedTimer m_since;
    QString m_trouble;
};

} // namespace fell::app
