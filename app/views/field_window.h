// SPDX-License-Identifier: GPL-3.0-or-later
// The world, drawn and flown through. A window of its own inside a container: composing it with widgets would cost 15
// ms.
#pragma once

#include "gpu/renderer.h"
#include "models/frame_history.h"
#include "models/world_session.h"

#include <QElapsedTimer>
#include <QKeySequence>
#include <QOpenGLWindow>
#include <QTimer>

#include <memory>

namespace fell {

class FieldWindow : public QOpenGLWindow {
    Q_OBJECT
public:
    explicit FieldWindow(WorldSession& session);
    ~FieldWindow() override;

    /// Frames since the last call.
    std::vector<FrameRecord> takeFrames();
    [[nodiscard]] const FrameReport& lastFrame() const { return m_report; }
    [[nodiscard]] QString driver() const { return m_driver; }

signals:
    /// The driver cannot do what Fell needs; the field stays empty.
    void failed(const QString& sentence);
    /// Keys that are none of the field's own: the window's shortcuts do not see what is typed into the field.
    void keysElsewhere(const QKeySequence& keys);

protected:
    void initializeGL() override;
    void paintGL() override;
    void keyPressEvent(QKeyEvent* event) override;
    void keyReleaseEvent(QKeyEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

private:
    bool setKey(int key, bool down); // false if the key is none of the field's
    void applyEvents(FrameRecord& frame);
    void paintChips();

    WorldSession& m_session;
    std::unique_ptr<Renderer> m_renderer;
    std::uint64_t m_epoch = 0;
    FrameReport m_report;
    std::vector<FrameRecord> m_frames;
    std::uint64_t m_count = 0;
    QElapsedTimer m_clock;
    QTimer m_next; // a pause between frames, in which the window's other events are handled
    QPoint m_lastMouse;
    bool m_dragging = false, m_wasDragged = false;
    QString m_driver;
};

} // namespace fell
