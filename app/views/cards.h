// SPDX-License-Identifier: GPL-3.0-or-later
// The framed cards and the labels that panels are made of.
#pragma once

#include <fell/namespaces.h>

class QFrame;
class QLabel;
class QString;
class QToolButton;
class QWidget;

namespace fell::app {

/// A frame that the theme draws as a card. `parent` owns it.
QFrame* newCard(QWidget* parent);

/// A label that wraps its text. `look` is a property that the theme knows, e.g. "muted". `parent` owns it.
QLabel* newLabel(const QString& text, const char* look, QWidget* parent);

/// One line in the theme's muted ink. `parent` owns it.
QLabel* mutedLabel(const QString& text, QWidget* parent);

/// A narrow button; `name` is its object name. `parent` owns it.
QToolButton* slimButton(const QString& text, const char* name, const QString& tip, QWidget* parent);

} // namespace fell::app
