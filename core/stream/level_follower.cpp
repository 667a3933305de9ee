// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/level_follower.h>

#include <algorithm>
#include <utility>

namespace fell::stream {

LevelFollower::LevelFollower(StreamWorld& world, const LodChoices& choices)
    : m_world(world)
    , m_choices(choices)
{
}

void LevelFollower::follow(ChunkPos viewer, int distance, double pixels, std::vector<ChunkPos>& retired)
{
    const LodView view{viewer, distance, firstLevelRadius(m_choices, m_world.rules.edge, pixels), m_choices.levels};
    m_selection = std::make_shared<const LodSelection>(selectLevels(view, m_selection.get()));
    m_world.chunks.follow(viewer, m_selection, m_world.rules.pipeline.seams == Seams::Stitched, retired);
    sendNow(); // what goes is hidden before it is released
}

void LevelFollower::send(bool isIdle)
{
    constexpr std::chrono::milliseconds kBetween{100};
    if (m_isStale && (isIdle || std::chrono::steady_clock::now() - m_sentAt > kBetween))
        sendNow();
}

void LevelFollower::sendNow()
{
    m_isStale = false;
    m_sentAt = std::chrono::steady_clock::now();
    auto cover = std::make_shared<const LodCover>(coverOf(*m_selection, [this](ChunkPos chunk) {
        const ChunkRecord* record = m_world.chunks.find(chunk);
        return record && record->state == ChunkState::Meshed;
    }));
    m_world.stats.levelsMissing = cover->missing;
    m_world.stats.levelsWaiting = cover->waiting;
    std::array<std::uint64_t, kMaxLevel + 1> shownAt{};
    for (const ShownChunk& shown : cover->chunks)
        ++shownAt[static_cast<std::size_t>(shown.chunk.level)];
    std::copy(shownAt.begin(), shownAt.end(), m_world.stats.shownAt.begin());
    if (m_sent && m_sent->chunks == cover->chunks)
        return;
    m_sent = cover;
    m_world.events.send({StreamEvent::Kind::Cover, {}, {}, std::move(cover)});
}

} // namespace fell::stream
