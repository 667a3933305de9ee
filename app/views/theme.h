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

/// How much larger the interface is drawn so that its text has the size that the desktop asks for; 1 for 8.8 to 10.7
/// points, which our 13 pixels are near enough to. From 0.75 to 2.5.
double textScale(double desktopPoints);
/// Asks the desktop for its text size and sets Qt's scale by it, unless the user has set one. Before the QApplication
/// is made. Cost  a short-lived QGuiApplication, only within a desktop.
void followTextSize(int& argc, char** argv);

/// Draws `text` so that every digit takes the same width: figures that change do not jump. Returns the width.
int drawFigures(class QPainter& painter, int x, int baseline, const QString& text);
int figuresWidth(const QFont& font, const QString& text);

} // namespace fell::app
