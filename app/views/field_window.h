// SPDX-License-Identifier: GPL-3.0-or-later
// The world, drawn and flown through. A window of its own inside a container: composing it with widgets would cost 15
// ms.
#pragma once

#include "gpu/headless.h"
#include "gpu/renderer.h"
#include "models/chunk_story.h"
#include "models/frame_history.h"
#include "models/light_story.h"
#include "models/pointer.h"
#include "models/resident_reader.h"
#include "models/world_session.h"
#include "views/side_by_side.h"

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

    /// Frames since the last call; of setup B where `b`.
    std::vector<FrameRecord> takeFrames(bool b = false);
    [[nodiscard]] const FrameReport& lastFrame(bool b = false) const { return (b ? m_b : m_a).report; }
    /// What lies under the pointer, as it was last shown; and what is said of it.
    [[nodiscard]] const std::optional<Pointed>& pointed() const { return m_pointed; }
    [[nodiscard]] QString probeText() const { return m_probeText; }
    /// The light before it, and the way that it came, which is drawn.
    [[nodiscard]] const std::optional<LightStory>& lightStory() const { return m_light; }
    /// The levels that the overlay of light shows near the eye; null while it is off.
    [[nodiscard]] const LightVolume* levels() const { return m_a.levels.get(); }
    /// Where the wipe is, pixels from the left; -1 without a setup B.
    [[nodiscard]] int wipeAt() const;
    /// How much the whole pictures of A and B differ, of 255; none until both rest and are all there.
    [[nodiscard]] std::optional<double> difference() const { return m_beside.difference(); }
    /// Of setup A: what is held of a chunk, and where everything lies.
    [[nodiscard]] std::optional<ChunkFigures> figuresOf(ChunkPos chunk) const
    {
        return m_a.renderer ? m_a.renderer->figuresOf(chunk) : std::nullopt;
    }
    /// The step that leaves a chunk out of the last frame; null where it is drawn or not held.
    [[nodiscard]] const CullStep* rejectedBy(ChunkPos chunk) const
    {
        return m_a.renderer ? m_a.renderer->rejectedBy(chunk) : nullptr;
    }
    /// Of setup A, or B: the world octree.
    [[nodiscard]] OctreeFigures octree(bool b = false) const
    {
        const auto& renderer = (b ? m_b : m_a).renderer;
        return renderer ? renderer->scene().octree().figures() : OctreeFigures{};
    }
    [[nodiscard]] std::vector<OctreeCell> octreeCells() const
    {
        return m_a.renderer ? m_a.renderer->scene().octree().cells() : std::vector<OctreeCell>{};
    }
    [[nodiscard]] ArenaFigures arena() const { return m_a.renderer ? m_a.renderer->arena() : ArenaFigures{}; }
    [[nodiscard]] QString driver() const { return m_driver; }

signals:
    /// The driver cannot do what Fell needs; the field stays empty.
    void failed(const QString& sentence);
    /// Keys that are none of the field's own: the window's shortcuts do not see what is typed into the field.
    void keysElsewhere(const QKeySequence& keys);
    /// Pictures that could not be read; the world goes on without them.
    void warned(const QString& sentence);

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
    bool event(QEvent* event) override;

private:
    /// Does nothing move, and is nothing still to come? `before`: where the eye was in the frame before.
    [[nodiscard]] bool isAtRest(const Eye& before) const;
    /// The next frame soon, also at rest.
    void wake();
    /// The picture with depth as a 32-bit float, which a window's own framebuffer seldom has; of the window's size.
    OffscreenTarget& target();
    std::optional<OffscreenTarget> m_target;
    bool setKey(int key, bool down); // false if the key is none of the field's
    /// What belongs to one setup.
    struct Side {
        std::unique_ptr<Renderer> renderer;
        std::uint64_t epoch = 0;
        std::uint64_t looks = 0; // WorldSession::looks
        std::size_t warned = 0; // of the renderer's warnings, those that were told
        FrameReport report;
        DrawOptions options; // of the last frame
        std::vector<FrameRecord> frames;
        std::shared_ptr<const LightVolume> levels; // of the overlay of light
        int channel = 0; // whose they are
        std::uint64_t relit = 0; // meshes that had come when they were looked up
        QElapsedTimer sinceLevels;
        // The lines of the octree, the held view and the marked chunk, and what they were made of.
        struct Drawn {
            bool octree = false;
            std::optional<Eye> frozen;
            std::optional<ChunkPos> marked;
            std::optional<std::array<VoxelPos, 2>> box;
            ChunkPos here;
            std::size_t chunks = 0;
            double fieldOfView = 0;
            bool operator==(const Drawn&) const = default;
        };
        std::shared_ptr<const LineBatch> lines;
        Drawn drawn;
        std::size_t linesLeft = 0; // cells of the octree that are not drawn
        QElapsedTimer sinceLines;
    };
    bool prepare(Side& side);
    void applyEvents(Side& side, bool b, FrameRecord& frame);
    void drawSide(Side& side, bool b);
    void comparePictures();
    void paintChips();
    void paintWipe(class QPainter& painter);
    void probe();
    void aim();
    void addToolLines(Side& side, DrawOptions& options, const Setup& setup);
    void paintTool(const std::function<void(int, int, const QString&, const QString&)>& chip, int under);
    bool toolKey(int key);
    [[nodiscard]] glm::dvec3 directionAt(QPoint at, const Setup& setup) const;
    void probeLight(Streamer& streamer, const Setup& setup);
    void lookUpLevels(Side& side, bool b);
    void makeLines(Side& side, const Setup& setup);
    void chooseCulling(Side& side, bool b, DrawOptions& options);
    void paintGhostKey(class QPainter& painter);
    void sayHole(const Streamer& streamer);
    [[nodiscard]] bool isOnWipe(int x) const;

    WorldSession& m_session;
    Side m_a, m_b;
    SideBySide m_beside;
    std::uint64_t m_count = 0;
    std::optional<QPoint> m_pointer;
    QElapsedTimer m_sinceProbe;
    std::shared_ptr<const LodCover> m_pointedCover; // that m_shownChunks are of
    ShownChunks m_shownChunks;
    std::optional<Pointed> m_pointed;
    QString m_probeText;
    std::optional<LightStory> m_light;
    bool m_wiping = false;
    QElapsedTimer m_clock;
    QTimer m_next; // a pause between frames, in which the window's other events are handled
    QPoint m_lastMouse;
    bool m_dragging = false, m_wasDragged = false;
    QPoint m_pressedAt;
    bool m_mayClick = false; // pressed, and not moved since
    bool m_isGoingOn = false; // Ctrl is held: the tool is used wherever the pointer comes
    std::optional<VoxelPos> m_lastUsed;
    ResidentReader m_reader; // what is aimed through
    QString m_driver;
};

} // namespace fell
