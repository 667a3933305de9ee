// SPDX-License-Identifier: GPL-3.0-or-later
// A curve that is changed by its points: dragged, added by a double click, deleted by a right click or with Delete.
#pragma once

#include <fell/terrain/curve.h>

#include <QWidget>

#include <optional>

namespace fell::app {

class CurveCanvas : public QWidget {
    Q_OBJECT
public:
    explicit CurveCanvas(std::vector<CurvePoint> points, QWidget* parent = nullptr);
    [[nodiscard]] const std::vector<CurvePoint>& points() const { return m_points; }
    /// Where a place of the curve is drawn.
    [[nodiscard]] QPointF pixelOf(const CurvePoint& point) const;

signals:
    void changed(const std::vector<fell::terrain::CurvePoint>& points);

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override; // arrows move the chosen point
    void leaveEvent(QEvent* event) override;

private:
    [[nodiscard]] QRectF plot() const;
    [[nodiscard]] CurvePoint placeOf(const QPointF& pixel) const;
    [[nodiscard]] std::optional<std::size_t> pointAt(const QPointF& pixel) const;
    void moveTo(std::size_t point, CurvePoint place);
    void add(const CurvePoint& place);
    void remove(std::size_t point);

    std::vector<CurvePoint> m_points;
    std::optional<std::size_t> m_chosen, m_under;
    bool m_dragged = false;
};

} // namespace fell::app
