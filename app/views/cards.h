// SPDX-License-Identifier: GPL-3.0-or-later
// The framed cards and the labels that panels are made of.
#pragma once

class QFrame;
class QLabel;
class QString;
class QWidget;

namespace fell {

/// A frame that the theme draws as a card. `parent` owns it.
QFrame* newCard(QWidget* parent);

/// A label that wraps its text. `look` is a property that the theme knows, e.g. "muted". `parent` owns it.
QLabel* newLabel(const QString& text, const char* look, QWidget* parent);

} // namespace fell
