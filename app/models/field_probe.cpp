// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/field_probe.h>

#include <fell/app/models/chunk_story.h>
#include <fell/app/models/text.h>
#include <fell/stream/why_not_drawn.h>

#include <QCoreApplication>

#include <cmath>

namespace fell::app {
namespace {

QString tr(const char* text)
{
    return QCoreApplication::translate("FieldProbe", text);
}

QString figuresText(const ChunkFigures& held)
{
    QString text = tr(" · its chunk: %1 quads").arg(countText(held.quads[0]));
    if (const std::uint32_t clear = held.quads[1] + held.quads[2]; clear > 0)
        text += tr(" + %1 clear").arg(countText(clear));
    if (held.shapeTriangles > 0)
        text += tr(" + %1 triangles of shapes").arg(countText(held.shapeTriangles));
    if (held.objects > 0)
        text += tr(" + %1 objects").arg(countText(held.objects));
    return text + tr(" · %1 · meshed in %2 µs").arg(bytesText(held.bytes), figureText(held.meshNs / 1000.0));
}

} // namespace

void FieldProbe::clear()
{
    m_pointed.reset();
    m_light.reset();
    m_missing.clear();
}

void FieldProbe::look(WorldSession& session, bool b, const glm::dvec3& direction)
{
    constexpr qint64 kAgainMs = 80; // a ray through a few hundred voxels ten times a second
    if (m_since.elapsed() < kAgainMs)
        return;
    m_since.restart();
    clear();
    m_isOfB = b;
    const Setup& setup = b ? session.setupB() : session.setup();
    Streamer* streamer = b ? session.streamerB() : session.streamer();
    if (!streamer)
        return;
    const double farthest = static_cast<double>(setup.chunk.edge) * setup.stream.distance;
    if (auto cover = streamer->cover()) {
        if (cover != m_cover) {
            m_shown = shownOf(*cover);
            m_cover = std::move(cover);
        }
        m_pointed = pointedAt(*streamer, m_shown, session.eye, direction, setup.chunk.edge, farthest);
    } else {
        m_pointed = pointedAt(*streamer, session.eye, direction, setup.chunk.edge, farthest);
    }
    if (!m_pointed)
        return;
    const ChunkPos at = m_pointed->chunk;
    if (m_pointed->material == kOpen) {
        if (const auto probed = streamer->probe(at))
            m_missing = tr("chunk %1, %2, %3 is missing: %4")
                            .arg(at.x)
                            .arg(at.y)
                            .arg(at.z)
                            .arg(QString::fromStdString(whyNotDrawn(at, *probed, false, nullptr)));
    } else if (at.level == 0) {
        const bool isShown = session.look->paint == Paint::Light;
        LightView view(*streamer, setup.chunk.edge);
        m_light = lightStoryOf(view, *findLightMode(setup.light.mode), session.terrain().recipe.blocks,
            m_pointed->before, isShown ? std::optional(session.look->channel) : std::nullopt);
    }
}

QString FieldProbe::text(const WorldSession& session, const std::optional<ChunkFigures>& held) const
{
    if (!m_pointed || m_pointed->material == kOpen)
        return m_missing;
    const auto& kinds = session.terrain().recipe.blocks.kinds;
    if (m_pointed->material >= kinds.size()) // another world since
        return {};
    const BlockKind& kind = kinds[m_pointed->material];
    const VoxelPos v = m_pointed->voxel;
    QString text = tr("%1 at %2, %3, %4").arg(QString::fromStdString(kind.name)).arg(v.x).arg(v.y).arg(v.z);
    if (const int level = m_pointed->chunk.level; level > 0)
        text += tr(" · level %1, a voxel is %2 m long")
                    .arg(level)
                    .arg(std::ldexp(session.terrain().recipe.voxelMetres, level));
    if (!isStoodOn(kind))
        text += tr(", not stood on");
    return held ? text + figuresText(*held) : text;
}

} // namespace fell::app
