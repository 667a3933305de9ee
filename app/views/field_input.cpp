// SPDX-License-Identifier: GPL-3.0-or-later
// What mouse and keys do in the field.
#include <fell/app/views/field_window.h>

#include <QKeyEvent>
#include <QMouseEvent>
#include <QWheelEvent>

#include <algorithm>
#include <cmath>
#include <iterator>

namespace fell::app {

/// What the tool would be used on: the first block under the pointer.
void FieldWindow::aim()
{
    ToolHand& editor = m_session.editor;
    Streamer* streamer = m_session.streamer();
    const bool isA = !m_session.hasB() || (m_pointer && m_pointer->x() < wipeAt());
    if (!editor.tool() || !m_pointer || !streamer || (m_dragging && !m_isGoingOn && !m_mayClick) || !isA) {
        editor.target.reset();
        return;
    }
    const Setup& setup = m_session.setup();
    m_reader.begin(streamer, m_session.epoch());
    editor.target = pick(m_reader.reader(), editor.sideRules(), m_session.eye, directionAt(*m_pointer, setup));
    if (m_isGoingOn && editor.target && !editor.isBusy() && m_lastUsed != editor.target->voxel) {
        m_lastUsed = editor.target->voxel;
        m_session.useTool();
    }
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
    case Qt::Key_Space:
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

/// Keys of the tool in hand: its kind and its radius. False if the key is none of them.
bool FieldWindow::toolKey(int key)
{
    ToolHand& editor = m_session.editor;
    if (!editor.tool())
        return false;
    if (key == Qt::Key_BracketLeft)
        editor.setRadius(editor.radius() - 1);
    else if (key == Qt::Key_BracketRight)
        editor.setRadius(editor.radius() + 1);
    else
        return false;
    return true;
}

/// The key that an event means in flight: W, A, S, D, E and Q are places on the keyboard, whatever letters its layout
/// has there. Where the system does not tell the place, they are letters. Everything else is as the layout says.
int FieldWindow::flightKey(const QKeyEvent& event)
{
    // Codes of X and Wayland: those of the kernel's evdev and 8.
    constexpr std::pair<quint32, int> kPlaces[]{
        {24, Qt::Key_Q}, {25, Qt::Key_W}, {26, Qt::Key_E}, {38, Qt::Key_A}, {39, Qt::Key_S}, {40, Qt::Key_D}};
    if (event.nativeScanCode() == 0)
        return event.key();
    for (const auto& [code, key] : kPlaces)
        if (event.nativeScanCode() == code)
            return key;
    const bool isFlightLetter = std::any_of(
        std::begin(kPlaces), std::end(kPlaces), [&event](const auto& place) { return place.second == event.key(); });
    return isFlightLetter ? Qt::Key_unknown : event.key();
}

void FieldWindow::keyPressEvent(QKeyEvent* event)
{
    const bool command = event->modifiers() & (Qt::ControlModifier | Qt::AltModifier);
    if (!event->isAutoRepeat() && (command || !(toolKey(event->key()) || setKey(flightKey(*event), true))))
        emit keysElsewhere(QKeySequence(event->keyCombination()));
}

void FieldWindow::keyReleaseEvent(QKeyEvent* event)
{
    if (!event->isAutoRepeat())
        setKey(flightKey(*event), false);
}

void FieldWindow::focusOutEvent(QFocusEvent*)
{
    m_session.flight.keys = {}; // the release would go elsewhere
}

void FieldWindow::mousePressEvent(QMouseEvent* event)
{
    requestActivate();
    m_lastMouse = m_pressedAt = event->pos();
    m_pointer = event->pos();
    m_wiping = isOnWipe(event->pos().x());
    if (event->button() != Qt::LeftButton)
        return;
    if (m_session.editor.tool() && (event->modifiers() & Qt::ShiftModifier)) {
        aim();
        if (m_session.editor.target)
            m_session.editor.pickUp(m_session.editor.target->material);
        m_dragging = m_mayClick = m_isGoingOn = false;
        return;
    }
    m_dragging = !m_wiping;
    m_mayClick = m_dragging && m_session.editor.tool();
    m_isGoingOn = m_mayClick && (event->modifiers() & Qt::ControlModifier);
    m_lastUsed.reset();
    setCursor(m_wiping ? Qt::SplitHCursor : Qt::ClosedHandCursor);
}

void FieldWindow::mouseReleaseEvent(QMouseEvent* event)
{
    if (event->button() == Qt::LeftButton && m_mayClick && !m_isGoingOn) {
        aim(); // where the button was released, not where the last frame saw the pointer
        m_session.useTool();
    }
    m_dragging = m_wiping = m_mayClick = m_isGoingOn = false;
    setCursor(Qt::ArrowCursor);
}

bool FieldWindow::isOnWipe(int x) const
{
    constexpr int kReach = 8; // pixels
    return wipeAt() >= 0 && std::abs(x - wipeAt()) <= kReach;
}

bool FieldWindow::event(QEvent* event)
{
    if (event->type() == QEvent::Leave)
        m_pointer.reset();
    if (event->isInputEvent() || event->type() == QEvent::Leave || event->type() == QEvent::Resize)
        wake(); // at rest the next frame is a tenth of a second away
    return QRasterWindow::event(event);
}

void FieldWindow::mouseMoveEvent(QMouseEvent* event)
{
    m_pointer = event->pos();
    if (m_wiping)
        m_session.look.change([&](FieldLook& look) {
            look.wipe = std::clamp(event->pos().x() / static_cast<double>(std::max(1, width())), 0.02, 0.98);
        });
    if (!m_dragging && !m_wiping)
        setCursor(isOnWipe(event->pos().x()) ? Qt::SplitHCursor : Qt::ArrowCursor);
    constexpr int kStill = 4; // pixels that a hand moves while it clicks
    if (m_mayClick && (event->pos() - m_pressedAt).manhattanLength() > kStill)
        m_mayClick = false;
    if (!m_dragging || m_mayClick || m_isGoingOn)
        return;
    const QPoint by = event->pos() - m_lastMouse;
    m_lastMouse = event->pos();
    m_wasDragged = true;
    m_session.eye = Flight::look(m_session.eye, by.x(), by.y());
}

void FieldWindow::wheelEvent(QWheelEvent* event)
{
    const QPoint turned = event->angleDelta(); // some systems swap the axes while Shift is held
    const int notches = (turned.y() != 0 ? turned.y() : turned.x()) / 120;
    if (m_session.editor.tool() && (event->modifiers() & Qt::ShiftModifier))
        m_session.editor.stepSlot(-notches);
    else
        m_session.flight.changeSpeed(event->angleDelta().y() / 120.0);
}

} // namespace fell::app
