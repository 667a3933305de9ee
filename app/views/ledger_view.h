// SPDX-License-Identifier: GPL-3.0-or-later
// Every trial that was kept: found by words, shown, compared two at a time, pinned, carried elsewhere.
#pragma once

#include <fell/app/models/ledger_keeper.h>
#include <fell/app/models/ledger_table.h>

#include <QWidget>

class QLabel;
class QLayout;
class QLineEdit;
class QPushButton;
class QTableView;

namespace fell::app {

class LedgerView : public QWidget {
    Q_OBJECT
public:
    explicit LedgerView(LedgerKeeper& keeper, QWidget* parent = nullptr);
    [[nodiscard]] int count() const { return m_model->rowCount(); }

signals:
    void counted(int trials);

private:
    QLayout* buildTools();
    void buildTable();
    void enableButtons();
    void askExport();
    void askImport();
    void askRemove();
    [[nodiscard]] std::vector<std::int64_t> selected() const; // numbers, from the top

    LedgerKeeper& m_keeper;
    LedgerTable* m_model = nullptr;
    QTableView* m_table = nullptr;
    QLineEdit* m_search = nullptr;
    QLabel* m_empty = nullptr;
    QPushButton *m_show = nullptr, *m_compare = nullptr, *m_pin = nullptr, *m_remove = nullptr, *m_export = nullptr;
};

} // namespace fell::app
