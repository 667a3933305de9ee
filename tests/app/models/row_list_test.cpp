// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/all_names.h"
#include <fell/app/models/row_list.h>

#include <QAbstractItemModelTester>
#include <QPersistentModelIndex>
#include <QSignalSpy>
#include <gtest/gtest.h>

namespace fell::row_list_test {
namespace {

std::vector<ListRow> rowsOf(const std::vector<const char*>& keys)
{
    std::vector<ListRow> rows;
    for (const char* key : keys) {
        rows.emplace_back().key = QString::fromUtf8(key);
        rows.back().text = rows.back().key.toUpper();
    }
    return rows;
}

QString textsOf(const RowList& list)
{
    QString all;
    for (int row = 0; row < list.rowCount(); ++row)
        all += list.index(row).data().toString();
    return all;
}

TEST(RowList, ChangesOnlyTheRowsWhoseKeysChange)
{
    RowList list;
    const QAbstractItemModelTester tester(&list, QAbstractItemModelTester::FailureReportingMode::Fatal);
    list.set(rowsOf({"a", "b", "c", "d"}));
    EXPECT_EQ(textsOf(list), "ABCD");
    const QPersistentModelIndex first = list.index(0), second = list.index(1), last = list.index(3);
    QSignalSpy resets(&list, &QAbstractItemModel::modelReset);
    list.set(rowsOf({"a", "x", "y", "d"}));
    EXPECT_EQ(textsOf(list), "AXYD");
    EXPECT_EQ(first.row(), 0);
    EXPECT_FALSE(second.isValid());
    EXPECT_EQ(last.row(), 3);
    // Longer, shorter, empty, and with the same row twice in a run.
    for (const auto& keys : std::vector<std::vector<const char*>>{
             {"a", "x", "y", "z", "d"}, {"a", "d"}, {"d"}, {}, {"a", "a", "a"}, {"a", "a"}}) {
        list.set(rowsOf(keys));
        EXPECT_EQ(list.rowCount(), static_cast<int>(keys.size()));
    }
    EXPECT_EQ(resets.count(), 0) << "a view would scroll to its top";
}

TEST(RowList, ATitleIsNoRowToChooseAndABoxAsksWithoutChangingByItself)
{
    RowList list;
    std::vector<ListRow> rows = rowsOf({"", "on", "plain", "dull"});
    rows[1].isOn = true;
    rows[3].isEnabled = false;
    list.set(rows);
    EXPECT_EQ(list.index(0).flags(), Qt::NoItemFlags);
    EXPECT_TRUE(list.index(1).flags() & Qt::ItemIsUserCheckable);
    EXPECT_FALSE(list.index(2).flags() & Qt::ItemIsUserCheckable);
    EXPECT_EQ(list.index(3).flags(), Qt::NoItemFlags);
    EXPECT_FALSE(list.find(QString()).isValid()) << "a title has no key to be found by";
    EXPECT_FALSE(list.find("other").isValid());
    EXPECT_EQ(list.find("plain").row(), 2);
    QSignalSpy switched(&list, &RowList::switched);
    EXPECT_TRUE(list.setData(list.index(1), Qt::Unchecked, Qt::CheckStateRole));
    EXPECT_FALSE(list.setData(list.index(2), Qt::Unchecked, Qt::CheckStateRole));
    ASSERT_EQ(switched.count(), 1);
    EXPECT_EQ(switched[0][0].toString(), "on");
    EXPECT_FALSE(switched[0][1].toBool());
    EXPECT_EQ(list.index(1).data(Qt::CheckStateRole).toInt(), Qt::Checked);
}

} // namespace
} // namespace fell::row_list_test
