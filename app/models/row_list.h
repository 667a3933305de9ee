// SPDX-License-Identifier: GPL-3.0-or-later
// What a list of the window shows: rows with a key each, of which some can be switched on and off.
#pragma once

#include <fell/namespaces.h>

#include <QAbstractListModel>
#include <QIcon>

#include <optional>
#include <vector>

namespace fell::app {

struct ListRow {
    QString key; // unique in the list; a row without one is a title between rows
    QString text, detail, aside, toolTip;
    QIcon icon;
    bool isEnabled = true;
    std::optional<bool> isOn; // it has a check box
    std::optional<double> share, maxShare; // of the whole cost, 0 to 1; at most, where it was not told apart from 0
};

class RowList : public QAbstractListModel {
    Q_OBJECT
public:
    /// Next to Qt's: display, decoration, tool tip and check state.
    enum Role { Key = Qt::UserRole, Detail, Aside, Share, MaxShare };

    using QAbstractListModel::QAbstractListModel;

    /// Rows whose keys stay at the begin and at the end change in place: a view keeps its current row and where it was
    /// scrolled to.
    void set(std::vector<ListRow> rows);
    [[nodiscard]] const std::vector<ListRow>& rows() const { return m_rows; }
    [[nodiscard]] QModelIndex find(const QString& key) const; // invalid without it

    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    /// Of a check box alone. The row keeps its state until `set` brings another one.
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;

signals:
    void switched(const QString& key, bool isOn);

private:
    std::vector<ListRow> m_rows;
};

} // namespace fell::app
