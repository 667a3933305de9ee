// SPDX-License-Identifier: GPL-3.0-or-later
// The trials of the ledger as a table.
#pragma once

#include <fell/measure/ledger.h>

#include <QAbstractTableModel>

namespace fell::app {

class LedgerTable : public QAbstractTableModel {
    Q_OBJECT
public:
    using QAbstractTableModel::QAbstractTableModel;

    void show(std::vector<TrialEntry> entries);
    [[nodiscard]] const TrialEntry& entry(int row) const { return m_entries[static_cast<std::size_t>(row)]; }
    static int tagsColumn();

    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    /// Tags are written in their cell.
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;

signals:
    void tagged(std::int64_t id, const QString& tags);

private:
    std::vector<TrialEntry> m_entries;
};

} // namespace fell::app
