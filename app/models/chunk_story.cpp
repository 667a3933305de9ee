// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/chunk_story.h>

#include <fell/app/models/text.h>

#include <QStringList>

#include <algorithm>

namespace fell::app {
namespace {

QString placeText(ChunkPos chunk)
{
    return QStringLiteral("%1, %2, %3").arg(chunk.x).arg(chunk.y).arg(chunk.z);
}

QString waitsText(ChunkPos chunk, const ChunkDetails& probe)
{
    constexpr std::size_t kNamed = 3;
    const std::vector<ChunkPos> missing = probe.waitsFor(chunk);
    QStringList names;
    for (std::size_t i = 0; i < std::min(kNamed, missing.size()); ++i)
        names << placeText(missing[i]);
    QString text = QStringLiteral("it waits for the voxels of %1 of its neighbours: %2")
                       .arg(missing.size())
                       .arg(names.join(QStringLiteral(" · ")));
    return missing.size() > kNamed ? text + QStringLiteral(" …") : text;
}

QString agoText(std::uint64_t ns)
{
    const double seconds = static_cast<double>(ns) / 1e9;
    return seconds < 60 ? QStringLiteral("%1 s ago").arg(seconds, 0, 'f', seconds < 10 ? 2 : 1)
                        : QStringLiteral("%1 min ago").arg(seconds / 60, 0, 'f', 1);
}

} // namespace

QString whyNotDrawn(ChunkPos chunk, const ChunkDetails& probe, bool isUploaded, const CullStep* rejectedBy)
{
    switch (probe.stage) {
    case ChunkProgress::Absent:
        return QStringLiteral("it lies beyond the render distance");
    case ChunkProgress::Wanted:
        return probe.tries > 0 ? QStringLiteral("generating it failed %1 times; it is tried again").arg(probe.tries)
                               : QStringLiteral("no worker has started to generate it");
    case ChunkProgress::Generating:
        return QStringLiteral("a thread is generating it");
    case ChunkProgress::Waiting:
        return waitsText(chunk, probe);
    case ChunkProgress::Ready:
        return probe.tries > 0 ? QStringLiteral("meshing it failed %1 times; it is tried again").arg(probe.tries)
                               : QStringLiteral("it waits for a thread that meshes it");
    case ChunkProgress::Meshing:
        return QStringLiteral("a thread is meshing it");
    case ChunkProgress::Bare:
        return QStringLiteral("nothing of it can be seen: all open air, or covered on every side");
    case ChunkProgress::Kept:
        return QStringLiteral("it lies beyond the render distance; its voxels are kept in case you turn back");
    case ChunkProgress::Failed:
        return QStringLiteral("it failed %1 times and was given up").arg(ResidentSet::kMaxTries);
    case ChunkProgress::Meshed:
        break;
    }
    if (!isUploaded)
        return QStringLiteral("its mesh waits to be uploaded");
    if (rejectedBy)
        return QStringLiteral("left out by the cull step “%1”").arg(QString::fromUtf8(rejectedBy->title));
    return {};
}

ChunkStory storyOf(ChunkPos chunk, const ChunkDetails& probe, const std::optional<ChunkFigures>& held,
    std::span<const LifeEvent> life, std::uint64_t nowNs, const CullStep* rejectedBy)
{
    ChunkStory story;
    story.title = QStringLiteral("Chunk %1").arg(placeText(chunk));
    if (chunk.level > 0)
        story.title += QStringLiteral(" of level %1").arg(chunk.level);
    story.whyNot = whyNotDrawn(chunk, probe, held.has_value(), rejectedBy);
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
