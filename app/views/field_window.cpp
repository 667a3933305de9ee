// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/field_window.h"

#include "views/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>

#include <cmath>

namespace fell {
namespace {

constexpr double kLongestStep = 0.1; // seconds: after a long pause the eye does not jump
constexpr int kFrameMs = 16; // from one look at the keys to the next while something moves
constexpr int kRestMs = 100; // where nothing does
constexpr int kSoonMs = 1;

} // namespace

FieldWindow::FieldWindow(WorldSession& session)
    : m_session(session)
{
    m_next.setSingleShot(true);
    m_next.setTimerType(Qt::PreciseTimer);
    connect(&m_session, &WorldSession::restarted, this, &FieldWindow::wake);
    connect(&m_session, &WorldSession::editedChanged, this, &FieldWindow::wake);
    connect(&m_next, &QTimer::timeout, this, &FieldWindow::tick);
    m_clock.start();
    begin();
    m_next.start(kFrameMs);
}

/// Starts the render thread, whose answers come through this thread's events.
void FieldWindow::begin()
{
    const auto later = [this](auto act) { QMetaObject::invokeMethod(this, std::move(act), Qt::QueuedConnection); };
    RenderThread::Listener listener;
    listener.ready = [this, later](std::string driver, std::vector<PassInfo> passes) {
        later([this, driver = std::move(driver), passes = std::move(passes)] {
            m_driver = QString::fromStdString(driver);
            m_session.stepTrial.setPasses(passes);
            m_isReady = true;
            wake();
        });
    };
    listener.done = [this, later](FrameDone done) {
        later([this, done = std::make_shared<FrameDone>(std::move(done))] { show(std::move(*done)); });
    };
    listener.failed = [this, later](const Problem& problem) {
        later([this, problem] {
            m_isReady = false;
            emit failed(QString::fromStdString(sentence(problem)));
        });
    };
    m_render = std::make_unique<RenderThread>(std::move(listener));
}

std::vector<FrameRecord> FieldWindow::takeFrames(bool b)
{
    return std::exchange((b ? m_b : m_a).frames, {});
}

int FieldWindow::wipeAt() const
{
    return m_session.hasB() ? static_cast<int>(std::lround(m_session.look.wipe * width())) : -1;
}

double FieldWindow::aspect() const
{
    return static_cast<double>(width()) / std::max(1, height());
}

/// Moves what moves, and asks for a frame where the last one does not show it.
void FieldWindow::tick()
{
    if (!isExposed())
        return m_next.start(kRestMs);
    const Eye before = m_session.eye;
    m_session.advance(std::min(kLongestStep, static_cast<double>(m_clock.nsecsElapsed()) / 1e9));
    m_clock.restart();
    aim();
    probe();
    if (m_isReady && !m_isAsked)
        request();
    showOverlay();
    m_next.start(before == m_session.eye && !isBusy() ? kRestMs : kFrameMs);
}

/// Does something move, or is something still to come?
bool FieldWindow::isBusy() const
{
    const auto isWorking = [](const Streamer* streamer) { return streamer && !streamer->settled(); };
    const ToolHand& editor = m_session.editor;
    return m_session.isWalking() || m_session.isFlyingAlong() || m_session.flight.keys.any() || m_dragging || m_wiping
        || !editor.charges().empty() || !editor.debris().empty() || m_session.stepTrial.isRunning()
        || isWorking(m_session.streamer()) || isWorking(m_session.streamerB()) || (m_session.hasB() && !m_difference)
        || m_isAsked;
}

void FieldWindow::wake()
{
    if (m_next.isActive() && m_next.remainingTime() > kSoonMs)
        m_next.start(kSoonMs);
}

DrawOptions FieldWindow::optionsOf(Side& side, bool b, int pixels)
{
    const FieldLook& look = m_session.look;
    const Setup& setup = b ? m_session.setupB() : m_session.setup();
    const bool isTried = m_session.stepTrial.isRunning() && b == m_session.editsB();
    DrawOptions options;
    options.paint = look.paint;
    options.wireframe = look.wireframe;
    options.sunHeight = look.sunHeight;
    if (options.paint == Paint::Light) {
        const Streamer* streamer = b ? m_session.streamerB() : m_session.streamer();
        options.light = side.levels.update(streamer, setup, m_session.eye.cell, look.channel);
        options.channel = side.levels.channel();
    } else {
        side.levels.clear();
    }
    options.leftOut = isTried ? m_session.stepTrial.next().leftOut : 0;
    options.fieldOfView = look.fieldOfView;
    options.cullFrom = look.frozen;
    options.ghosts = look.ghosts && !isTried;
    if (!isTried)
        options.lines = side.lines.update(m_session, setup, b ? nullptr : m_cells, aspect(), !b);
    if (m_probe.light())
        options.path = m_probe.light()->path;
    if (m_session.hasB()) {
        const int wipe = std::clamp(static_cast<int>(wipeAt() * devicePixelRatio()), 1, std::max(1, pixels - 1));
        options.columns = b ? std::array{wipe, pixels} : std::array{0, wipe};
    }
    return options;
}

SideRequest FieldWindow::sideOf(bool b)
{
    const Setup& setup = b ? m_session.setupB() : m_session.setup();
    const bool isTried = m_session.stepTrial.isRunning() && b == m_session.editsB();
    SideRequest out;
    out.setup = setup;
    out.cull = isTried ? m_session.stepTrial.next().choices : setup.cull;
    out.terrain = m_session.sharedTerrain();
    out.streamer = b ? m_session.shareB() : m_session.share();
    out.epoch = b ? m_session.epochB() : m_session.epoch();
    out.looks = m_session.looks();
    return out;
}

FrameRequest FieldWindow::frameOf()
{
    FrameRequest frame;
    frame.eye = m_session.eye;
    frame.width = std::max(1, static_cast<int>(width() * devicePixelRatio()));
    frame.height = std::max(1, static_cast<int>(height() * devicePixelRatio()));
    frame.a = sideOf(false);
    frame.a.options = optionsOf(m_a, false, frame.width);
    if (m_session.hasB()) {
        frame.b = sideOf(true);
        frame.b->options = optionsOf(m_b, true, frame.width);
    }
    for (SideRequest* side : {&frame.a, frame.b ? &*frame.b : nullptr})
        if (side && side->streamer.streamer)
            side->streamer.streamer->lookThrough(pixelsPerRadian(side->setup.draw.fieldOfView, frame.height));
    const auto isThere = [](const Streamer* streamer) { return streamer && streamer->settled(); };
    frame.isCompared = frame.b && isThere(m_session.streamer()) && isThere(m_session.streamerB())
        && !m_session.stepTrial.isRunning();
    frame.trial = m_session.stepTrial.number();
    return frame;
}

/// Would a new frame show something else than the last?
bool FieldWindow::isNeeded(const FrameRequest& frame) const
{
    const auto isWorking = [](const StreamerShare& share) { return share.streamer && !share.streamer->settled(); };
    return !m_last || !m_last->looksLike(frame) || isWorking(frame.a.streamer)
        || (frame.b && isWorking(frame.b->streamer)) || frame.trial != 0 || (frame.isCompared && !m_difference);
}

/// Does the octree that is shown have other chunks by now?
bool FieldWindow::areCellsStale() const
{
    return m_session.look.octree && (!m_cells || m_cellsChunks != m_a.done.octree.chunks);
}

LookUp FieldWindow::wantedLookUp() const
{
    constexpr qint64 kCellsMs = 300; // thousands of them
    LookUp wanted = m_plan.value_or(LookUp{});
    const bool areCellsOld = !m_sinceCells.isValid() || m_sinceCells.elapsed() > kCellsMs;
    wanted.cells = wanted.cells || (areCellsStale() && (!m_cells || areCellsOld));
    if (const auto& pointed = m_probe.pointed()) {
        wanted.pointed = pointed->chunk;
        wanted.isPointedOfB = m_probe.isOfB();
    }
    return wanted;
}

void FieldWindow::request()
{
    if (!m_session.look.octree)
        m_cells = nullptr;
    FrameRequest frame = frameOf();
    frame.isDrawn = isNeeded(frame);
    frame.lookUp = wantedLookUp();
    const bool isPointedNew = frame.lookUp.pointed && frame.lookUp.pointed != m_pointedFound.asked.pointed;
    if (!frame.isDrawn && !m_plan && !isPointedNew && !(areCellsStale() && frame.lookUp.cells))
        return;
    m_plan.reset();
    m_isAsked = true;
    m_sinceAsked.start();
    if (frame.isDrawn) {
        m_last = frame;
        m_last->a.streamer = {};
        if (m_last->b)
            m_last->b->streamer = {};
    }
    frame.spare = std::exchange(m_spare, {});
    m_render->draw(std::move(frame));
}

bool FieldWindow::isUpToDate() const
{
    const auto isThere = [](const Streamer* streamer) { return !streamer || streamer->settled(); };
    return m_last && !m_isAsked && !m_picture.isNull() && m_last->a.epoch == m_session.epoch()
        && m_last->a.setup == m_session.setup() && m_last->eye == m_session.eye && isThere(m_session.streamer())
        && isThere(m_session.streamerB());
}

/// A frame has come, or only what was looked up.
void FieldWindow::show(FrameDone done)
{
    m_isAsked = false;
    if (done.found.cells)
        m_cellsChunks = done.isDrawn ? done.a.octree.chunks : m_a.done.octree.chunks;
    noteFound(std::move(done.found));
    if (!done.isDrawn) {
        m_spare = std::move(done.spare);
        return;
    }
    m_spare = std::exchange(m_picture, std::move(done.picture));
    take(m_a, std::move(done.a));
    if (done.b)
        take(m_b, std::move(*done.b));
    m_difference = done.difference;
    m_isNew = m_session.noteArrivals() || m_isNew;
    if (StepTrial& trial = m_session.stepTrial; trial.isRunning() && trial.number() == done.trial) {
        const FrameReport& report = lastFrame(m_session.editsB());
        trial.note({report.totalMs, report.chunks, report.triangles, report.drawCalls, report.loadedTriangles,
                       report.gpuBytes, report.culled, report.cpuMs, report.gpuMs},
            done.eye);
    }
    update();
    if (m_next.isActive() && isBusy())
        m_next.start(std::max(kSoonMs, kFrameMs - static_cast<int>(m_sinceAsked.elapsed())));
}

void FieldWindow::take(Side& side, SideDone done)
{
    sayWarnings(done.warnings);
    side.done = std::move(done);
    side.frames.push_back(side.done.record);
}

void FieldWindow::sayWarnings(const std::vector<Problem>& warnings)
{
    if (!warnings.empty())
        emit warned(QString::fromStdString(sentence(warnings.back())));
}

void FieldWindow::noteFound(Found found)
{
    if (found.asked.pointed) {
        m_pointedFound.asked = found.asked;
        m_pointedFound.pointed = found.pointed;
    }
    if (found.cells) {
        m_cells = found.cells;
        m_sinceCells.start();
    }
    if (!found.asked.chunk)
        return;
    m_found = std::move(found);
    emit lookedUp();
}

void FieldWindow::lookUp(ChunkPos chunk, bool cells)
{
    m_plan.emplace();
    m_plan->chunk = chunk;
    m_plan->arena = true;
    m_plan->cells = cells;
    wake();
}

std::optional<ChunkFigures> FieldWindow::pointedFigures() const
{
    const auto& pointed = m_probe.pointed();
    const bool isKnown = pointed && m_pointedFound.asked.pointed == pointed->chunk
        && m_pointedFound.asked.isPointedOfB == m_probe.isOfB();
    return isKnown ? m_pointedFound.pointed : std::nullopt;
}

void FieldWindow::probe()
{
    if (!m_pointer || m_dragging)
        return m_probe.clear();
    const bool b = m_session.hasB() && m_pointer->x() >= wipeAt();
    m_probe.look(m_session, b, directionAt(*m_pointer, b ? m_session.setupB() : m_session.setup()));
}

void FieldWindow::showOverlay()
{
    const auto& light = m_probe.light();
    FieldOverlay now = overlayOf(m_session,
        {m_a.done.report, m_b.done.report, m_session.look.octree ? m_a.lines.left() : 0, probeText(),
            light ? light->levels : QString(), light ? light->source : QString(), m_wasDragged, wipeAt(),
            m_difference});
    if (now == m_overlay)
        return;
    m_overlay = std::move(now);
    update();
}

void FieldWindow::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    const QRect all(0, 0, width(), height());
    if (m_picture.isNull())
        painter.fillRect(all, currentTheme().panel);
    else
        painter.drawImage(all, m_picture);
    paint(painter, m_overlay, all.size());
    if (std::exchange(m_isNew, false))
        m_session.editor.pictured();
}

glm::dvec3 FieldWindow::directionAt(QPoint at, const Setup& setup) const
{
    Lens lens;
    lens.fieldOfView
        = static_cast<float>(m_session.look.fieldOfView > 0 ? m_session.look.fieldOfView : setup.draw.fieldOfView);
    lens.aspect = static_cast<float>(aspect());
    return directionThrough(m_session.eye, lens, 2.0 * at.x() / width() - 1, 1 - 2.0 * at.y() / height());
}

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
    if (key >= Qt::Key_1 && key < Qt::Key_1 + static_cast<int>(ToolHand::kSlots))
        editor.chooseSlot(static_cast<std::size_t>(key - Qt::Key_1));
    else if (key == Qt::Key_BracketLeft)
        editor.setRadius(editor.radius() - 1);
    else if (key == Qt::Key_BracketRight)
        editor.setRadius(editor.radius() + 1);
    else
        return false;
    return true;
}

void FieldWindow::keyPressEvent(QKeyEvent* event)
{
    const bool command = event->modifiers() & (Qt::ControlModifier | Qt::AltModifier);
    if (!event->isAutoRepeat() && (command || !(toolKey(event->key()) || setKey(event->key(), true))))
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
    m_lastMouse = m_pressedAt = event->pos();
    m_pointer = event->pos();
    m_wiping = isOnWipe(event->pos().x());
    if (event->button() == Qt::RightButton) {
        if (m_session.editor.target)
            m_session.editor.pickUp(m_session.editor.target->material);
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
        aim(); // where the button was let go, not where the last frame saw the pointer
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
        m_session.look.wipe = std::clamp(event->pos().x() / static_cast<double>(std::max(1, width())), 0.02, 0.98);
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
    m_session.flight.changeSpeed(event->angleDelta().y() / 120.0);
}

} // namespace fell
