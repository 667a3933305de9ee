// SPDX-License-Identifier: GPL-3.0-or-later
// How a layer of a recipe is shown in the list of layers.
#pragma once

#include <fell/app/models/row_list.h>

#include <QStyledItemDelegate>

namespace fell::app {

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
