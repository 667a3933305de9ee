// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/cards.h"

#include <QFrame>
#include <QLabel>

namespace fell {

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

} // namespace fell
