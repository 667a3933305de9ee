// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/row_list.h>

#include <algorithm>
#include <iterator>

namespace fell::app {

void RowList::set(std::vector<ListRow> rows)
{
    const auto isSame = [](const ListRow& a, const ListRow& b) { return a.key == b.key; };
    const auto length = static_cast<std::ptrdiff_t>(std::min(rows.size(), m_rows.size()));
    const std::ptrdiff_t head
        = std::mismatch(rows.begin(), rows.begin() + length, m_rows.begin(), isSame).first - rows.begin();
    const std::ptrdiff_t tail
        = std::mismatch(rows.rbegin(), rows.rbegin() + (length - head), m_rows.rbegin(), isSame).first - rows.rbegin();
    if (const auto gone = std::ssize(m_rows) - head - tail; gone > 0) {
        beginRemoveRows({}, static_cast<int>(head), static_cast<int>(head + gone - 1));
        m_rows.erase(m_rows.begin() + head, m_rows.begin() + head + gone);
        endRemoveRows();
    }
    if (const auto added = std::ssize(rows) - head - tail; added > 0) {
        beginInsertRows({}, static_cast<int>(head), static_cast<int>(head + added - 1));
        m_rows.insert(m_rows.begin() + head, rows.begin() + head, rows.begin() + head + added);
        endInsertRows();
    }
    m_rows = std::move(rows);
    if (!m_rows.empty())
        emit dataChanged(index(0), index(static_cast<int>(m_rows.size()) - 1));
}

QModelIndex RowList::find(const QString& key) const
{
    if (key.isEmpty())
        return {};
    const auto found = std::find_if(m_rows.begin(), m_rows.end(), [&](const ListRow& row) { return row.key == key; });
    return found == m_rows.end() ? QModelIndex() : index(static_cast<int>(found - m_rows.begin()));
}

int RowList::rowCount(const QModelIndex& parent) const
{
    return parent.isValid() ? 0 : static_cast<int>(m_rows.size());
}

QVariant RowList::data(const QModelIndex& index, int role) const
{
    if (!index.isValid())
        return {};
    const ListRow& row = m_rows[static_cast<std::size_t>(index.row())];
    const auto number = [](const std::optional<double>& of) { return of ? QVariant(*of) : QVariant(); };
    switch (role) {
    case Qt::DisplayRole:
        return row.text;
    case Qt::DecorationRole:
        return row.icon.isNull() ? QVariant() : QVariant(row.icon);
    case Qt::ToolTipRole:
        return row.toolTip.isEmpty() ? QVariant() : QVariant(row.toolTip);
    case Qt::AccessibleTextRole:
        return QStringList({row.text, row.detail, row.aside}).join(QLatin1Char(' ')).simplified();
    case Qt::CheckStateRole:
        return row.isOn ? QVariant(*row.isOn ? Qt::Checked : Qt::Unchecked) : QVariant();
    case Key:
        return row.key;
    case Detail:
        return row.detail;
    case Aside:
        return row.aside;
    case Share:
        return number(row.share);
    case MaxShare:
        return number(row.maxShare);
    default:
        return {};
    }
}

Qt::ItemFlags RowList::flags(const QModelIndex& index) const
{
    if (!index.isValid())
        return Qt::NoItemFlags;
    const ListRow& row = m_rows[static_cast<std::size_t>(index.row())];
    if (row.key.isEmpty() || !row.isEnabled)
        return Qt::NoItemFlags;
    return Qt::ItemIsEnabled | Qt::ItemIsSelectable | (row.isOn ? Qt::ItemIsUserCheckable : Qt::NoItemFlags);
}

bool RowList::setData(const QModelIndex& index, const QVariant& value, int role)
{
    if (role != Qt::CheckStateRole || !(flags(index) & Qt::ItemIsUserCheckable))
        return false;
    emit switched(m_rows[static_cast<std::size_t>(index.row())].key, value.toInt() == Qt::Checked);
    return true;
}

} // namespace fell::app

#include "moc_row_list.cpp"
