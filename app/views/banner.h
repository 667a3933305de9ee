// SPDX-License-Identifier: GPL-3.0-or-later
// One sentence across the window that something went wrong or was done; it waits to be read and blocks nothing.
#pragma once

#include <fell/namespaces.h>

#include <QFrame>

class QLabel;

namespace fell::app {

class Banner : public QFrame {
    Q_OBJECT
public:
    explicit Banner(QWidget* parent = nullptr);
    void trouble(const QString& sentence);
    void note(const QString& sentence); // disappears after some seconds
    [[nodiscard]] QString text() const;

private:
    void say(const QString& sentence, bool bad);
    QLabel* m_text;
    class QTimer* m_timer;
};

} // namespace fell::app
