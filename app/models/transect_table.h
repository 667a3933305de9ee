// SPDX-License-Identifier: GPL-3.0-or-later
// A transect's rows as a table.
#pragma once

#include <fell/measure/transect.h>

#include <QAbstractTableModel>

namespace fell::app {

class TransectTable : public QAbstractTableModel {
    Q_OBJECT
public:
    using QAbstractTableModel::QAbstractTableModel;

    void show(const TransectResult& result);

    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

private:
    TransectResult m_result;
};

} // namespace fell::app
