// SPDX-License-Identifier: GPL-3.0-or-later
// Holds the field's window, or says why there is none.
#pragma once

#include <fell/app/views/field_window.h>

#include <QLabel>
#include <QStackedWidget>

namespace fell::app {

class FieldView : public QStackedWidget {
    Q_OBJECT
public:
    explicit FieldView(WorldSession& session, QWidget* parent = nullptr);

    /// Null where the machine has no OpenGL 4.5, which is known a moment after the start.
    [[nodiscard]] FieldWindow* window() { return m_window; }
    [[nodiscard]] QString trouble() const { return m_trouble; }

private:
    void showTrouble(const QString& sentence);
    FieldWindow* m_window;
    QWidget* m_container; // of m_window
    QLabel* m_message;
    QString m_trouble;
};

} // namespace fell::app
