// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/cards.h>

#include <QFrame>
#include <QLabel>
#include <QToolButton>

namespace fell::app {

QFrame* newCard(QWidget* parent)
{
    auto* card = new QFrame(parent);
    card->setProperty("card", true);
    return card;
}

QLabel* newLabel(const QString& text, const char* look, QWidget* parent)
{
    auto* label = new QLabel(text, parent);
    label->setProperty(look, true);
    label->setWordWrap(true);
    return label;
}

QLabel* mutedLabel(const QString& text, QWidget* parent)
{
    auto* label = new QLabel(text, parent);
    label->setProperty("muted", true);
    return label;
}

QToolButton* slimButton(const QString& text, const char* name, const QString& tip, QWidget* parent)
{
    auto* button = new QToolButton(parent);
    button->setText(text);
    button->setObjectName(QLatin1String(name));
    button->setToolTip(tip);
    button->setProperty("slim", true);
    return button;
}

} // namespace fell::app
