// SPDX-License-Identifier: GPL-3.0-or-later
// Finds any action of the window by its name.
#pragma once

#include <fell/app/models/row_list.h>

#include <QDialog>
#include <QList>

class QAction;
class QLineEdit;
class QListView;

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
    RowList m_rows; // keys: places in m_actions
    QListView* m_list;
};

} // namespace fell::app
