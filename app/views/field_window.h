// SPDX-License-Identifier: GPL-3.0-or-later
// The world, shown and flown through. A render thread draws it: this window asks for frames and shows the last one.
// It is a native window inside a container, since composing it with widgets would cost 15 ms.
#pragma once

#include <fell/app/models/field_levels.h>
#include <fell/app/models/field_lines.h>
#include <fell/app/models/field_probe.h>
#include <fell/app/models/frame_history.h>
#include <fell/app/models/resident_reader.h>
#include <fell/app/models/shader_watcher.h>
#include <fell/app/models/world_session.h>
#include <fell/app/render/render_thread.h>
#include <fell/app/views/field_overlay.h>

#include <QElapsedTimer>
#include <QKeySequence>
#include <QRasterWindow>
#include <QTimer>

#include <memory>

namespace fell::app {

class FieldWindow : public QRasterWindow {
    Q_OBJECT
public:
    explicit FieldWindow(WorldSession& session);

    /// Frames since the last call; of setup B where `b`.
    std::vector<FrameRecord> takeFrames(bool b = false);
    [[nodiscard]] const FrameReport& lastFrame(bool b = false) const { return (b ? m_b : m_a).done.report; }
    /// Of the picture that is shown: frames are counted from the first on.
    [[nodiscard]] std::uint64_t frameNumber() const { return m_a.done.record.number; }
    /// What lies under the pointer, as it was last shown; and what is said of it.
    [[nodiscard]] const std::optional<Pointed>& pointed() const { return m_probe.pointed(); }
    [[nodiscard]] QString probeText() const { return m_probe.text(m_session, pointedFigures()); }
    /// The light before it, and the way that it came, which is drawn.
    [[nodiscard]] const std::optional<LightStory>& lightStory() const { return m_probe.light(); }
    /// The levels that the overlay of light shows near the eye; null while it is off.
    [[nodiscard]] const LightVolume* levels() const { return m_a.levels.levels(); }
    /// Where the wipe is, pixels from the left; -1 without a setup B.
    [[nodiscard]] int wipeAt() const;
    /// How much the whole pictures of A and B differ, of 255; none until both rest and are all there.
    [[nodiscard]] std::optional<double> difference() const { return m_difference; }
    /// Of setup A, or B: the world octree, as of the last frame.
    [[nodiscard]] OctreeFigures octree(bool b = false) const { return (b ? m_b : m_a).done.octree; }
    [[nodiscard]] QString driver() const { return m_driver; } // empty until the render thread has begun
    /// Does the last frame show all there is, with nothing on its way?
    [[nodiscard]] bool isUpToDate() const;
    /// Draws frame after frame although nothing changes, to measure them.
    void drawOn(bool on);

    /// Looks up what the renderer has of setup A: of a chunk, of the graphics memory, and of the octree where `cells`.
    /// lookedUp() tells that found() has it.
    void lookUp(ChunkPos chunk, bool cells);
    [[nodiscard]] const Found& found() const { return m_found; }

signals:
    /// The driver cannot do what Fell needs; the field stays empty.
    void failed(const QString& sentence);
    /// Keys that are none of the field's own: the window's shortcuts do not see what is typed into the field.
    void keysElsewhere(const QKeySequence& keys);
    /// Pictures that could not be read; the world goes on without them.
    void warned(const QString& sentence);
    /// Files of shaders have changed, and are drawn with.
    void shadersLoaded();
    /// One of them does not compile: file, line and message.
    void shadersRefused(const QString& sentence);
    void lookedUp();

protected:
    void paintEvent(QPaintEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void keyReleaseEvent(QKeyEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    bool event(QEvent* event) override;

private:
    /// What belongs to one setup.
    struct Side {
        SideDone done; // of the last frame
        std::vector<FrameRecord> frames;
        FieldLines lines;
        FieldLevels levels;
    };
    void begin();
    void tick();
    void wake();
    void request();
    void show(FrameDone done);
    void take(Side& side, SideDone done);
    void noteFound(Found found);
    void sayWarnings(const std::vector<Problem>& warnings);
    void showOverlay();
    [[nodiscard]] FrameRequest frameOf();
    [[nodiscard]] SideRequest sideOf(bool b);
    [[nodiscard]] DrawOptions optionsOf(Side& side, bool b, int pixels);
    [[nodiscard]] bool areCellsStale() const;
    [[nodiscard]] LookUp wantedLookUp() const;
    [[nodiscard]] bool isNeeded(const FrameRequest& frame) const;
    [[nodiscard]] bool isBusy() const;
    [[nodiscard]] std::optional<ChunkFigures> pointedFigures() const;
    [[nodiscard]] double aspect() const;
    bool setKey(int key, bool down); // false if the key is none of the field's
    static int flightKey(const QKeyEvent& event);
    bool toolKey(int key);
    void probe();
    void aim();
    [[nodiscard]] glm::dvec3 directionAt(QPoint at, const Setup& setup) const;
    [[nodiscard]] bool isOnWipe(int x) const;

    WorldSession& m_session;
    Side m_a, m_b;
    QImage m_picture, m_spare;
    bool m_drawsOn = false;
    bool m_isNew = false; // m_picture shows edits for the first time, and is not painted yet
    FieldOverlay m_overlay;
    std::optional<double> m_difference;
    ShaderWatcher m_shaderFiles;
    std::uint64_t m_shaders = 0; // how often they have changed
    QString m_driver;
    // Frames on their way.
    bool m_isReady = false, m_isAsked = false; // the render thread can draw; and is about to
    std::optional<FrameRequest>
        m_last; // that was drawn or is being drawn; without streamers, which it would keep alive
    Found m_found, m_pointedFound;
    OctreeCells m_cells;
    std::size_t m_cellsChunks = 0; // that the octree had when m_cells were looked up
    std::optional<LookUp> m_plan; // what the plan wants to know
    QElapsedTimer m_sinceCells, m_sinceAsked, m_clock;
    QTimer m_next;
    // Pointer and keys.
    std::optional<QPoint> m_pointer;
    FieldProbe m_probe;
    bool m_wiping = false;
    QPoint m_lastMouse;
    bool m_dragging = false, m_wasDragged = false;
    QPoint m_pressedAt;
    bool m_mayClick = false; // pressed, and not moved since
    bool m_isGoingOn = false; // Ctrl is held: the tool is used wherever the pointer comes
    std::optional<VoxelPos> m_lastUsed;
    ResidentReader m_reader; // what is aimed through
    std::unique_ptr<RenderThread> m_render; // last: ends first
};

} // namespace fell::app
