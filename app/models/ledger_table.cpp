// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/ledger_table.h>

#include <fell/app/models/text.h>

#include <QDateTime>

#include <array>

namespace fell::app {
namespace {

struct Column {
    const char* title;
    bool isNumber;
    QString (*text)(const TrialEntry&);
};

QString dateText(const TrialEntry& entry)
{
    const auto when = QDateTime::fromString(QString::fromStdString(entry.date), Qt::ISODate);
    return when.isValid() ? when.toLocalTime().toString(QStringLiteral("yyyy-MM-dd hh:mm"))
                          : QString::fromStdString(entry.date);
}

QString auditText(const TrialEntry& entry)
{
    return !entry.auditDifferences     ? QStringLiteral("none")
        : *entry.auditDifferences == 0 ? QObject::tr("held")
                                       : QObject::tr("FAILED: %1").arg(countText(*entry.auditDifferences));
}

constexpr int kTags = 9;
const std::array<Column, 11> kColumns{{
    {"no.", true, [](const TrialEntry& e) { return QString::number(e.id); }},
    {"baseline", false, [](const TrialEntry& e) { return e.isPinned ? QObject::tr("pinned") : QString(); }},
    {"when", false, dateText},
    {"world", false, [](const TrialEntry& e) { return QString::fromStdString(e.world); }},
    {"varied", false, [](const TrialEntry& e) { return QString::fromStdString(e.varied); }},
    {"setups", false,
        [](const TrialEntry& e) {
            return QString::fromStdString(e.setups) + (e.isStopped ? QObject::tr(" (stopped)") : QString());
        }},
    {"frame ms", true, [](const TrialEntry& e) { return e.frameMs > 0 ? figureText(e.frameMs) : QStringLiteral("–"); }},
    {"mesh µs", true, [](const TrialEntry& e) { return figureText(e.meshNs / 1000); }},
    {"audit", false, auditText},
    {"tags", false, [](const TrialEntry& e) { return QString::fromStdString(e.tags); }},
    {"found", false, [](const TrialEntry& e) { return QString::fromStdString(e.finding); }},
}};

} // namespace

int LedgerTable::tagsColumn()
{
    return kTags;
}

void LedgerTable::show(std::vector<TrialEntry> entries)
{
    beginResetModel();
    m_entries = std::move(entries);
    endResetModel();
}

int LedgerTable::rowCount(const QModelIndex& parent) const
{
    return parent.isValid() ? 0 : static_cast<int>(m_entries.size());
}

int LedgerTable::columnCount(const QModelIndex& parent) const
{
    return parent.isValid() ? 0 : static_cast<int>(kColumns.size());
}

QVariant LedgerTable::data(const QModelIndex& index, int role) const
{
    if (!index.isValid() || index.row() >= rowCount() || index.column() >= columnCount())
        return {};
    const TrialEntry& of = entry(index.row());
    const Column& column = kColumns[static_cast<std::size_t>(index.column())];
    if (role == Qt::DisplayRole || role == Qt::EditRole)
        return column.text(of);
    if (role == Qt::TextAlignmentRole)
        return QVariant((column.isNumber ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter);
    if (role == Qt::ToolTipRole)
        return index.column() == kTags && of.tags.empty()
            ? tr("Double-click to write words to find this trial by.")
            : tr("%1\n%2, seed %3, %4\n%5\n%6, commit %7")
                  .arg(QString::fromStdString(of.finding), QString::fromStdString(of.world))
                  .arg(of.seed)
                  .arg(QString::fromStdString(of.route), QString::fromStdString(of.processor),
                      of.driver.empty() ? tr("nothing drawn") : QString::fromStdString(of.driver),
                      QString::fromStdString(of.commit));
    return {};
}

QVariant LedgerTable::headerData(int section, Qt::Orientation orientation, int role) const
{
    if (orientation != Qt::Horizontal || section < 0 || section >= columnCount())
        return {};
    const Column& column = kColumns[static_cast<std::size_t>(section)];
    if (role == Qt::TextAlignmentRole)
        return QVariant((column.isNumber ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter);
    return role == Qt::DisplayRole ? QVariant(QString::fromUtf8(column.title)) : QVariant();
}

Qt::ItemFlags LedgerTable::flags(const QModelIndex& index) const
{
    return QAbstractTableModel::flags(index) | (index.column() == kTags ? Qt::ItemIsEditable : Qt::NoItemFlags);
}

bool LedgerTable::setData(const QModelIndex& index, const QVariant& value, int role)
{
    if (role != Qt::EditRole || index.column() != kTags || !index.isValid())
        return false;
    const QString tags = value.toString().simplified().left(200);
    m_entries[static_cast<std::size_t>(index.row())].tags = tags.toStdString();
    emit dataChanged(index, index);
    emit tagged(entry(index.row()).id, tags);
    return true;
}

} // namespace fell::app

#include "moc_ledger_table.cpp"
