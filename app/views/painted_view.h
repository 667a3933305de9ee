// SPDX-License-Identifier: GPL-3.0-or-later
// What painted views share: keyboard focus that can be seen, and text for those who do not see the picture.
#pragma once

#include <QWidget>

#include <optional>

class QKeyEvent;

namespace fell::app {

/// Reached with Tab and by a click, named for screen readers.
void makeReachable(QWidget& view, const QString& name);

/// A frame in the colour of the selection where `view` has the keyboard focus.
void paintFocus(class QPainter& painter, const QWidget& view);

/// What a screen reader says of the view now.
void describe(QWidget& view, const QString& text);

/// The step of an arrow key, right and down; nothing for other keys.
std::optional<QPoint> arrowOf(const QKeyEvent& event);

/// 1 for plus, -1 for minus, 0 for other keys.
int zoomOf(const QKeyEvent& event);

} // namespace fell::app
