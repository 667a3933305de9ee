// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/chunk_story.h>

#include <fell/app/models/text.h>
#include <fell/stream/why_not_drawn.h>

#include <QStringList>

#include <algorithm>

namespace fell::app {
namespace {

QString placeText(ChunkPos chunk)
{
    return QStringLiteral("%1, %2, %3").arg(chunk.x).arg(chunk.y).arg(chunk.z);
}

QString agoText(std::uint64_t ns)
{
    const double seconds = static_cast<double>(ns) / 1e9;
    return seconds < 60 ? QStringLiteral("%1 s ago").arg(seconds, 0, 'f', seconds < 10 ? 2 : 1)
                        : QStringLiteral("%1 min ago").arg(seconds / 60, 0, 'f', 1);
}

} // namespace

ChunkStory storyOf(ChunkPos chunk, const ChunkDetails& probe, const std::optional<ChunkFigures>& held,
    std::span<const LifeEvent> life, std::uint64_t nowNs, const CullStep* rejectedBy)
{
    ChunkStory story;
    story.title = QStringLiteral("Chunk %1").arg(placeText(chunk));
    if (chunk.level > 0)
        story.title += QStringLiteral(" of level %1").arg(chunk.level);
    story.whyNot = QString::fromStdString(whyNotDrawn(chunk, probe, held.has_value(), rejectedBy));
    story.state = story.whyNot.isEmpty() ? QStringLiteral("drawn") : QString::fromUtf8(wordsOf(probe.stage));
    QStringList figures;
    if (probe.voxelBytes > 0)
        figures << QStringLiteral("%1 voxels").arg(bytesText(probe.voxelBytes));
    if (probe.lightBytes > 0)
        figures << QStringLiteral("%1 light").arg(bytesText(probe.lightBytes));
    if (held)
        figures << QStringLiteral("%1 mesh").arg(bytesText(held->bytes))
                << QStringLiteral("%1 quads").arg(countText(held->quads[0] + held->quads[1] + held->quads[2]));
    story.figures = figures.join(QStringLiteral(" · "));
    std::array<int, kChunkProgressCount> stages{};
    for (std::size_t i = 0; i < probe.around.size(); ++i)
        stages[static_cast<std::size_t>(probe.around[i])] += i != 13; // the middle is its own
    QStringList neighbours;
    for (std::size_t s = 0; s < kChunkProgressCount; ++s)
        if (stages[s] > 0)
            neighbours << QStringLiteral("%1 %2").arg(stages[s]).arg(
                QString::fromUtf8(wordsOf(static_cast<ChunkProgress>(s))));
    story.neighbours = QStringLiteral("Neighbours: %1").arg(neighbours.join(QStringLiteral(", ")));
    for (auto event = life.rbegin(); event != life.rend(); ++event)
        story.life.push_back({agoText(nowNs - std::min(nowNs, event->ns)), QString::fromUtf8(wordOf(event->step)),
            event->thread == 0 ? QStringLiteral("drawing") : QStringLiteral("worker %1").arg(event->thread),
            event->costNs > 0 ? QStringLiteral("%1 µs").arg(figureText(event->costNs / 1000.0)) : QString()});
    return story;
}

} // namespace fell::app
