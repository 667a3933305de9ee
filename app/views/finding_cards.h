// SPDX-License-Identifier: GPL-3.0-or-later
// What a transect shows, a card a finding: one large number, how sure it is, one sentence.
#pragma once

#include <fell/measure/findings.h>

#include <QScrollArea>

class QHBoxLayout;

namespace fell::app {

class FindingCards : public QScrollArea {
    Q_OBJECT
public:
    explicit FindingCards(QWidget* parent = nullptr);
    /// `origin`: on what it was measured, and `caveats`: what weakens it; both are the last card. Without findings and
    /// origin it says `empty`.
    void show(
        const std::vector<Finding>& findings, const QString& origin, const QStringList& caveats, const QString& empty);
    /// All of it, a line each.
    [[nodiscard]] QString text() const { return m_text; }

private:
    void addCard(const QString& number, const QString& interval, const QString& sentence, bool isDecided);
    void addOrigin(const QString& origin, const QStringList& caveats);

    QWidget* m_row;
    QHBoxLayout* m_layout;
    QString m_text;
};

} // namespace fell::app
