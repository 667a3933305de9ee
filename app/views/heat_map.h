// SPDX-License-Identifier: GPL-3.0-or-later
// A cost over two varied values: a field for each pair, dark where it is dear, with its figure.
#pragma once

#include <fell/measure/transect.h>

#include <QWidget>

#include <optional>

namespace fell::app {

class HeatMap : public QWidget {
    Q_OBJECT
public:
    explicit HeatMap(QWidget* parent = nullptr);
    /// Frame times, or mesh build times. Two setups stand next to each other, on one scale.
    void show(const TransectResult& result, bool frames);

protected:
    void paintEvent(QPaintEvent* event) override;
    bool event(QEvent* event) override; // a tooltip with the whole row
    void keyPressEvent(QKeyEvent* event) override;

private:
    struct Field {
        QRect at;
        const TransectRow* row;
    };
    [[nodiscard]] double costOf(const TransectRow& row) const; // ms or µs
    [[nodiscard]] std::vector<Field> fields() const;
    [[nodiscard]] QRect partOf(char side) const; // without the titles
    [[nodiscard]] QString textOf(const TransectRow& row) const;
    void paintSide(QPainter& painter, char side, const std::vector<Field>& fields) const;

    TransectResult m_result;
    bool m_frames = false;
    std::optional<std::size_t> m_at; // of fields(): where the keyboard is
};

} // namespace fell::app
