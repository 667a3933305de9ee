// SPDX-License-Identifier: GPL-3.0-or-later
// What is said of one chunk: its progress, why it is not drawn, and its life.
#pragma once

#include <fell/gpu/renderer.h>

#include <QString>

#include <span>
#include <vector>

namespace fell::app {

struct StoryLine {
    QString ago, what, thread, cost; // "1.2 s ago", "meshed", "worker 2", "86 µs"
};

struct ChunkStory {
    QString title; // "Chunk 3, 1, -2"
    QString state; // "drawn", "waits for neighbours"
    QString whyNot; // the one reason why it is not drawn; empty where it is
    QString figures; // bytes and quads
    QString neighbours; // "Neighbours: 17 meshed, 9 nothing to see"
    std::vector<StoryLine> life; // the newest first
};

ChunkStory storyOf(ChunkPos chunk, const ChunkDetails& probe, const std::optional<ChunkFigures>& held,
    std::span<const LifeEvent> life, std::uint64_t nowNs, const CullStep* rejectedBy);

} // namespace fell::app
