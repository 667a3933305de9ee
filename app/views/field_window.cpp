// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/field_window.h"

#include "models/cull_lines.h"
#include "models/edit_lines.h"
#include "models/text.h"
#include "views/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QOpenGLContext>
#include <QOpenGLFunctions>
#include <QPainter>
#include <QWheelEvent>

#include <cmath>

namespace fell {
namespace {

constexpr double kLongestStep = 0.1; // seconds: after a long pause the eye does not jump
constexpr int kPauseMs = 4; // at least, for the rest of the window
constexpr int kFrameMs = 16; // from one frame to the next while something moves
constexpr int kRestMs = 100; // where nothing does: figures stay live, and the processor is left to what is measured

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
    format.setDepthBufferSize(0); // the picture is made beside it: see target()
    format.setSwapInterval(0); // frames are measured, not paced by the screen
    setFormat(format);
    m_next.setSingleShot(true);
    m_next.setTimerType(Qt::PreciseTimer);
    connect(&m_session, &WorldSession::restarted, this, &FieldWindow::wake);
    connect(&m_session, &WorldSession::editedChanged, this, &FieldWindow::wake);
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
    m_a.renderer.reset();
    m_b.renderer.reset();
    m_beside.release();
    m_target.reset();
    doneCurrent();
}

std::vector<FrameRecord> FieldWindow::takeFrames(bool b)
{
    return std::exchange((b ? m_b : m_a).frames, {});
}

int FieldWindow::wipeAt() const
{
    return m_session.hasB() ? static_cast<int>(std::lround(m_session.look.wipe * width())) : -1;
}

void FieldWindow::initializeGL()
{
    // Both at once: linking programs later would hold up a frame when a setup B is added.
    if (prepare(m_a) && prepare(m_b))
        m_driver = QString::fromStdString(m_a.renderer->driver());
    m_sinceProbe.start();
}

bool FieldWindow::prepare(Side& side)
{
    auto made = Renderer::create();
    if (!made) {
        emit failed(QString::fromStdString(sentence(made.problem())));
        return false;
    }
    side.renderer = made.take();
    return true;
}

void FieldWindow::applyEvents(Side& side, bool b, FrameRecord& frame)
{
    const Setup& setup = b ? m_session.setupB() : m_session.setup();
    Streamer* streamer = b ? m_session.streamerB() : m_session.streamer();
    if (const std::uint64_t epoch = b ? m_session.epochB() : m_session.epoch(); side.epoch != epoch) {
        side.renderer->begin(setup, m_session.terrain());
        side.epoch = epoch;
        side.looks = m_session.looks();
        side.warned = 0; // what it says of the new world is told below
    }
    if (side.looks != m_session.looks()) {
        side.renderer->showBlocks(m_session.terrain().recipe.blocks);
        side.looks = m_session.looks();
    }
    side.renderer->setDistance(setup.stream.distance);
    side.renderer->setLook(setup.draw);
    if (const std::size_t told = side.renderer->warnings().size(); told != side.warned) {
        if (told > side.warned)
            emit warned(QString::fromStdString(sentence(side.renderer->warnings().back())));
        side.warned = told;
    }
    if (!streamer)
        return;
    streamer->lookThrough(pixelsPerRadian(setup.draw.fieldOfView, static_cast<int>(height() * devicePixelRatio())));
    streamer->deliver(frameBudgetOf(setup.upload), [&](const StreamEvent& event) {
        side.renderer->apply(event);
        if (event.kind == StreamEvent::Kind::Upload) {
            frame.meshesUploaded += !event.mesh.mesh.isEmpty();
            frame.bytesUploaded += event.mesh.mesh.bytes();
        } else if (event.kind == StreamEvent::Kind::Release) {
            ++frame.released;
        } else if (event.kind == StreamEvent::Kind::Edited && !b) {
            m_session.editor.arrived(*event.edited);
        }
    });
}

void FieldWindow::drawSide(Side& side, bool b)
{
    QElapsedTimer timer;
    timer.start();
    FrameRecord frame;
    frame.number = m_count;
    applyEvents(side, b, frame);
    frame.uploadMs = ms(timer.nsecsElapsed());
    const qreal ratio = devicePixelRatio();
    const int wide = static_cast<int>(width() * ratio), high = static_cast<int>(height() * ratio);
    DrawOptions options;
    options.paint = m_session.look.paint;
    options.wireframe = m_session.look.wireframe;
    options.sunHeight = m_session.look.sunHeight;
    if (options.paint == Paint::Light) {
        lookUpLevels(side, b);
        options.channel = side.channel;
        options.light = side.levels;
    } else {
        side.levels.reset();
    }
    chooseCulling(side, b, options);
    if (m_light)
        options.path = m_light->path;
    if (const int wipe = static_cast<int>(wipeAt() * ratio); m_session.hasB())
        options.columns = b ? std::array{wipe, wide} : std::array{0, std::max(1, wipe)};
    if (m_session.hasB() && b && options.columns[0] >= options.columns[1])
        options.columns[0] = wide - 1;
    side.report = side.renderer->draw(m_session.eye, wide, high, options);
    side.options = options;
    if (StepTrial& trial = m_session.stepTrial; trial.isRunning() && b == m_session.editsB()) {
        const FrameReport& report = side.report;
        trial.note({report.totalMs, report.chunks, report.triangles, report.drawCalls, report.loadedTriangles,
                       report.gpuBytes, report.culled, report.cpuMs, report.gpuMs},
            m_session.eye);
    }
    frame.cullMs = side.report.cullMs;
    frame.drawMs = side.report.totalMs - side.report.cullMs;
    side.frames.push_back(frame);
}

/// The pictures themselves: without the wipe and what is drawn over them.
void FieldWindow::comparePictures()
{
    const FieldLook& look = m_session.look;
    const bool isThere = m_session.streamer() && m_session.streamer()->settled() && m_session.streamerB()
        && m_session.streamerB()->settled() && !m_session.stepTrial.isRunning();
    const SideBySide::View view{m_session.eye, look.sunHeight, look.fieldOfView, static_cast<int>(look.paint),
        look.channel, look.wireframe, m_a.epoch, m_b.epoch, m_a.report.residentChunks, m_b.report.residentChunks};
    const bool hasDrawn = m_beside.advance(view, isThere, width(), height(), [this](bool b, int wide, int high) {
        Side& side = b ? m_b : m_a;
        DrawOptions options = side.options;
        options.columns = {};
        options.path.clear();
        options.lines.reset();
        options.ghosts = false;
        (void)side.renderer->draw(m_session.eye, wide, high, options);
    });
    if (hasDrawn)
        target().bind();
}

/// Which steps this frame is culled with, from where, and what is shown of it.
void FieldWindow::chooseCulling(Side& side, bool b, DrawOptions& options)
{
    const Setup& setup = b ? m_session.setupB() : m_session.setup();
    const FieldLook& look = m_session.look;
    const bool isTried = m_session.stepTrial.isRunning() && b == m_session.editsB();
    side.renderer->setCulling(isTried ? m_session.stepTrial.next().choices : setup.cull);
    options.leftOut = isTried ? m_session.stepTrial.next().leftOut : 0;
    options.fieldOfView = look.fieldOfView;
    options.cullFrom = look.frozen;
    options.ghosts = look.ghosts && !isTried;
    // While a worker keeps the books nobody knows: then nothing counts as hidden.
    const Lens lens = lensFor(look.fieldOfView > 0 ? look.fieldOfView : setup.draw.fieldOfView,
        static_cast<double>(width()) / std::max(1, height()),
        static_cast<float>(setup.stream.distance * setup.chunk.edge), setup.chunk.edge);
    const Streamer* streamer = b ? m_session.streamerB() : m_session.streamer();
    options.isFree = streamer && streamer->isFree(look.frozen.value_or(m_session.eye), lens).value_or(false);
    if (!isTried) {
        makeLines(side, setup);
        options.lines = side.lines;
        if (!b)
            addToolLines(side, options, setup);
    }
}

/// The tool's lines change with every frame, so they are put behind a copy of the others.
void FieldWindow::addToolLines(Side& side, DrawOptions& options, const Setup& setup)
{
    const ToolHand& editor = m_session.editor;
    if (!(editor.tool() && editor.target) && editor.charges().empty() && editor.debris().empty())
        return;
    auto lines = std::make_shared<LineBatch>();
    if (side.lines)
        *lines = *side.lines;
    else
        lines->from = originOf(chunkOf(m_session.eye.cell, setup.chunk.edge), setup.chunk.edge);
    addTool(*lines, editor, m_session.terrain().recipe.blocks);
    options.lines = std::move(lines);
}

glm::dvec3 FieldWindow::directionAt(QPoint at, const Setup& setup) const
{
    Lens lens;
    lens.fieldOfView
        = static_cast<float>(m_session.look.fieldOfView > 0 ? m_session.look.fieldOfView : setup.draw.fieldOfView);
    lens.aspect = static_cast<float>(width()) / static_cast<float>(std::max(1, height()));
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

/// Anew where what they show has changed, a few times a second at most: an octree has thousands of cells.
void FieldWindow::makeLines(Side& side, const Setup& setup)
{
    constexpr qint64 kAgainMs = 300;
    const FieldLook& look = m_session.look;
    const ChunkOctree& octree = side.renderer->scene().octree();
    const double fieldOfView = look.fieldOfView > 0 ? look.fieldOfView : setup.draw.fieldOfView;
    const ChunkPos here = chunkOf(m_session.eye.cell, setup.chunk.edge);
    const Side::Drawn wanted{look.octree, look.frozen, look.marked, look.box, look.octree ? here : ChunkPos{},
        look.octree ? octree.size() : 0, look.frozen ? fieldOfView : 0};
    Side::Drawn same = wanted;
    same.here = side.drawn.here;
    same.chunks = side.drawn.chunks;
    const bool isRecent = side.sinceLines.isValid() && side.sinceLines.elapsed() < kAgainMs;
    if (wanted == side.drawn || (same == side.drawn && isRecent))
        return;
    side.drawn = wanted;
    side.sinceLines.start();
    auto lines = std::make_shared<LineBatch>();
    lines->from = originOf(here, setup.chunk.edge);
    side.linesLeft = look.octree ? addOctree(*lines, octree.cells(), setup.chunk.edge, here) : 0;
    if (look.frozen) {
        Lens lens;
        lens.fieldOfView = static_cast<float>(fieldOfView);
        lens.aspect = static_cast<float>(width()) / static_cast<float>(std::max(1, height()));
        addView(*lines, *look.frozen, lens, static_cast<double>(setup.stream.distance) * setup.chunk.edge);
    }
    if (look.box)
        addBox(*lines, (*look.box)[0], (*look.box)[1]);
    if (look.marked)
        addChunk(*lines, *look.marked, setup.chunk.edge);
    side.lines = std::move(lines);
}

/// The levels near the eye, again when it has moved on, and now and then while some are still to come.
void FieldWindow::lookUpLevels(Side& side, bool b)
{
    constexpr std::array<int, 3> kSize{64, 48, 64}; // voxels: numbers farther away cannot be read
    constexpr int kDrift = 8; // voxels
    constexpr qint64 kAgainMs = 400;
    Streamer* streamer = b ? m_session.streamerB() : m_session.streamer();
    const Setup& setup = b ? m_session.setupB() : m_session.setup();
    const LightMode& mode = *findLightMode(setup.light.mode);
    const int channel = std::clamp(m_session.look.channel, 0, std::max(0, mode.channels() - 1));
    if (!streamer || mode.channels() == 0) {
        side.levels.reset();
        return;
    }
    const VoxelPos low = m_session.eye.cell - VoxelPos{kSize[0] / 2, kSize[1] / 2, kSize[2] / 2};
    const StreamCounts counts = streamer->counts();
    const std::uint64_t lit = counts.lit;
    if (side.levels && side.channel == channel && side.sinceLevels.isValid()) {
        const VoxelPos moved = low - side.levels->low;
        const bool near = std::max({std::abs(moved.x), std::abs(moved.y), std::abs(moved.z)}) <= kDrift;
        if (near && ((side.levels->isWhole && side.relit == lit) || side.sinceLevels.elapsed() < kAgainMs))
            return;
    }
    LightView view(*streamer, setup.chunk.edge);
    side.levels = std::make_shared<const LightVolume>(view.volume(low, kSize, channel));
    side.channel = channel;
    side.relit = lit;
    side.sinceLevels.start();
}

void FieldWindow::paintGL()
{
    if (!m_a.renderer) {
        m_next.start(); // it may come
        return;
    }
    QElapsedTimer timer;
    timer.start();
    ++m_count;
    const Eye before = m_session.eye;
    m_session.advance(std::min(kLongestStep, ms(m_clock.nsecsElapsed()) / 1000));
    m_clock.restart();
    aim();
    for (Streamer* streamer : {m_session.streamer(), m_session.streamerB()})
        if (streamer)
            streamer->beginFrame();
    target().bind();
    drawSide(m_a, false);
    m_session.editor.pictured();
    double drawn = m_a.frames.back().totalMs();
    if (m_session.hasB() && m_b.renderer) {
        drawSide(m_b, true);
        drawn += m_b.frames.back().totalMs();
        comparePictures();
    } else if (!m_session.hasB() && m_b.epoch != 0) {
        m_b.renderer->begin(m_session.setup(), m_session.terrain()); // its meshes go
        m_b.epoch = 0;
    }
    target().showIn(defaultFramebufferObject());
    QOpenGLContext::currentContext()->functions()->glBindFramebuffer(GL_FRAMEBUFFER, defaultFramebufferObject());
    probe();
    paintChips();
    // What the window itself takes stands with setup A; B's frames hold only what B costs.
    m_a.frames.back().otherMs = std::max(0.0, ms(timer.nsecsElapsed()) - drawn);
    for (Streamer* streamer : {m_session.streamer(), m_session.streamerB()})
        if (streamer)
            streamer->endFrame();
    m_next.start(isAtRest(before) ? kRestMs : std::max(kPauseMs, kFrameMs - static_cast<int>(timer.elapsed())));
}

OffscreenTarget& FieldWindow::target()
{
    static constexpr int kMost = 8192; // pixels
    const auto pixels
        = [this](int along) { return std::clamp(static_cast<int>(along * devicePixelRatio()), 1, kMost); };
    const int wide = pixels(width()), high = pixels(height());
    if (!m_target || m_target->width() != wide || m_target->height() != high)
        m_target.emplace(wide, high);
    return *m_target;
}

bool FieldWindow::isAtRest(const Eye& before) const
{
    const auto hasSettled = [](const Streamer* streamer) { return !streamer || streamer->settled(); };
    const auto hasNothing = [](const Side& side) {
        return side.frames.empty() || (side.frames.back().meshesUploaded == 0 && side.frames.back().released == 0);
    };
    const ToolHand& editor = m_session.editor;
    return before == m_session.eye && !m_session.isWalking() && hasSettled(m_session.streamer()) && hasNothing(m_a)
        && editor.charges().empty() && editor.debris().empty() && !m_session.stepTrial.isRunning() && !m_dragging
        && !m_session.hasB();
}

void FieldWindow::wake()
{
    if (m_next.isActive() && m_next.remainingTime() > kPauseMs)
        m_next.start(kPauseMs);
}

void FieldWindow::probe()
{
    constexpr qint64 kProbeMs = 80; // a ray through a few hundred voxels ten times a second
    if (!m_pointer || m_dragging) {
        m_pointed.reset();
        m_probeText.clear();
        m_light.reset();
        return;
    }
    if (m_sinceProbe.elapsed() < kProbeMs)
        return;
    m_sinceProbe.restart();
    const bool b = m_session.hasB() && m_pointer->x() >= wipeAt();
    const Setup& setup = b ? m_session.setupB() : m_session.setup();
    Streamer* streamer = b ? m_session.streamerB() : m_session.streamer();
    m_pointed.reset();
    m_probeText.clear();
    m_light.reset();
    if (!streamer)
        return;
    const glm::dvec3 direction = directionAt(*m_pointer, setup);
    const double farthest = static_cast<double>(setup.chunk.edge) * setup.stream.distance;
    if (const auto& cover = streamer->cover()) {
        if (cover != m_pointedCover) {
            m_pointedCover = cover;
            m_shownChunks = shownOf(*cover);
        }
        m_pointed = pointedAt(*streamer, m_shownChunks, m_session.eye, direction, setup.chunk.edge, farthest);
    } else {
        m_pointed = pointedAt(*streamer, m_session.eye, direction, setup.chunk.edge, farthest);
    }
    if (!m_pointed)
        return;
    if (m_pointed->material == kOpen) {
        sayHole(*streamer);
        return;
    }
    if (m_pointed->chunk.level == 0)
        probeLight(*streamer, setup);
    const VoxelPos v = m_pointed->voxel;
    m_probeText = tr("%1 at %2, %3, %4")
                      .arg(QString::fromStdString(m_session.terrain().recipe.blocks.kinds[m_pointed->material].name))
                      .arg(v.x)
                      .arg(v.y)
                      .arg(v.z);
    if (const int level = m_pointed->chunk.level; level > 0)
        m_probeText += tr(" · level %1, a voxel is %2 m long")
                           .arg(level)
                           .arg(std::ldexp(m_session.terrain().recipe.voxelMetres, level));
    if (!isStoodOn(m_session.terrain().recipe.blocks.kinds[m_pointed->material]))
        m_probeText += tr(", not stood on");
    const auto figures = (b ? m_b : m_a).renderer->figuresOf(m_pointed->chunk);
    if (!figures)
        return;
    m_probeText += tr(" · its chunk: %1 quads").arg(countText(figures->quads[0]));
    if (const std::uint32_t clear = figures->quads[1] + figures->quads[2]; clear > 0)
        m_probeText += tr(" + %1 clear").arg(countText(clear));
    if (figures->shapeTriangles > 0)
        m_probeText += tr(" + %1 triangles of shapes").arg(countText(figures->shapeTriangles));
    if (figures->objects > 0)
        m_probeText += tr(" + %1 objects").arg(countText(figures->objects));
    m_probeText += tr(" · %1 · meshed in %2 µs").arg(bytesText(figures->bytes), figureText(figures->meshNs / 1000.0));
}

void FieldWindow::probeLight(Streamer& streamer, const Setup& setup)
{
    const LightMode& mode = *findLightMode(setup.light.mode);
    const bool isShown = m_session.look.paint == Paint::Light;
    LightView view(streamer, setup.chunk.edge);
    m_light = lightStoryOf(view, mode, m_session.terrain().recipe.blocks, m_pointed->before,
        isShown ? std::optional(m_session.look.channel) : std::nullopt);
}

void FieldWindow::sayHole(const Streamer& streamer)
{
    const auto probed = streamer.probe(m_pointed->chunk);
    if (!probed)
        return;
    const ChunkPos at = m_pointed->chunk;
    m_probeText = tr("chunk %1, %2, %3 is missing: %4")
                      .arg(at.x)
                      .arg(at.y)
                      .arg(at.z)
                      .arg(whyNotDrawn(at, *probed, false, nullptr));
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
    const QString pace = !m_session.isWalking() ? tr("%1 m/s").arg(figureText(m_session.flight.speed))
        : m_session.body().isSwimming           ? tr("swimming · Space up · F flies")
                                                : tr("walking · Space jumps · F flies");
    chip(12, 12, QString::fromStdString(m_session.terrain().recipe.name), height + pace);
    const std::uint64_t left = m_a.report.notDrawn + (m_session.hasB() ? m_b.report.notDrawn : 0);
    if (left > 0)
        chip(12, 46, tr("%1 blocks not drawn").arg(countText(left)),
            tr("a draw a block stops at %1 draws").arg(countText(kMostBlockDraws)));
    int under = left > 0 ? 80 : 46;
    if (!m_session.look.why.isEmpty()) {
        chip(12, under, tr("Marked"), m_session.look.why);
        under += 34;
    }
    if (m_session.look.frozen) {
        chip(12, under, tr("Culling is held"), tr("where the heather lines meet: fly on and look, F6 lets go"));
        under += 34;
    }
    if (m_session.look.octree && m_a.linesLeft > 0)
        chip(12, under, tr("Octree"), tr("%1 small cells farther away are not drawn").arg(countText(m_a.linesLeft)));
    paintTool(chip, under + (m_session.look.octree && m_a.linesLeft > 0 ? 34 : 0));
    paintGhostKey(painter);
    paintWipe(painter);
    if (!m_probeText.isEmpty() && m_light)
        chip(12, this->height() - 72, tr("Light before it"),
            m_light->source.isEmpty() ? m_light->levels : m_light->levels + QStringLiteral(" — ") + m_light->source);
    if (!m_probeText.isEmpty())
        chip(12, this->height() - 38, tr("Under the pointer"), m_probeText);
    else if (!m_wasDragged)
        chip(12, this->height() - 38, tr("Drag to look"),
            tr("W A S D to fly · E up, Q down · wheel for speed · Shift fast"));
}

/// The tool in hand, and charges that count down.
void FieldWindow::paintTool(const std::function<void(int, int, const QString&, const QString&)>& chip, int under)
{
    const ToolHand& editor = m_session.editor;
    for (const ToolHand::Charge& charge : editor.charges()) {
        chip(12, under, tr("Charge set"), tr("%1 s").arg(charge.left, 0, 'f', 1));
        under += 34;
    }
    if (!editor.tool())
        return;
    const Tool& tool = toolOf(*editor.tool());
    const auto& kinds = m_session.terrain().recipe.blocks.kinds;
    QString text = tool.takesRadius ? tr("radius %1 · ").arg(editor.radius()) : QString();
    if (tool.takesMaterial)
        text += tr("%1 · ").arg(
            editor.material() == kOpen ? tr("open air") : QString::fromStdString(kinds[editor.material()].name));
    text += editor.boxFrom() ? tr("click the opposite corner · Esc lets go")
                             : tr("click to use · Ctrl and drag to go on · Esc puts it away");
    QString title = QString::fromUtf8(tool.title);
    chip(12, under, title.left(1).toUpper() + title.mid(1), text);
    if (editor.figures().missing > 0)
        chip(12, under + 34, tr("%1 voxels left out").arg(countText(editor.figures().missing)),
            tr("their chunks are not there yet"));
}

/// Which step's ghosts have which colour and stripes, and how many chunks they are.
void FieldWindow::paintGhostKey(QPainter& painter)
{
    if (!m_session.look.ghosts || m_session.stepTrial.isRunning() || !m_a.renderer)
        return;
    const Theme& theme = currentTheme();
    const auto& steps = m_session.setup().cull.steps;
    constexpr int kLine = 20, kWide = 236;
    const int high = static_cast<int>(steps.size()) * kLine + 30, x = width() - kWide - 12;
    QColor back = theme.panel;
    back.setAlphaF(0.9F);
    painter.setPen(Qt::NoPen);
    painter.setBrush(back);
    painter.drawRoundedRect(QRect(x, 12, kWide, high), 3, 3);
    painter.setPen(theme.ink);
    painter.setFont(uiFont(12, true));
    painter.drawText(x + 10, 30, steps.empty() ? tr("No step rejects anything") : tr("Rejected by"));
    for (std::size_t i = 0; i < steps.size() && i < m_a.report.culled.size(); ++i) {
        const CullStep& step = *findCullStep(steps[i]);
        const GhostLook look = ghostLook(step);
        const int y = 36 + static_cast<int>(i) * kLine;
        painter.fillRect(QRect(x + 10, y + 3, 22, 13), QColor(look.colour[0], look.colour[1], look.colour[2]));
        painter.setPen(QPen(theme.panel, 1.5));
        for (int line = 4; line < 22; line += 5) {
            if ((look.stripes & 1) && line < 13)
                painter.drawLine(x + 10, y + 3 + line, x + 31, y + 3 + line);
            if (look.stripes & 2)
                painter.drawLine(x + 10 + line, y + 3, x + 10 + line, y + 15);
        }
        painter.setPen(theme.ink);
        painter.setFont(uiFont(12));
        painter.drawText(x + 40, y + 14, QString::fromUtf8(step.title));
        painter.setPen(theme.muted);
        const QString rejected = countText(m_a.report.culled[i].rejected),
                      count = std::string_view(step.unit) == "chunks" ? rejected : tr("%1 sides").arg(rejected);
        drawFigures(painter, x + kWide - 10 - figuresWidth(uiFont(12), count), y + 14, count);
    }
}

void FieldWindow::paintWipe(QPainter& painter)
{
    const int x = wipeAt();
    if (x < 0)
        return;
    const Theme& theme = currentTheme();
    painter.setPen(QPen(theme.panel, 3));
    painter.drawLine(x, 0, x, height());
    painter.setPen(QPen(theme.selection, 1));
    painter.drawLine(x, 0, x, height());
    const auto tag = [&](bool b) {
        const QString text = (b ? tr("B  %1").arg(QString::fromStdString(m_session.setupB().name))
                                : tr("A  %1").arg(QString::fromStdString(m_session.setup().name)));
        painter.setFont(uiFont(12, true));
        const int wide = painter.fontMetrics().horizontalAdvance(text) + 18;
        const QRect box(b ? x + 8 : x - 8 - wide, 12, wide, 24);
        painter.setPen(Qt::NoPen);
        painter.setBrush(b ? theme.setupB : theme.setupA);
        painter.drawRoundedRect(box, 3, 3);
        painter.setPen(b ? QColor(0x22, 0x28, 0x2B) : QColor(Qt::white));
        painter.drawText(box, Qt::AlignCenter, text);
    };
    tag(false);
    tag(true);
    const auto differ = difference();
    constexpr double kLeast = 0.005; // below, two digits say nothing
    const QString text = !differ ? tr("the pictures are compared once both are there and you rest")
        : *differ == 0           ? tr("the two pictures are the same")
        : *differ < kLeast       ? tr("the pictures differ by less than 0.01 of 255")
                                 : tr("the pictures differ by %1 of 255").arg(figureText(*differ));
    painter.setFont(uiFont(12));
    const int wide = figuresWidth(painter.font(), text) + 20;
    const QRect box(std::clamp(x - wide / 2, 8, std::max(8, width() - wide - 8)), 42, wide, 24);
    QColor back = theme.panel;
    back.setAlphaF(0.9F);
    painter.setPen(Qt::NoPen);
    painter.setBrush(back);
    painter.drawRoundedRect(box, 3, 3);
    painter.setPen(theme.ink);
    drawFigures(painter, box.left() + 10, box.top() + 17, text);
    painter.setPen(QPen(theme.selection, 1));
    painter.setBrush(theme.panel);
    painter.drawRoundedRect(QRect(x - 6, height() / 2 - 18, 12, 36), 3, 3);
    painter.drawLine(x - 2, height() / 2 - 8, x - 2, height() / 2 + 8);
    painter.drawLine(x + 2, height() / 2 - 8, x + 2, height() / 2 + 8);
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
    return QOpenGLWindow::event(event);
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
