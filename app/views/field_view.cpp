// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/field_view.h>

namespace fell::app {

FieldView::FieldView(WorldSession& session, QWidget* parent)
    : QStackedWidget(parent)
    , m_window(new FieldWindow(session))
    , m_container(createWindowContainer(m_window, this))
    , m_message(new QLabel(this))
{
    m_message->setWordWrap(true);
    m_message->setAlignment(Qt::AlignCenter);
    m_message->setContentsMargins(80, 0, 80, 0);
    m_message->setTextInteractionFlags(Qt::TextSelectableByMouse);
    m_message->setObjectName(QStringLiteral("fieldMessage"));
    addWidget(m_message);
    connect(m_window, &FieldWindow::failed, this, &FieldView::showTrouble);
    m_container->setFocusPolicy(Qt::StrongFocus);
    m_container->setMinimumSize(320, 200);
    addWidget(m_container);
    setCurrentWidget(m_container);
    setFocusProxy(m_container);
}

void FieldView::showTrouble(const QString& sentence)
{
    m_trouble = sentence;
    m_message->setText(sentence
        + tr("\n\nEverything that needs no drawing works: run a transect to measure mesh time, or use "
             "fell-cli mesh and fell-cli export."));
    setCurrentWidget(m_message);
    m_window = nullptr; // callers check for null
    m_container->deleteLater(); // takes the window with it
}

} // namespace fell::app

#include "moc_field_view.cpp"
