// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/field_window.h"

#include "models/text.h"
#include "views/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QOpenGLContext>
#include <QPainter>
#include <QWheelEvent>

#include <cmath>

namespace fell {
namespace {

constexpr double kLongestStep = 0.1; // seconds: after a long pause the eye does not jump
constexpr int kPauseMs = 4;

double ms(qint64 nanoseconds)
{
    return static_cast<double>(nanoseconds) / 1e6;
}

} // namespace

FieldWindow::FieldWindow(WorldSession& session)
    : m_session(session)
{
    QSurfaceFormat format;
    format.setVersion(4, 5);
    format.setProfile(QSurfaceFormat::CoreProfile);
    format.setDepthBufferSize(24);
    format.setSwapInterval(0); // frames are measured, not paced by the screen
    setFormat(format);
    m_next.setSingleShot(true);
    m_next.setInterval(kPauseMs);
    connect(&m_next, &QTimer::timeout, this, [this] {
        if (isExposed())
            update();
        else
            m_next.start(100);
    });
    m_clock.start();
}

FieldWindow::~FieldWindow()
{
    makeCurrent();
    m_renderer.reset();
    doneCurrent();
}

std::vector<FrameRecord> FieldWindow::takeFrames()
{
    return std::exchange(m_frames, {});
}

void FieldWindow::initializeGL()
{
    auto made = Renderer::create();
    if (!made) {
        emit failed(QString::fromStdString(sentence(made.problem())));
        return;
    }
    m_renderer = made.take();
    m_driver = QString::fromStdString(m_renderer->driver());
}

void FieldWindow::applyEvents(FrameRecord& frame)
{
    if (m_epoch != m_session.epoch()) {
        m_renderer->begin(m_session.setup(), m_session.terrain());
        m_epoch = m_session.epoch();
    }
    m_renderer->setDistance(m_session.setup().stream.distance);
    if (!m_session.streamer())
        return;
    for (const StreamEvent& event :
        m_session.streamer()->take(static_cast<std::size_t>(m_session.setup().upload.budget) * 1024)) {
        if (event.kind == StreamEvent::Kind::Upload) {
            m_renderer->upload(event.mesh);
            frame.meshesUploaded += !event.mesh.mesh.isEmpty();
            frame.bytesUploaded += event.mesh.mesh.bytes();
        } else {
            m_renderer->release(event.chunk);
            ++frame.released;
        }
    }
}

void FieldWindow::paintGL()
{
    if (!m_renderer)
        return;
    QElapsedTimer timer;
    timer.start();
    FrameRecord frame;
    frame.number = ++m_count;
    m_session.advance(std::min(kLongestStep, ms(m_clock.nsecsElapsed()) / 1000));
    m_clock.restart();
    applyEvents(frame);
    frame.uploadMs = ms(timer.nsecsElapsed());

    const qreal ratio = devicePixelRatio();
    m_report = m_renderer->draw(m_session.eye, static_cast<int>(width() * ratio), static_cast<int>(height() * ratio));
    frame.cullMs = m_report.cullMs;
    frame.drawMs = m_report.totalMs - m_report.cullMs;
    paintChips();
    frame.otherMs = std::max(0.0, ms(timer.nsecsElapsed()) - frame.uploadMs - m_report.totalMs);
    m_frames.push_back(frame);
    m_next.start(kPauseMs);
}

void FieldWindow::paintChips()
{
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& theme = currentTheme();
    const auto chip = [&](int x, int y, const QString& strong, const QString& text) {
        const QFont bold = uiFont(12, true), normal = uiFont(12);
        const int strongWidth = QFontMetrics(bold).horizontalAdvance(strong),
                  width = strongWidth + figuresWidth(normal, text) + 30;
        QColor back = theme.panel;
        back.setAlphaF(0.88F);
        painter.setPen(Qt::NoPen);
        painter.setBrush(back);
        painter.drawRoundedRect(QRect(x, y, width, 26), 3, 3);
        painter.setPen(theme.ink);
        painter.setFont(bold);
        painter.drawText(x + 10, y + 18, strong);
        painter.setPen(theme.muted);
        painter.setFont(normal);
        drawFigures(painter, x + 20 + strongWidth, y + 18, text);
    };
    const auto above = m_session.metresAboveGround();
    const QString height
        = above ? tr("%1 m above the ground · ").arg(static_cast<int>(std::lround(*above))) : QString();
    chip(12, 12, QString::fromStdString(m_session.terrain().recipe.name),
        height + tr("%1 m/s").arg(figureText(m_session.flight.speed)));
    if (!m_wasDragged)
        chip(12, this->height() - 38, tr("Drag to look"),
            tr("W A S D to fly · E up, Q down · wheel for speed · Shift fast"));
}

bool FieldWindow::setKey(int key, bool down)
{
    FlightKeys& keys = m_session.flight.keys;
    switch (key) {
    case Qt::Key_W:
    case Qt::Key_Up:
        keys.forward = down;
        break;
    case Qt::Key_S:
    case Qt::Key_Down:
        keys.back = down;
        break;
    case Qt::Key_A:
    case Qt::Key_Left:
        keys.left = down;
        break;
    case Qt::Key_D:
    case Qt::Key_Right:
        keys.right = down;
        break;
    case Qt::Key_E:
        keys.up = down;
        break;
    case Qt::Key_Q:
        keys.down = down;
        break;
    case Qt::Key_Shift:
        keys.fast = down;
        break;
    default:
        return false;
    }
    return true;
}

void FieldWindow::keyPressEvent(QKeyEvent* event)
{
    const bool command = event->modifiers() & (Qt::ControlModifier | Qt::AltModifier);
    if (!event->isAutoRepeat() && (command || !setKey(event->key(), true)))
        emit keysElsewhere(QKeySequence(event->keyCombination()));
}

void FieldWindow::keyReleaseEvent(QKeyEvent* event)
{
    if (!event->isAutoRepeat())
        setKey(event->key(), false);
}

void FieldWindow::focusOutEvent(QFocusEvent*)
{
    m_session.flight.keys = {}; // the release would go elsewhere
}

void FieldWindow::mousePressEvent(QMouseEvent* event)
{
    requestActivate();
    m_dragging = true;
    m_lastMouse = event->pos();
    setCursor(Qt::ClosedHandCursor);
}

void FieldWindow::mouseReleaseEvent(QMouseEvent*)
{
    m_dragging = false;
    setCursor(Qt::ArrowCursor);
}

void FieldWindow::mouseMoveEvent(QMouseEvent* event)
{
    if (!m_dragging)
        return;
    const QPoint by = event->pos() - m_lastMouse;
    m_lastMouse = event->pos();
    m_wasDragged = true;
    m_session.eye = Flight::look(m_session.eye, by.x(), by.y());
}

void FieldWindow::wheelEvent(QWheelEvent* event)
{
    m_session.flight.changeSpeed(event->angleDelta().y() / 120.0);
}

} // namespace fell
