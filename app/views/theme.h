// SPDX-License-Identifier: GPL-3.0-or-later
// Fell's two looks: limewash (light) and slate (dark).
#pragma once

#include <fell/namespaces.h>

#include <QApplication>
#include <QColor>
#include <QString>

namespace fell::app {

struct Theme {
    QString name;
    bool dark;
    QColor window, panel, line, ink, muted;
    QColor setupA, setupB; // tarn blue and ochre, always
    QColor over; // bracken: beyond the budget
    QColor selection; // heather
    QColor track; // the empty part of a bar
    QColor onColour; // text on setup A, over and selection
    QColor onB = "#14181A"; // text on setup B
};

const Theme& limewash();
const Theme& slate();
/// The theme that was applied last; limewash before that.
const Theme& currentTheme();
/// Sets style, palette, font and style sheet of the application.
void applyTheme(QApplication& app, const Theme& theme);

/// A font of the interface, `pixels` high: of the desktop's family, without a desktop Inter.
QFont uiFont(int pixels, bool strong = false);

/// Draws `text` so that every digit takes the same width: figures that change do not jump. Returns the width.
int drawFigures(class QPainter& painter, int x, int baseline, const QString& text);
int figuresWidth(const QFont& font, const QString& text);

} // namespace fell::app
