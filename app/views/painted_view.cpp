// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/painted_view.h>

#include <fell/app/views/theme.h>

#include <QKeyEvent>
#include <QPainter>

namespace fell::app {

void makeReachable(QWidget& view, const QString& name)
{
    view.setFocusPolicy(Qt::StrongFocus);
    view.setAccessibleName(name);
}

void paintFocus(QPainter& painter, const QWidget& view)
{
    if (!view.hasFocus())
        return;
    painter.setPen(QPen(currentTheme().selection, 2));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(QRectF(view.rect()).adjusted(1, 1, -1, -1));
}

void describe(QWidget& view, const QString& text)
{
    if (view.accessibleDescription() != text)
        view.setAccessibleDescription(text);
}

std::optional<QPoint> arrowOf(const QKeyEvent& event)
{
    switch (event.key()) {
    case Qt::Key_Left:
        return QPoint(-1, 0);
    case Qt::Key_Right:
        return QPoint(1, 0);
    case Qt::Key_Up:
        return QPoint(0, -1);
    case Qt::Key_Down:
        return QPoint(0, 1);
    default:
        return std::nullopt;
    }
}

int zoomOf(const QKeyEvent& event)
{
    return event.key() == Qt::Key_Plus || event.key() == Qt::Key_Equal ? 1 : event.key() == Qt::Key_Minus ? -1 : 0;
}

} // namespace fell::app
