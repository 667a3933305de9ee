// SPDX-License-Identifier: GPL-3.0-or-later
// The pipeline as plates in the order in which a chunk passes them. A click opens a stage's bench.
#pragma once

#include <fell/app/models/live_figures.h>

#include <QWidget>

namespace fell::app {

/// Where the plates lie: equal widths, joined by a line.
struct RailLayout {
    int width = 0, height = 0, count = 1;
    bool second = false; // a row for setup B below
    static constexpr int kGap = 14, kMargin = 10, kSecondHeight = 34;
    [[nodiscard]] QRect plate(int index) const;
    /// The plate of setup B; asserts `second`.
    [[nodiscard]] QRect plateOfB(int index) const;
    /// The plate at a point, or -1; the stage's number whichever row it is.
    [[nodiscard]] int plateAt(QPoint point) const;
    [[nodiscard]] bool isInB(QPoint point) const { return second && point.y() >= plateOfB(0).top() - 2; }
};

class StageRail : public QWidget {
    Q_OBJECT
public:
    explicit StageRail(QWidget* parent = nullptr);

    /// `b` is empty where there is no setup B.
    void show(const std::vector<StageFigure>& stages, const std::vector<StageFigure>& b = {});
    void select(const QString& id, bool b = false);
    [[nodiscard]] RailLayout plates() const
    {
        return {width(), height(), static_cast<int>(m_stages.size()), !m_stagesB.empty()};
    }

signals:
    void stageClicked(const QString& id, bool b);

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool event(QEvent* event) override;

private:
    void tell();
    void paintPlate(class QPainter& painter, const QRect& plate, const StageFigure& stage, bool hovered) const;
    void paintPlateOfB(
        class QPainter& painter, const QRect& plate, const StageFigure& stage, const StageFigure& a) const;
    std::vector<StageFigure> m_stages, m_stagesB;
    bool m_selectedB = false;
    QString m_selected;
    int m_hovered = -1;
};

} // namespace fell::app
