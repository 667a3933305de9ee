// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/theme.h>

#include <QFontDatabase>
#include <QFontMetrics>
#include <QPainter>
#include <QPalette>
#include <QStyleFactory>

#include <algorithm>
#include <cmath>

namespace fell::app {
namespace {

const Theme* appliedTheme = nullptr; // set once at the start and by the theme action, both on the window's thread

/// Long: most of it is the sheet.
QString styleSheet(const Theme& t)
{
    QString text = QStringLiteral(R"(
            QMainWindow, QDialog { background: @window; }
            QToolTip { background: @ink; color: @panel; border: 0; padding: 5px 7px; }
            QMenuBar { background: @window; color: @ink; }
            QMenuBar::item { padding: 6px 9px; background: transparent; }
            QMenuBar::item:selected { background: @line; }
            QMenu { background: @panel; color: @ink; border: 1px solid @line; padding: 4px 0; }
            QMenu::item { padding: 5px 26px 5px 22px; }
            QMenu::item:selected { background: @selection; color: @onColour; }
            QMenu::item:disabled { color: @muted; }
            QMenu::separator { height: 1px; background: @line; margin: 4px 0; }
            QFrame[card="true"] { background: @panel; border: 1px solid @line; border-radius: 3px; }
            QLabel[muted="true"] { color: @muted; }
            QLabel[over="true"] { color: @over; }
            QLabel[title="true"] { font-weight: 600; }
            QPushButton, QToolButton { background: @panel; color: @ink; border: 1px solid @line; border-radius: 3px; padding: 4px 10px; }
            QPushButton:hover, QToolButton:hover { border-color: @muted; }
            QPushButton:disabled, QToolButton:disabled { color: @muted; }
            QPushButton:focus, QToolButton:focus { border-color: @selection; }
            QPushButton[primary="true"] { background: @selection; color: @onColour; border-color: @selection; font-weight: 600; padding: 6px 18px; }
            QPushButton[primary="true"]:disabled { background: @track; border-color: @track; color: @muted; }
            QToolButton[view="true"] { background: transparent; border: 0; border-bottom: 2px solid transparent; border-radius: 0; padding: 6px 14px; color: @muted; }
            QToolButton[view="true"]:checked { color: @ink; font-weight: 600; border-bottom-color: @selection; }
            QTabBar::tab { background: transparent; color: @muted; border: 0; border-bottom: 2px solid @line; padding: 3px 9px 4px 9px; }
            QTabBar::tab:selected { color: @ink; border-bottom-color: @selection; }
            QTabBar::tab:hover { color: @ink; }
            QToolButton[small="true"] { border: 0; padding: 0; background: transparent; }
            QToolButton[slim="true"] { padding: 3px 1px; }
            QToolButton[compact="true"] { padding: 2px 6px; }
            QToolButton[compact="true"]:checked { background: @line; font-weight: 600; }
            QToolButton[slim="true"]:checked { border: 2px solid @selection; padding: 2px 0; }
            QFileDialog QToolButton { padding: 3px; min-width: 18px; }
            QToolButton::menu-indicator { image: none; }
            QLineEdit, QSpinBox, QDoubleSpinBox, QComboBox { background: @panel; color: @ink; border: 1px solid @line; border-radius: 3px; padding: 2px 7px; selection-background-color: @selection; selection-color: @onColour; }
            QLineEdit:focus, QSpinBox:focus, QDoubleSpinBox:focus, QComboBox:focus { border-color: @selection; }
            QToolButton[view="true"]:focus, QToolButton[compact="true"]:focus, QTabBar::tab:focus { background: @line; }
            QToolButton[slim="true"]:focus, QToolButton[small="true"]:focus { border: 2px solid @selection; padding: 2px 0; }
            QListView:focus, QTableView:focus, QTextBrowser:focus, QScrollArea:focus { border: 1px solid @selection; }
            QPushButton[primary="true"]:focus { border: 2px solid @ink; padding: 5px 17px; }
            QComboBox::drop-down { border: 0; width: 20px; }
            QComboBox::down-arrow { image: url(:/icons/chevron-@name.png); width: 12px; height: 12px; }
            QSpinBox::up-button, QSpinBox::down-button, QDoubleSpinBox::up-button, QDoubleSpinBox::down-button { width: 0; height: 0; border: 0; }
            QRadioButton, QCheckBox { spacing: 8px; color: @ink; }
            QRadioButton::indicator, QCheckBox::indicator { width: 11px; height: 11px; border: 2px solid @muted; background: @panel; }
            QRadioButton::indicator { border-radius: 7px; }
            QCheckBox::indicator { border-radius: 2px; }
            QRadioButton::indicator:checked, QCheckBox::indicator:checked { background: @selection; border-color: @selection; }
            QRadioButton::indicator:focus, QCheckBox::indicator:focus { border-color: @selection; }
            QRadioButton::indicator:checked:focus, QCheckBox::indicator:checked:focus { border-color: @ink; }
            QRadioButton:checked { font-weight: 600; }
            QToolButton[setup="A"] { border-left: 5px solid @setupA; }
            QToolButton[setup="B"] { border-left: 5px solid @setupB; }
            QComboBox QAbstractItemView { background: @panel; color: @ink; selection-background-color: @selection; selection-color: @onColour; border: 1px solid @line; }
            QTableView { background: @panel; color: @ink; border: 0; gridline-color: @line; }
            QHeaderView::section { background: @panel; color: @muted; border: 0; border-bottom: 1px solid @line; padding: 4px 8px; }
            QProgressBar { background: @track; border: 0; border-radius: 2px; max-height: 6px; }
            QProgressBar::chunk { background: @selection; border-radius: 2px; }
            QSlider::groove:horizontal { height: 4px; background: @track; border-radius: 2px; }
            QSlider::sub-page:horizontal { background: @setupA; border-radius: 2px; }
            QSlider::handle:horizontal { width: 8px; margin: -6px 0; background: @ink; border-radius: 2px; }
            QSlider::handle:horizontal:focus { background: @selection; }
            #stageScroll, #stagePage, #findings, #findingsRow, #numbersScroll, #numbersPage { background: transparent; }
            QScrollBar:vertical { background: transparent; width: 9px; }
            QScrollBar::handle:vertical { background: @track; border-radius: 4px; min-height: 24px; }
            QScrollBar:horizontal { background: transparent; height: 9px; }
            QScrollBar::handle:horizontal { background: @track; border-radius: 4px; min-width: 24px; }
            QScrollBar::add-line, QScrollBar::sub-line { height: 0; width: 0; }
            QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
        )");
    const std::pair<const char*, QColor> colours[]{{"@window", t.window}, {"@panel", t.panel}, {"@line", t.line},
        {"@ink", t.ink}, {"@muted", t.muted}, {"@selection", t.selection}, {"@track", t.track}, {"@setupA", t.setupA},
        {"@setupB", t.setupB}, {"@over", t.over}, {"@onColour", t.onColour}};
    for (const auto& [name, colour] : colours)
        text.replace(QLatin1String(name), colour.name());
    text.replace(QLatin1String("@name"), t.name);
    return text;
}

QPalette paletteOf(const Theme& t)
{
    QPalette palette;
    palette.setColor(QPalette::Window, t.window);
    palette.setColor(QPalette::WindowText, t.ink);
    palette.setColor(QPalette::Base, t.panel);
    palette.setColor(QPalette::AlternateBase, t.window);
    palette.setColor(QPalette::Text, t.ink);
    palette.setColor(QPalette::Button, t.panel);
    palette.setColor(QPalette::ButtonText, t.ink);
    palette.setColor(QPalette::ToolTipBase, t.ink);
    palette.setColor(QPalette::ToolTipText, t.panel);
    palette.setColor(QPalette::Highlight, t.selection);
    palette.setColor(QPalette::HighlightedText, t.onColour);
    palette.setColor(QPalette::PlaceholderText, t.muted);
    palette.setColor(QPalette::Mid, t.line);
    palette.setColor(QPalette::Link, t.setupA);
    palette.setColor(QPalette::LinkVisited, t.setupA);
    for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText})
        palette.setColor(QPalette::Disabled, role, t.muted);
    return palette;
}

} // namespace

const Theme& limewash()
{
    static const Theme kTheme{QStringLiteral("limewash"), false, "#EFECE3", "#FAF8F2", "#D6D1C4", "#22282B", "#565E62",
        "#2A6684", "#AF7E10", "#A0481D", "#7A4E8A", "#DDD8CC", "#FFFFFF"};
    return kTheme;
}

const Theme& slate()
{
    static const Theme kTheme{QStringLiteral("slate"), true, "#1E2326", "#272D31", "#3A4247", "#E4E2DA", "#B0B8BB",
        "#6AAED0", "#D3A63C", "#E48F63", "#BA93CA", "#3A4247", "#1B2023"};
    return kTheme;
}

const Theme& currentTheme()
{
    return appliedTheme ? *appliedTheme : limewash();
}

QFont uiFont(int pixels, bool strong)
{
    static const QString kFamily = [] {
        if (!qEnvironmentVariableIsEmpty("XDG_CURRENT_DESKTOP"))
            return QFontDatabase::systemFont(QFontDatabase::GeneralFont).family();
        const bool isThere = QFontDatabase::families().contains(QStringLiteral("Inter"));
        return isThere ? QStringLiteral("Inter") : QStringLiteral("DejaVu Sans");
    }();
    QFont font(kFamily);
    font.setPixelSize(pixels);
    font.setWeight(strong ? QFont::DemiBold : QFont::Normal);
    return font;
}

double textScale(double desktopPoints)
{
    constexpr double kPixelsAPoint = 96.0 / 72, kOurs = 13, kNear = 0.1, kLeast = 0.75, kMost = 2.5;
    const double scale = std::clamp(desktopPoints * kPixelsAPoint / kOurs, kLeast, kMost);
    return std::abs(scale - 1) < kNear ? 1 : scale;
}

void followTextSize(int& argc, char** argv)
{
    for (const char* own : {"QT_SCALE_FACTOR", "QT_SCREEN_SCALE_FACTORS", "QT_FONT_DPI"})
        if (qEnvironmentVariableIsSet(own))
            return;
    if (qEnvironmentVariableIsEmpty("XDG_CURRENT_DESKTOP"))
        return;
    double points = 0;
    {
        const QGuiApplication asking(argc, argv);
        points = QFontDatabase::systemFont(QFontDatabase::GeneralFont).pointSizeF();
    }
    if (points > 0 && textScale(points) != 1)
        qputenv("QT_SCALE_FACTOR", QByteArray::number(textScale(points)));
}

void applyTheme(QApplication& app, const Theme& theme)
{
    appliedTheme = &theme;
    QApplication::setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
    QApplication::setPalette(paletteOf(theme));
    QApplication::setFont(uiFont(13));
    app.setStyleSheet(styleSheet(theme));
}

int figuresWidth(const QFont& font, const QString& text)
{
    const QFontMetrics metrics(font);
    int width = 0;
    for (const QChar c : text)
        width += metrics.horizontalAdvance(c.isDigit() ? QLatin1Char('0') : c);
    return width;
}

int drawFigures(QPainter& painter, int x, int baseline, const QString& text)
{
    const QFontMetrics metrics(painter.font());
    const int start = x;
    for (const QChar c : text) {
        const int cell = metrics.horizontalAdvance(c.isDigit() ? QLatin1Char('0') : c);
        painter.drawText(x + (cell - metrics.horizontalAdvance(c)) / 2, baseline, QString(c));
        x += cell;
    }
    return x - start;
}

} // namespace fell::app
