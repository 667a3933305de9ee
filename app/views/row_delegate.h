// SPDX-License-Identifier: GPL-3.0-or-later
// How a row of a list is shown: its icon, its name, what more there is to say below it, and a word at the right.
#pragma once

#include <fell/app/models/row_list.h>

#include <QStyledItemDelegate>

class QListView;

namespace fell::app {

class RowDelegate : public QStyledItemDelegate {
public:
    using QStyledItemDelegate::QStyledItemDelegate;

    QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override;
    void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override;
};

/// A view of `rows`, without a frame and without a horizontal scroll bar.
QListView* newListView(
    const char* objectName, const QString& name, RowList& rows, QStyledItemDelegate* delegate, QWidget* parent);
/// The key of the current row; empty without one.
QString currentKey(const QListView& list);
/// Makes the row of this key the current one, if there is one.
void makeCurrent(QListView& list, const QString& key);

} // namespace fell::app
