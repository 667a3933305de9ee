// SPDX-License-Identifier: GPL-3.0-or-later
// All actions with their keys, which can be changed there.
#pragma once

#include <fell/app/views/action_table.h>

#include <QAbstractTableModel>
#include <QDialog>

class QLabel;
class QLineEdit;
class QSortFilterProxyModel;
class QTableView;

namespace fell::app {

class KeysModel : public QAbstractTableModel {
    Q_OBJECT
public:
    /// The table must outlive it.
    explicit KeysModel(ActionTable& actions, QObject* parent = nullptr);

    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    /// Refused, with a sentence, where another action has these keys.
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;
    void resetAll();

signals:
    void refused(const QString& sentence);
    void accepted();

private:
    ActionTable& m_actions;
};

class KeysDialog : public QDialog {
    Q_OBJECT
public:
    explicit KeysDialog(ActionTable& actions, QWidget* parent = nullptr);

private:
    KeysModel* m_model;
    QSortFilterProxyModel* m_found;
    QLineEdit* m_search;
    QTableView* m_table;
    QLabel* m_says;
};

} // namespace fell::app
