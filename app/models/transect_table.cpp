// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/transect_table.h>

#include <nlohmann/json.hpp>

#include <fell/app/models/text.h>
#include <fell/measure/findings.h>

#include <array>

namespace fell::app {
namespace {

struct Column {
    const char* title;
    QString (*text)(const TransectRow&);
};

QString frameText(const TransectRow& row, double value)
{
    return row.frameMs.count ? figureText(value) : QStringLiteral("–");
}

/// Of one change.
QString eachText(const ChurnCost& cost, std::uint64_t sum)
{
    return cost.changes ? figureText(static_cast<double>(sum) / static_cast<double>(cost.changes))
                        : QStringLiteral("–");
}

/// The last ones are for trials in which something changes.
constexpr int kAlways = 14, kReferences = 4, kGround = 5, kVoxel = 6;
const std::array<Column, 17> kColumns{{
    {"setup",
        [](const TransectRow& r) {
            return QStringLiteral("%1 %2").arg(QLatin1Char(r.side)).arg(QString::fromStdString(r.setup));
        }},
    {"value",
        [](const TransectRow& r) {
            return QString::fromStdString(shownPlace(r.value, r.second))
                + (r.full ? QStringLiteral(" (memory full)") : QString());
        }},
    {"mesh µs", [](const TransectRow& r) { return figureText(r.meshNs.p50 / 1000); }},
    {"p95 µs", [](const TransectRow& r) { return figureText(r.meshNs.p95 / 1000); }},
    {"in refs",
        [](const TransectRow& r) {
            return r.meshInReferences > 0 ? QString::number(r.meshInReferences, 'f', 3) : QString();
        }},
    {"ms / km²",
        [](const TransectRow& r) { return r.meshMsPerSquareKm > 0 ? figureText(r.meshMsPerSquareKm) : QString(); }},
    {"ns / voxel",
        [](const TransectRow& r) { return r.meshNsPerVoxel > 0 ? figureText(r.meshNsPerVoxel) : QString(); }},
    {"frame ms", [](const TransectRow& r) { return frameText(r, r.frameMs.p50); }},
    {"p95 ms", [](const TransectRow& r) { return frameText(r, r.frameMs.p95); }},
    {"p99 ms", [](const TransectRow& r) { return frameText(r, r.frameMs.p99); }},
    {"ready s", [](const TransectRow& r) { return figureText(r.readySeconds); }},
    {"chunks", [](const TransectRow& r) { return countText(r.residentChunks); }},
    {"triangles", [](const TransectRow& r) { return countText(r.triangles); }},
    {"bytes", [](const TransectRow& r) { return bytesText(r.gpuBytes); }},
    {"changes ms", [](const TransectRow& r) { return figureText(r.churn.readyMs.p50); }},
    {"remeshed", [](const TransectRow& r) { return eachText(r.churn, r.churn.meshed); }},
    {"relit", [](const TransectRow& r) { return eachText(r.churn, r.churn.relitVoxels); }},
}};

QString tipOf(int column)
{
    return column == kReferences ? TransectTable::tr("Mesh p50 over the time of a fixed chunk, the reference, that was "
                                                     "meshed in between on the same threads: hardly depends on the "
                                                     "machine's clock.")
        : column == 2            ? TransectTable::tr("Building the mesh of one chunk, p50.")
        : column == 7            ? TransectTable::tr("Until the picture was finished, p50.")
        : column == kGround ? TransectTable::tr("Thread time of all meshes of the first view over the ground within "
                                                "the render distance: compares chunk edges.")
        : column == kVoxel  ? TransectTable::tr("Mesh p50 over the voxels of a chunk.")
        : column < kAlways  ? QString()
        : column == kAlways ? TransectTable::tr("Until all meshes of a frame's changes are there, p50.")
        : column == kAlways + 1 ? TransectTable::tr("Chunks meshed again for one change.")
                                : TransectTable::tr("Voxels whose light one change alters.");
}

} // namespace

void TransectTable::show(const TransectResult& result)
{
    beginResetModel();
    m_result = result;
    endResetModel();
}

int TransectTable::rowCount(const QModelIndex& parent) const
{
    return parent.isValid() ? 0 : static_cast<int>(m_result.rows.size());
}

int TransectTable::columnCount(const QModelIndex& parent) const
{
    return parent.isValid() ? 0 : m_result.churn.kind == ChurnKind::None ? kAlways : static_cast<int>(kColumns.size());
}

QVariant TransectTable::data(const QModelIndex& index, int role) const
{
    if (!index.isValid() || index.row() >= rowCount() || index.column() >= columnCount())
        return {};
    if (role == Qt::DisplayRole)
        return kColumns[static_cast<std::size_t>(index.column())].text(
            m_result.rows[static_cast<std::size_t>(index.row())]);
    if (role == Qt::TextAlignmentRole)
        return QVariant(index.column() == 0 ? Qt::AlignLeft | Qt::AlignVCenter : Qt::AlignRight | Qt::AlignVCenter);
    return {};
}

QVariant TransectTable::headerData(int section, Qt::Orientation orientation, int role) const
{
    if (orientation != Qt::Horizontal || section < 0 || section >= columnCount())
        return {};
    if (role == Qt::TextAlignmentRole)
        return QVariant(section == 0 ? Qt::AlignLeft | Qt::AlignVCenter : Qt::AlignRight | Qt::AlignVCenter);
    if (role == Qt::ToolTipRole)
        return tipOf(section);
    if (role != Qt::DisplayRole)
        return {};
    if (section == 1 && !m_result.vary.empty()) {
        const auto titleOf = [](const std::string& path) {
            const SetupField* field = findField(path);
            return QString::fromStdString(field ? field->title : path);
        };
        return m_result.second.empty() ? titleOf(m_result.vary)
                                       : tr("%1 × %2").arg(titleOf(m_result.vary), titleOf(m_result.second));
    }
    return QString::fromUtf8(kColumns[static_cast<std::size_t>(section)].title);
}

} // namespace fell::app

#include "moc_transect_table.cpp"
