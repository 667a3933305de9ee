// SPDX-License-Identifier: GPL-3.0-or-later
// The map of a recipe with the line of its section, the nine seeds, and the section itself.
#pragma once

#include <fell/app/models/recipe_editor.h>

#include <QImage>
#include <QWidget>

namespace fell::app {

class MapCanvas : public QWidget {
    Q_OBJECT
public:
    explicit MapCanvas(RecipeEditor& editor, QWidget* parent = nullptr);

    void setLook(MapLook look);
    [[nodiscard]] MapLook look() const { return m_look; }
    void showSeeds(bool on);
    /// Metres from west to east.
    void setAcross(double metres);
    [[nodiscard]] double across() const { return m_across; }
    /// The line of the section, as parts of the width and the height.
    [[nodiscard]] const std::array<QPointF, 2>& line() const { return m_line; }
    /// Asks the editor for what is to be seen now.
    void ask();

signals:
    void seedChosen(std::uint64_t seed);

private:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void tellSeed();
    void refresh();
    void paintSeeds(QPainter& painter);
    [[nodiscard]] QPointF onScreen(QPointF part) const;
    [[nodiscard]] std::array<double, 2> metresAt(QPointF part) const;

    RecipeEditor& m_editor;
    MapLook m_look = MapLook::Relief;
    bool m_seeds = false;
    double m_across = 2048; // metres
    std::array<double, 2> m_middle{};
    std::array<QPointF, 2> m_line{QPointF(0.08, 0.62), QPointF(0.92, 0.36)};
    int m_held = -1; // end of the line; 2: the whole map
    QPointF m_heldFrom;
    std::array<double, 2> m_middleFrom{};
    QImage m_image;
    std::vector<QImage> m_sheet;
    int m_seedAt = 0; // of the nine, where the keyboard is
};

/// What lies below the line. The pointer's material and height are said in its corner.
class SectionCanvas : public QWidget {
    Q_OBJECT
public:
    explicit SectionCanvas(RecipeEditor& editor, QWidget* parent = nullptr);

private:
    void paintEvent(QPaintEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    [[nodiscard]] QString textAt(QPointF point) const;
    RecipeEditor& m_editor;
    QImage m_image;
    std::optional<QPointF> m_pointer;
};

} // namespace fell::app
