// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/layer_delegate.h>

#include <fell/app/views/theme.h>

#include <QMouseEvent>
#include <QPainter>

#include <algorithm>

namespace fell::app {
namespace {

constexpr int kLayerHigh = 40, kGroupHigh = 24, kCheckWide = 30, kBarWide = 54, kShareWide = 54;

/// The layer's name and what it is, one above the other.
void paintWords(QPainter& painter, const QRectF& words, const QModelIndex& index)
{
    const Theme& theme = currentTheme();
    painter.setFont(uiFont(12, true));
    painter.setPen(theme.ink);
    painter.drawText(words.adjusted(0, 3, 0, -words.height() / 2 + 2), Qt::AlignVCenter,
        painter.fontMetrics().elidedText(index.data().toString(), Qt::ElideRight, static_cast<int>(words.width())));
    painter.setFont(uiFont(11));
    painter.setPen(theme.muted);
    painter.drawText(words.adjusted(0, words.height() / 2 - 1, 0, -2), Qt::AlignVCenter,
        painter.fontMetrics().elidedText(
            index.data(RowList::Detail).toString(), Qt::ElideRight, static_cast<int>(words.width())));
}

/// What it costs of the whole, as a bar and a number.
void paintShare(QPainter& painter, const QRectF& plate, double right, const QModelIndex& index, bool isOn)
{
    const Theme& theme = currentTheme();
    const QVariant share = index.data(RowList::Share), max = index.data(RowList::MaxShare);
    const QRectF bar(right, plate.center().y() - 3, kBarWide, 6);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme.track);
    painter.drawRoundedRect(bar, 3, 3);
    if (share.isValid() && !max.isValid()) {
        painter.setBrush(theme.muted);
        painter.drawRoundedRect(
            QRectF(bar.left(), bar.top(), std::max(2.0, bar.width() * std::min(1.0, share.toDouble())), 6), 3, 3);
    }
    painter.setFont(uiFont(12));
    painter.setPen(max.isValid() ? theme.muted : theme.ink);
    const QString text = max.isValid()
        ? QStringLiteral("< %1 %").arg(std::max(0.1, max.toDouble() * 100), 0, 'f', max.toDouble() < 0.0995 ? 1 : 0)
        : share.isValid()
        ? QStringLiteral("%1 %").arg(share.toDouble() * 100, 0, 'f', share.toDouble() < 0.0995 ? 1 : 0)
        : isOn ? QStringLiteral("…")
               : QStringLiteral("off");
    painter.drawText(
        QRectF(bar.right() + 4, plate.top(), kShareWide - 6, plate.height()), Qt::AlignRight | Qt::AlignVCenter, text);
}

} // namespace

QSize LayerDelegate::sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const
{
    return {option.rect.width(), index.data(RowList::Key).toString().isEmpty() ? kGroupHigh : kLayerHigh};
}

void LayerDelegate::paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const
{
    const Theme& theme = currentTheme();
    const QRect at = option.rect;
    painter->save();
    painter->setRenderHint(QPainter::Antialiasing);
    if (index.data(RowList::Key).toString().isEmpty()) {
        painter->setFont(uiFont(11, true));
        painter->setPen(theme.muted);
        painter->drawText(at.adjusted(4, 4, 0, 0), Qt::AlignVCenter, index.data().toString());
        painter->restore();
        return;
    }
    const QRectF plate = QRectF(at).adjusted(1, 1.5, -1, -1.5);
    const bool isSelected = option.state & QStyle::State_Selected;
    painter->setPen(QPen(isSelected ? theme.selection : theme.line, isSelected ? 1.6 : 1));
    painter->setBrush(theme.panel);
    painter->drawRoundedRect(plate, 4, 4);
    const bool isOn = index.data(Qt::CheckStateRole).toInt() == Qt::Checked;
    const QRectF box(plate.left() + 9, plate.center().y() - 6.5, 13, 13);
    painter->setPen(QPen(theme.muted, 1.2));
    painter->drawRoundedRect(box, 2.5, 2.5);
    if (isOn) {
        painter->setPen(QPen(theme.ink, 1.8));
        painter->drawPolyline(QPolygonF{
            box.topLeft() + QPointF(3, 7), box.topLeft() + QPointF(5.5, 9.5), box.topLeft() + QPointF(10, 3.5)});
    }
    painter->setOpacity(isOn ? 1 : 0.5);
    const double right = plate.right() - kShareWide - kBarWide - 8;
    const QRectF words(plate.left() + kCheckWide, plate.top(), right - plate.left() - kCheckWide - 6, plate.height());
    paintWords(*painter, words, index);
    paintShare(*painter, plate, right, index, isOn);
    painter->restore();
}

bool LayerDelegate::editorEvent(
    QEvent* event, QAbstractItemModel* model, const QStyleOptionViewItem& option, const QModelIndex& index)
{
    if (event->type() != QEvent::MouseButtonRelease || !(index.flags() & Qt::ItemIsUserCheckable)
        || static_cast<QMouseEvent*>(event)->position().x() > option.rect.left() + kCheckWide)
        return false;
    return model->setData(
        index, index.data(Qt::CheckStateRole).toInt() == Qt::Checked ? Qt::Unchecked : Qt::Checked, Qt::CheckStateRole);
}

} // namespace fell::app
