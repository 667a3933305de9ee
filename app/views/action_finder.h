// SPDX-License-Identifier: GPL-3.0-or-later
// Finds any action of the window by its name.
#pragma once

#include <fell/namespaces.h>

#include <QDialog>
#include <QList>

class QAction;
class QLineEdit;
class QListWidget;

namespace fell::app {

class ActionFinder : public QDialog {
    Q_OBJECT
public:
    ActionFinder(const QList<QAction*>& actions, QWidget* parent);

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    void filter(const QString& text);
    void runCurrent();
    QList<QAction*> m_actions;
    QLineEdit* m_edit;
    QListWidget* m_list;
};

} // namespace fell::app
