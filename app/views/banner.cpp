// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/banner.h>

#include <fell/app/views/theme.h>

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QTimer>

namespace fell::app {

Banner::Banner(QWidget* parent)
    : QFrame(parent)
    , m_text(new QLabel(this))
    , m_timer(new QTimer(this))
{
    setObjectName(QStringLiteral("banner"));
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(14, 5, 8, 5);
    m_text->setWordWrap(true);
    m_text->setTextInteractionFlags(Qt::TextSelectableByMouse);
    auto* close = new QPushButton(tr("Close"), this);
    row->addWidget(m_text, 1);
    row->addWidget(close);
    connect(close, &QPushButton::clicked, this, &QWidget::hide);
    m_timer->setSingleShot(true);
    connect(m_timer, &QTimer::timeout, this, &QWidget::hide);
    hide();
}

QString Banner::text() const
{
    return m_text->text();
}

void Banner::say(const QString& sentence, bool bad)
{
    const QColor back = bad ? currentTheme().over : currentTheme().setupA;
    setStyleSheet(QStringLiteral("#banner { background: %1; } #banner QLabel { color: white; }").arg(back.name()));
    m_text->setText((bad ? tr("✕  ") : tr("✓  ")) + sentence);
    show();
}

void Banner::trouble(const QString& sentence)
{
    m_timer->stop();
    say(sentence, true);
}

void Banner::note(const QString& sentence)
{
    say(sentence, false);
    m_timer->start(6000);
}

} // namespace fell::app

#include "moc_banner.cpp"
