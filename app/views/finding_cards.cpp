// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/finding_cards.h>

#include <fell/app/views/cards.h>
#include <fell/app/views/theme.h>

#include <QHBoxLayout>
#include <QLabel>
#include <QVBoxLayout>

namespace fell::app {
namespace {

constexpr int kWidth = 200, kOriginWidth = 560; // pixels of a card
constexpr std::size_t kBeforeOrigin = 2; // findings; those after it may need scrolling

} // namespace

FindingCards::FindingCards(QWidget* parent)
    : QScrollArea(parent)
    , m_row(new QWidget)
    , m_layout(new QHBoxLayout(m_row))
{
    setObjectName(QStringLiteral("findings"));
    setAccessibleName(tr("Findings"));
    setFrameShape(QFrame::NoFrame);
    setWidgetResizable(true);
    m_row->setObjectName(QStringLiteral("findingsRow"));
    m_layout->setContentsMargins(0, 0, 0, 0);
    m_layout->setSpacing(8);
    setWidget(m_row);
}

void FindingCards::addCard(const QString& number, const QString& interval, const QString& sentence, bool isDecided)
{
    QFrame* card = newCard(m_row);
    card->setFixedWidth(kWidth);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(10, 6, 10, 6);
    column->setSpacing(1);
    auto* large = new QLabel(number, card);
    large->setFont(uiFont(24, isDecided)); // what is not decided is not bold
    large->setTextInteractionFlags(Qt::TextSelectableByMouse);
    column->addWidget(large);
    column->addWidget(newLabel(interval, "muted", card));
    column->addWidget(newLabel(sentence, "plain", card));
    column->addStretch(1);
    card->setAccessibleName(number + QStringLiteral(". ") + interval + QStringLiteral(". ") + sentence);
    m_layout->addWidget(card);
    m_text += (interval.isEmpty() ? sentence : tr("%1 (%2)").arg(sentence, interval)) + QLatin1Char('\n');
}

void FindingCards::addOrigin(const QString& origin, const QStringList& caveats)
{
    QFrame* card = newCard(m_row);
    card->setFixedWidth(kOriginWidth);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(10, 6, 10, 6);
    column->setSpacing(2);
    column->addWidget(newLabel(tr("Measured on"), "title", card));
    column->addWidget(newLabel(origin, "muted", card));
    for (const QString& caveat : caveats)
        column->addWidget(newLabel(QStringLiteral("⚠ ") + caveat, "muted", card));
    column->addStretch(1);
    m_layout->addWidget(card);
    m_text += origin + QLatin1Char('\n');
    for (const QString& caveat : caveats)
        m_text += caveat + QLatin1Char('\n');
}

void FindingCards::show(
    const std::vector<Finding>& findings, const QString& origin, const QStringList& caveats, const QString& empty)
{
    while (QLayoutItem* item = m_layout->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    m_text.clear();
    for (std::size_t i = 0; i < findings.size(); ++i) {
        if (i == kBeforeOrigin && !origin.isEmpty())
            addOrigin(origin, caveats);
        addCard(QString::fromStdString(findings[i].number), QString::fromStdString(findings[i].interval),
            QString::fromStdString(findings[i].sentence), findings[i].isDecided);
    }
    if (findings.size() <= kBeforeOrigin && !origin.isEmpty())
        addOrigin(origin, caveats);
    if (!findings.empty() || !origin.isEmpty()) {
        m_layout->addStretch(1);
    } else {
        QLabel* label = newLabel(empty, "muted", m_row);
        label->setAlignment(Qt::AlignCenter);
        m_layout->addWidget(label, 1);
    }
}

} // namespace fell::app

#include "moc_finding_cards.cpp"
