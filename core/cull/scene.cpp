// SPDX-License-Identifier: Apache-2.0
#include <fell/cull/scene.h>

#include <algorithm>
#include <cassert>
#include <chrono>
#include <numeric>

namespace fell::cull {
namespace {

/// Its place among the chunks of its level.
ChunkPos placeOf(ChunkPos chunk)
{
    return {chunk.x, chunk.y, chunk.z};
}

} // namespace

void CullScene::clear(const CullChoices& choices, int edge, int visibilityRadius)
{
    m_edge = edge;
    m_chunks.clear();
    m_sides.clear();
    m_octrees.fill(ChunkOctree(choices.leaf));
    m_field.clear(visibilityRadius);
    choose(choices);
}

void CullScene::choose(const CullChoices& choices)
{
    if (choices.leaf != octree().leafEdge()) {
        m_octrees.fill(ChunkOctree(choices.leaf));
        for (std::uint32_t i = 0; i < m_chunks.size(); ++i)
            octreeOf(m_chunks[i]).put(placeOf(m_chunks[i]), i);
    }
    m_choices = choices;
    m_steps.clear();
    for (const auto& id : choices.steps)
        m_steps.push_back(findCullStep(id));
}

void CullScene::setSightReach(int chunks)
{
    if (chunks == m_field.reach())
        return;
    const VisibilityTable before = m_field;
    m_field.clear(chunks);
    before.forEach([this](ChunkPos chunk, const ChunkVisibility& sight) { m_field.learn(chunk, sight); });
}

std::uint32_t CullScene::add(ChunkPos chunk, SideSet sides)
{
    const auto index = static_cast<std::uint32_t>(m_chunks.size());
    m_chunks.push_back(chunk);
    m_sides.push_back(sides);
    octreeOf(chunk).put(placeOf(chunk), index);
    return index;
}

std::optional<ChunkPos> CullScene::remove(std::uint32_t index)
{
    assert(index < m_chunks.size());
    octreeOf(m_chunks[index]).remove(placeOf(m_chunks[index]));
    std::optional<ChunkPos> moved;
    if (index + 1 < m_chunks.size()) {
        moved = m_chunks.back();
        m_chunks[index] = *moved;
        m_sides[index] = m_sides.back();
        octreeOf(*moved).put(placeOf(*moved), index);
    }
    m_chunks.pop_back();
    m_sides.pop_back();
    return moved;
}

void CullScene::cull(const CullView& view, CullResult& out, bool tellRejected)
{
    run(m_steps, view, out, tellRejected);
}

void CullScene::cullBy(const CullStep& step, const CullView& view, CullResult& out)
{
    const std::array<const CullStep*, 1> steps{&step};
    run(steps, view, out, false);
}

void CullScene::run(std::span<const CullStep* const> steps, const CullView& view, CullResult& out, bool tellRejected)
{
    out.kept.clear();
    out.counts.assign(steps.size(), {});
    m_candidates.clear();
    if (steps.empty() || std::string_view(steps[0]->id) != "octree") { // the octree brings its own
        m_candidates.resize(m_chunks.size());
        std::iota(m_candidates.begin(), m_candidates.end(), 0U);
    }
    m_shown.assign(m_chunks.size(), kAllSides);
    if (tellRejected)
        out.rejectedBy.assign(m_chunks.size(), CullResult::kNobody);
    std::vector<std::uint8_t> isLeft;
    for (std::size_t s = 0; s < steps.size(); ++s) {
        CullCount& count = out.counts[s];
        const auto start = std::chrono::steady_clock::now();
        const std::size_t before = s == 0 ? m_chunks.size() : m_candidates.size();
        count.tested = before;
        if (steps[s]->run) {
            CullRun step{*this, view, m_candidates, m_shown, count, s == 0};
            steps[s]->run(step);
        } else {
            std::erase_if(m_candidates,
                [&](std::uint32_t i) { return !steps[s]->keeps(view, boxOf(m_chunks[i], view.edge, view.eye)); });
        }
        if (std::string_view(steps[s]->unit) == "chunks") {
            count.kept = m_candidates.size();
            count.rejected = before - count.kept;
        }
        count.ns = static_cast<std::uint64_t>((std::chrono::steady_clock::now() - start).count());
        if (tellRejected) { // candidates that this step rejected
            isLeft.assign(m_chunks.size(), 0);
            for (const std::uint32_t i : m_candidates)
                isLeft[i] = 1;
            for (std::size_t i = 0; i < isLeft.size(); ++i)
                if (!isLeft[i] && out.rejectedBy[i] == CullResult::kNobody)
                    out.rejectedBy[i] = static_cast<std::uint8_t>(s);
        }
    }
    out.kept.reserve(m_candidates.size());
    for (const std::uint32_t i : m_candidates)
        out.kept.push_back({i, m_shown[i]});
}

} // namespace fell::cull
