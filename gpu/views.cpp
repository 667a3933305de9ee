// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/views.h>

#include <glm/geometric.hpp>

#include <algorithm>

namespace fell::gpu {

void DrawList::show(ChunkStore& store, const std::vector<KeptChunk>& kept, const Eye& eye, int edge, bool numbered)
{
    const auto& all = store.scene().chunks();
    std::vector<std::pair<float, std::uint32_t>> sorted; // squared distance of its middle, place in `kept`
    sorted.reserve(kept.size());
    for (std::uint32_t i = 0; i < kept.size(); ++i) {
        const Box box = boxOf(all[kept[i].index], edge, eye);
        const glm::vec3 away = (box.low + box.high) * 0.5F - glm::vec3(eye.within);
        sorted.emplace_back(glm::dot(away, away), i);
    }
    std::sort(sorted.begin(), sorted.end());
    m_shown.clear();
    m_places.clear();
    for (const auto& [unused, i] : sorted) {
        const ChunkPos chunk = all[kept[i].index];
        HeldChunk* held = store.find(chunk);
        const float number = numbered ? 16.0F * static_cast<float>(held->place + 1) : 0;
        m_shown.push_back({held, kept[i].sides});
        m_places.push_back(
            {glm::vec4(boxOf(chunk, edge, eye).low, static_cast<float>(chunk.level) + number), held->cells.first});
    }
    m_buffer.setList(m_places);
}

} // namespace fell::gpu
