// SPDX-License-Identifier: GPL-3.0-or-later
// The pipeline as plates in the order in which a chunk passes them. A click opens a stage's bench.
#pragma once

#include "models/live_figures.h"

#include <QWidget>

namespace fell {

/// Where the plates lie: equal widths, joined by a line.
struct RailLayout {
    int width = 0, height = 0, count = 1;
    static constexpr int kGap = 14, kMargin = 10;
    [[nodiscard]] QRect plate(int index) const;
    /// The plate at a point, or -1.
    [[nodiscard]] int plateAt(QPoint point) const;
};

class StageRail : public QWidget {
    Q_OBJECT
public:
    explicit StageRail(QWidget* parent = nullptr);

    void show(const std::vector<StageFigure>& stages);
    void select(const QString& id);
    [[nodiscard]] RailLayout plates() const { return {width(), height(), static_cast<int>(m_stages.size())}; }

signals:
    void stageClicked(const QString& id);

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool event(QEvent* event) override;

private:
    void paintPlate(class QPainter& painter, const QRect& plate, const StageFigure& stage, bool hovered) const;
    std::vector<StageFigure> m_stages;
    QString m_selected;
    int m_hovered = -1;
};

} // namespace fell
