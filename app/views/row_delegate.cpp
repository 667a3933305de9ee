// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/row_delegate.h>

#include <fell/app/views/theme.h>

#include <QListView>
#include <QPainter>

namespace fell::app {
namespace {

constexpr int kPad = 6, kIconSize = 30, kLineHigh = 22, kTwoLinesHigh = 40; // pixels

} // namespace

QSize RowDelegate::sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const
{
    return {option.rect.width(), index.data(RowList::Detail).toString().isEmpty() ? kLineHigh : kTwoLinesHigh};
}

void RowDelegate::paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const
{
    const Theme& theme = currentTheme();
    const bool isSelected = option.state & QStyle::State_Selected, isEnabled = index.flags() & Qt::ItemIsEnabled;
    painter->save();
    painter->setRenderHint(QPainter::Antialiasing);
    if (isSelected || (isEnabled && option.state & QStyle::State_MouseOver)) {
        painter->setPen(Qt::NoPen);
        painter->setBrush(isSelected ? theme.selection : theme.track);
        painter->drawRoundedRect(QRectF(option.rect).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
    }
    QRect words = option.rect.adjusted(kPad, 0, -kPad, 0);
    if (const auto icon = index.data(Qt::DecorationRole); icon.isValid()) {
        const QRect at(words.left(), words.center().y() - kIconSize / 2 + 1, kIconSize, kIconSize);
        icon.value<QIcon>().paint(painter, at);
        words.setLeft(at.right() + 1 + kPad);
    }
    const QColor ink = isSelected ? theme.onColour
        : isEnabled               ? theme.ink
                                  : theme.muted,
                 muted = isSelected ? theme.onColour : theme.muted;
    const auto write = [&](const QRect& in, const QString& text, const QColor& colour, Qt::Alignment how) {
        painter->setPen(colour);
        painter->drawText(in, static_cast<int>(how | Qt::AlignVCenter),
            painter->fontMetrics().elidedText(text, Qt::ElideRight, in.width()));
    };
    painter->setFont(uiFont(12));
    if (const QString aside = index.data(RowList::Aside).toString(); !aside.isEmpty()) {
        const int width = painter->fontMetrics().horizontalAdvance(aside);
        write(QRect(words.right() - width, words.top(), width + 1, words.height()), aside, muted, Qt::AlignRight);
        words.setRight(words.right() - width - kPad);
    }
    const QString detail = index.data(RowList::Detail).toString();
    QRect first = words;
    if (!detail.isEmpty())
        first.setBottom(words.center().y() + 1);
    painter->setFont(uiFont(12, !detail.isEmpty()));
    write(first, index.data().toString(), ink, Qt::AlignLeft);
    if (!detail.isEmpty()) {
        painter->setFont(uiFont(11));
        write(QRect(words.left(), first.bottom() - 1, words.width(), words.bottom() - first.bottom()), detail, muted,
            Qt::AlignLeft);
    }
    painter->restore();
}

QListView* newListView(
    const char* objectName, const QString& name, RowList& rows, QStyledItemDelegate* delegate, QWidget* parent)
{
    auto* list = new QListView(parent);
    list->setObjectName(QString::fromUtf8(objectName));
    list->setAccessibleName(name);
    list->setModel(&rows);
    delegate->setParent(list);
    list->setItemDelegate(delegate);
    list->setFrameShape(QFrame::NoFrame);
    list->setMouseTracking(true);
    list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    list->setEditTriggers(QAbstractItemView::NoEditTriggers);
    return list;
}

QString currentKey(const QListView& list)
{
    return list.currentIndex().data(RowList::Key).toString();
}

void makeCurrent(QListView& list, const QString& key)
{
    const QModelIndex row = static_cast<const RowList*>(list.model())->find(key);
    if (row.isValid() && row != list.currentIndex())
        list.setCurrentIndex(row);
}

} // namespace fell::app
