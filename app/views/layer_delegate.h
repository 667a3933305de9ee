// SPDX-License-Identifier: GPL-3.0-or-later
// How a layer of a recipe is shown in the list of layers.
#pragma once

#include <QStyledItemDelegate>

namespace fell::app {

/// Roles of the list's items; an item without a pointer is the title of a group.
constexpr int kPointerRole = Qt::UserRole, kWhatRole = Qt::UserRole + 1, kShareRole = Qt::UserRole + 2,
              kMaxRole = Qt::UserRole + 3; // the most that a cost can be that was not told apart from 0

/// A layer as a plate: on or off, its name, what it is, its share of the cost.
class LayerDelegate : public QStyledItemDelegate {
public:
    using QStyledItemDelegate::QStyledItemDelegate;

    QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override;
    void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override;
    bool editorEvent(QEvent* event, QAbstractItemModel* model, const QStyleOptionViewItem& option,
        const QModelIndex& index) override;
};

} // namespace fell::app
