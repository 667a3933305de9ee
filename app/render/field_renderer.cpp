// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/render/field_renderer.h>

#include <QElapsedTimer>

#include <algorithm>
#include <array>

namespace fell::app {
namespace {

constexpr int kMax = 8192; // pixels on a side

double ms(qint64 nanoseconds)
{
    return static_cast<double>(nanoseconds) / 1e6;
}

} // namespace

FieldRenderer::FieldRenderer(std::unique_ptr<HeadlessContext> context)
    : m_context(std::move(context))
{
}

Outcome<std::unique_ptr<FieldRenderer>> FieldRenderer::create()
{
    auto context = HeadlessContext::create();
    if (!context)
        return context.problem();
    std::unique_ptr<FieldRenderer> made(new FieldRenderer(context.take()));
    // Both at once: linking programs later would hold up a frame when a setup B is added.
    for (Side* side : {&made->m_a, &made->m_b}) {
        auto renderer = Renderer::create();
        if (!renderer)
            return renderer.problem();
        side->renderer = renderer.take();
    }
    return made;
}

FrameDone FieldRenderer::run(FrameRequest request)
{
    FrameDone done;
    done.isDrawn = request.isDrawn;
    done.eye = request.eye;
    done.trial = request.trial;
    request.width = std::clamp(request.width, 1, kMax);
    request.height = std::clamp(request.height, 1, kMax);
    if (request.isDrawn)
        draw(request, done);
    else
        done.spare = std::move(request.spare);
    lookUp(request, done.found);
    return done;
}

/// Both renderers draw with the shaders of the folder, or both as before.
void FieldRenderer::followShaders(std::uint64_t shaders, FrameDone& done)
{
    if (m_shaders == shaders)
        return;
    m_shaders = shaders;
    done.shaderTrouble = m_a.renderer->reloadShaders();
    if (!done.shaderTrouble)
        done.shaderTrouble = m_b.renderer->reloadShaders();
    done.areShadersNew = !done.shaderTrouble;
}

void FieldRenderer::draw(FrameRequest& request, FrameDone& done)
{
    followShaders(request.shaders, done);
    QElapsedTimer timer;
    timer.start();
    ++m_count;
    const std::array<Streamer*, 2> streamers{
        request.a.streamer.streamer.get(), request.b ? request.b->streamer.streamer.get() : nullptr};
    for (Streamer* streamer : streamers)
        if (streamer)
            streamer->beginFrame();
    if (!m_target || m_target->width() != request.width || m_target->height() != request.height)
        m_target.emplace(request.width, request.height);
    m_target->bind();
    done.a = drawSide(m_a, request.a, request);
    double drawn = done.a.record.totalMs();
    if (request.b) {
        done.b = drawSide(m_b, *request.b, request);
        drawn += done.b->record.totalMs();
        compare(request, done);
    } else if (m_b.epoch != 0) {
        m_b.renderer->begin(request.a.setup, *request.a.terrain); // its meshes go
        m_b.epoch = 0;
    }
    done.picture = std::move(request.spare);
    if (done.picture.size() != QSize(request.width, request.height) || done.picture.format() != QImage::Format_RGB32)
        done.picture = QImage(request.width, request.height, QImage::Format_RGB32);
    m_target->readForWindow(done.picture.bits());
    // Costs of neither setup count for setup A; B's frames contain only what B costs.
    done.a.record.otherMs = std::max(0.0, ms(timer.nsecsElapsed()) - drawn);
    for (Streamer* streamer : streamers)
        if (streamer)
            streamer->endFrame();
}

/// Brings a renderer to the world and the setup that are asked for.
void FieldRenderer::follow(Side& side, const SideRequest& of, SideDone& done)
{
    if (side.epoch != of.epoch) {
        side.renderer->begin(of.setup, *of.terrain);
        side.epoch = of.epoch;
        side.looks = of.looks;
        side.warned = 0; // what it says of the new world is told below
    }
    if (side.looks != of.looks) {
        side.renderer->showBlocks(of.terrain->recipe.blocks);
        side.looks = of.looks;
    }
    side.renderer->setDistance(of.setup.stream.distance);
    side.renderer->setLook(of.setup.draw);
    side.renderer->setCulling(of.cull);
    const auto& warnings = side.renderer->warnings();
    side.warned = std::min(side.warned, warnings.size());
    done.warnings.assign(warnings.begin() + static_cast<std::ptrdiff_t>(side.warned), warnings.end());
    side.warned = warnings.size();
}

void FieldRenderer::deliver(Side& side, const SideRequest& of, FrameRecord& record)
{
    if (!of.streamer.streamer)
        return;
    of.streamer.streamer->deliver(frameBudgetOf(of.setup.upload), [&](const StreamEvent& event) {
        side.renderer->apply(event);
        if (event.kind == StreamEvent::Kind::Upload) {
            record.meshesUploaded += !event.mesh.mesh.isEmpty();
            record.bytesUploaded += event.mesh.mesh.bytes();
        } else if (event.kind == StreamEvent::Kind::Release) {
            ++record.released;
        } else if (event.kind == StreamEvent::Kind::Edited) {
            of.streamer.arrivals->add(event.edited);
        }
    });
}

SideDone FieldRenderer::drawSide(Side& side, const SideRequest& of, const FrameRequest& request)
{
    QElapsedTimer timer;
    timer.start();
    SideDone done;
    done.record.number = m_count;
    follow(side, of, done);
    deliver(side, of, done.record);
    done.record.uploadMs = ms(timer.nsecsElapsed());
    DrawOptions options = of.options;
    const double fieldOfView = options.fieldOfView > 0 ? options.fieldOfView : of.setup.draw.fieldOfView;
    // While a worker holds the resident set it is unknown: then nothing counts as hidden.
    const Lens lens = lensFor(fieldOfView, static_cast<double>(request.width) / request.height,
        static_cast<float>(of.setup.stream.distance * of.setup.chunk.edge), of.setup.chunk.edge);
    options.nearPlaneIsClear = of.streamer.streamer
        && of.streamer.streamer->nearPlaneIsClear(options.cullFrom.value_or(request.eye), lens).value_or(false);
    done.report = side.renderer->draw(request.eye, request.width, request.height, options);
    done.octree = side.renderer->scene().octree().figures();
    done.record.cullMs = done.report.cullMs;
    done.record.drawMs = done.report.totalMs - done.report.cullMs;
    return done;
}

/// The pictures themselves: without the wipe and what is drawn over them.
void FieldRenderer::compare(const FrameRequest& request, FrameDone& done)
{
    const DrawOptions& look = request.a.options;
    const SideBySide::View view{request.eye, look.sunHeight, look.fieldOfView, static_cast<int>(look.paint),
        look.channel, look.wireframe, m_a.epoch, m_b.epoch, done.a.report.residentChunks,
        done.b->report.residentChunks};
    const bool hasDrawn
        = m_beside.advance(view, request.isCompared, request.width, request.height, [&](bool b, int wide, int high) {
              DrawOptions options = (b ? *request.b : request.a).options;
              options.columns = {};
              options.path.clear();
              options.lines.reset();
              options.ghosts = false;
              (void)(b ? m_b : m_a).renderer->draw(request.eye, wide, high, options);
          });
    if (hasDrawn)
        m_target->bind();
    done.difference = m_beside.difference();
}

void FieldRenderer::lookUp(const FrameRequest& request, Found& found)
{
    const LookUp& asked = found.asked = request.lookUp;
    if (m_a.epoch != request.a.epoch)
        return; // nothing of this world is held yet
    if (asked.chunk) {
        found.chunk = m_a.renderer->figuresOf(*asked.chunk);
        found.rejectedBy = m_a.renderer->rejectedBy(*asked.chunk);
    }
    if (asked.pointed)
        found.pointed = (asked.isPointedOfB ? m_b : m_a).renderer->figuresOf(*asked.pointed);
    if (asked.arena)
        found.arena = m_a.renderer->arena();
    if (asked.cells)
        found.cells = std::make_shared<const std::vector<OctreeCell>>(m_a.renderer->scene().octree().cells());
}

} // namespace fell::app
