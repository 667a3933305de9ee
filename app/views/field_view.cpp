// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/field_view.h"

#include <QOffscreenSurface>
#include <QOpenGLContext>

namespace fell {

QString openGlTrouble()
{
    QSurfaceFormat format;
    format.setVersion(4, 5);
    format.setProfile(QSurfaceFormat::CoreProfile);
    QOpenGLContext context;
    context.setFormat(format);
    const bool made = context.create();
    const auto version = context.format().version();
    if (made && version >= qMakePair(4, 5))
        return {};
    const QString found
        = made ? QStringLiteral("OpenGL %1.%2").arg(version.first).arg(version.second) : QStringLiteral("no OpenGL");
    return QStringLiteral("The graphics driver offers %1, Fell draws with OpenGL 4.5 core. On Debian the package "
                          "libgl1-mesa-dri brings a driver that has it.")
        .arg(found);
}

FieldView::FieldView(WorldSession& session, QWidget* parent)
    : QStackedWidget(parent)
    , m_message(new QLabel(this))
{
    m_message->setWordWrap(true);
    m_message->setAlignment(Qt::AlignCenter);
    m_message->setContentsMargins(80, 0, 80, 0);
    m_message->setTextInteractionFlags(Qt::TextSelectableByMouse);
    m_message->setObjectName(QStringLiteral("fieldMessage"));
    addWidget(m_message);
    if (const QString trouble = openGlTrouble(); !trouble.isEmpty()) {
        showTrouble(trouble);
        return;
    }
    m_window = new FieldWindow(session);
    connect(m_window, &FieldWindow::failed, this, &FieldView::showTrouble);
    QWidget* container = QWidget::createWindowContainer(m_window, this);
    container->setFocusPolicy(Qt::StrongFocus);
    container->setMinimumSize(320, 200);
    addWidget(container);
    setCurrentWidget(container);
}

void FieldView::showTrouble(const QString& sentence)
{
    m_trouble = sentence;
    m_message->setText(sentence
        + tr("\n\nEverything that needs no picture works: open Transect and walk it to measure mesh build time, or use "
             "fell-cli mesh and fell-cli export."));
    setCurrentWidget(m_message);
}

} // namespace fell
