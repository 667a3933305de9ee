// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/field_window.h>

#include <fell/app/views/theme.h>
#include <fell/gpu/shader_library.h>

#include <QPainter>

#include <cmath>

namespace fell::app {
namespace {

constexpr double kLongestStep = 0.1; // seconds: after a long pause the eye does not jump
constexpr int kFrameMs = 16; // from one look at the keys to the next while something moves
constexpr int kRestMs = 100; // where nothing does
constexpr int kSoonMs = 1;

} // namespace

FieldWindow::FieldWindow(WorldSession& session)
    : m_session(session)
    , m_shaderFiles(QString::fromStdString(shaderFolder().string()))
{
    connect(&m_shaderFiles, &ShaderWatcher::changed, this, [this] {
        ++m_shaders;
        wake();
    });
    m_next.setSingleShot(true);
    m_next.setTimerType(Qt::PreciseTimer);
    connect(&m_session, &WorldSession::restarted, this, &FieldWindow::wake);
    connect(&m_session.look, &ViewState::changed, this, &FieldWindow::wake);
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
    return m_session.hasB() ? static_cast<int>(std::lround(m_session.look->wipe * width())) : -1;
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
        || m_isAsked || m_drawsOn;
}

void FieldWindow::drawOn(bool on)
{
    m_drawsOn = on;
    wake();
}

void FieldWindow::wake()
{
    if (m_next.isActive() && m_next.remainingTime() > kSoonMs)
        m_next.start(kSoonMs);
}

DrawOptions FieldWindow::optionsOf(Side& side, bool b, int pixels)
{
    const FieldLook& look = *m_session.look;
    const Setup& setup = b ? m_session.setupB() : m_session.setup();
    const bool isTried = m_session.stepTrial.isRunning() && b == m_session.editsB();
    DrawOptions options;
    options.paint = look.paint;
    options.wireframe = look.wireframe;
    options.sunHeight = look.sunHeight;
    options.voxelMetres = m_session.terrain().recipe.voxelMetres;
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
    frame.shaders = m_shaders;
    return frame;
}

/// Would a new frame show something else than the last?
bool FieldWindow::isNeeded(const FrameRequest& frame) const
{
    const auto isWorking = [](const StreamerShare& share) { return share.streamer && !share.streamer->settled(); };
    return !m_last || !m_last->looksLike(frame) || isWorking(frame.a.streamer)
        || (frame.b && isWorking(frame.b->streamer)) || frame.trial != 0 || (frame.isCompared && !m_difference)
        || m_drawsOn;
}

/// Does the octree that is shown have other chunks by now?
bool FieldWindow::areCellsStale() const
{
    return m_session.look->octree && (!m_cells || m_cellsChunks != m_a.done.octree.chunks);
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
    if (!m_session.look->octree)
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
    if (done.shaderTrouble)
        emit shadersRefused(tr("%1; the field is drawn as before")
                                .arg(QString::fromStdString(sentence(*done.shaderTrouble)).section('\n', 0, 0)));
    if (done.areShadersNew)
        emit shadersLoaded();
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
        {m_a.done.report, m_b.done.report, m_session.look->octree ? m_a.lines.left() : 0, probeText(),
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
        = static_cast<float>(m_session.look->fieldOfView > 0 ? m_session.look->fieldOfView : setup.draw.fieldOfView);
    lens.aspect = static_cast<float>(aspect());
    return directionThrough(m_session.eye, lens, 2.0 * at.x() / width() - 1, 1 - 2.0 * at.y() / height());
}

} // namespace fell::app

#include "moc_field_window.cpp"
