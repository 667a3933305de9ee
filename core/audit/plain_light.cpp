// SPDX-License-Identifier: Apache-2.0
#include <fell/audit/plain_light.h>

#include <algorithm>
#include <cassert>

namespace fell::audit {
namespace {

VoxelPos neighbour(VoxelPos at, Side side)
{
    const ChunkPos to = stepOf(side);
    return at + VoxelPos{to.x, to.y, to.z};
}

} // namespace

PlainLight::PlainLight(LightRules rules, int edge)
    : m_rules(std::move(rules))
    , m_edge(edge)
{
}

void PlainLight::put(ChunkPos chunk, std::vector<Material> voxels)
{
    m_top = std::max(m_top, originOf(chunk, m_edge).y + m_edge);
    m_chunks[chunk].voxels = std::move(voxels);
}

PlainLight::Seat PlainLight::seat(VoxelPos at)
{
    const ChunkPos chunk = chunkOf(at, m_edge);
    const auto found = m_chunks.find(chunk);
    if (found == m_chunks.end())
        return {};
    const VoxelPos in = at - originOf(chunk, m_edge);
    return {&found->second, static_cast<std::size_t>((in.y * m_edge + in.z) * m_edge + in.x)};
}

int PlainLight::level(VoxelPos at, int channel) const
{
    const Seat at2 = const_cast<PlainLight*>(this)->seat(at); // only looks
    return at2.chunk ? at2.chunk->levels[static_cast<std::size_t>(channel)][at2.voxel] : 0;
}

Material PlainLight::material(VoxelPos at) const
{
    const Seat at2 = const_cast<PlainLight*>(this)->seat(at); // only looks
    return at2.chunk ? at2.chunk->voxels[at2.voxel] : kOpen;
}

bool PlainLight::isUnderSky(VoxelPos at)
{
    for (; at.y < m_top; ++at.y)
        if (const Seat here = seat(at); here.chunk && !m_rules.isOpen[here.chunk->voxels[here.voxel]])
            return false;
    return true;
}

int PlainLight::own(VoxelPos at, int channel)
{
    const Seat here = seat(at);
    if (!here.chunk)
        return 0;
    if (m_rules.mode->isSky(channel))
        return isUnderSky(at)   ? kMaxLight
            : at.y + 1 == m_top ? kMaxLight - m_rules.takenIn(channel)[here.chunk->voxels[here.voxel]]
                                : 0;
    return m_rules.emission[static_cast<std::size_t>(channel)][here.chunk->voxels[here.voxel]];
}

/// Spreads what the queue holds; each entry's level is that of its voxel.
void PlainLight::light(std::vector<Lit>& queue, int channel)
{
    const auto c = static_cast<std::size_t>(channel);
    const auto& attenuation = m_rules.takenIn(channel);
    for (std::size_t i = 0; i < queue.size(); ++i) {
        const Lit from = queue[i];
        for (const Side side : kSides) {
            const VoxelPos at = neighbour(from.at, side);
            const Seat to = seat(at);
            if (!to.chunk)
                continue;
            const int level = from.level - attenuation[to.chunk->voxels[to.voxel]];
            std::uint8_t& has = to.chunk->levels[c][to.voxel];
            if (level > has) {
                has = static_cast<std::uint8_t>(level);
                queue.push_back({at, level});
            }
        }
    }
}

void PlainLight::flood()
{
    const auto cells = static_cast<std::size_t>(m_edge) * m_edge * m_edge;
    for (int channel = 0; channel < m_rules.mode->channels(); ++channel) {
        const auto c = static_cast<std::size_t>(channel);
        std::vector<Lit> queue;
        for (auto& [chunk, held] : m_chunks)
            held.levels[c].assign(cells, 0);
        const auto start = [&](VoxelPos at, const Seat& here, int level) {
            here.chunk->levels[c][here.voxel] = static_cast<std::uint8_t>(level);
            queue.push_back({at, level});
        };
        for (auto& [chunk, held] : m_chunks) {
            const VoxelPos origin = originOf(chunk, m_edge);
            if (m_rules.mode->isSky(channel)) {
                if (m_chunks.contains(chunk + ChunkPos{0, 1, 0}))
                    continue; // begun from the top chunk of each column
                for (int z = 0; z < m_edge; ++z)
                    for (int x = 0; x < m_edge; ++x) {
                        VoxelPos at = origin + VoxelPos{x, m_edge - 1, z};
                        if (const int level = isUnderSky(at) ? 0 : own(at, channel); level > 0)
                            start(at, seat(at), level);
                        if (!isUnderSky(at))
                            continue;
                        for (Seat here = seat(at); here.chunk && m_rules.isOpen[here.chunk->voxels[here.voxel]];
                             here = seat(at)) {
                            start(at, here, kMaxLight);
                            --at.y;
                        }
                    }
                continue;
            }
            for (int y = 0; y < m_edge; ++y)
                for (int z = 0; z < m_edge; ++z)
                    for (int x = 0; x < m_edge; ++x) {
                        const VoxelPos at = origin + VoxelPos{x, y, z};
                        const Seat here = seat(at);
                        if (const int emission = m_rules.emission[c][here.chunk->voxels[here.voxel]])
                            start(at, here, emission);
                    }
        }
        light(queue, channel);
    }
}

/// Puts out what has its light from the queue's voxels; what is brighter, and what emits light itself, goes to
/// `again`.
void PlainLight::putOut(std::vector<Lit>& queue, std::vector<Lit>& again, int channel)
{
    const auto c = static_cast<std::size_t>(channel);
    for (std::size_t i = 0; i < queue.size(); ++i) {
        const Lit from = queue[i];
        for (const Side side : kSides) {
            const VoxelPos at = neighbour(from.at, side);
            const Seat to = seat(at);
            if (!to.chunk)
                continue;
            std::uint8_t& has = to.chunk->levels[c][to.voxel];
            if (has == 0)
                continue;
            const bool fell = m_rules.mode->isSky(channel) && side == Side::Down && from.level == kMaxLight
                && has == kMaxLight && !isUnderSky(at);
            if (has >= from.level && !fell) {
                again.push_back({at, has});
                continue;
            }
            queue.push_back({at, has});
            has = 0;
            if (const int emission = own(at, channel)) {
                has = static_cast<std::uint8_t>(emission);
                again.push_back({at, emission});
            }
        }
    }
}

void PlainLight::set(VoxelPos at, Material material)
{
    const Seat here = seat(at);
    assert(here.chunk);
    here.chunk->voxels[here.voxel] = material;
}

void PlainLight::edit(VoxelPos at, Material material)
{
    const Seat here = seat(at);
    assert(here.chunk);
    here.chunk->voxels[here.voxel] = material;
    for (int channel = 0; channel < m_rules.mode->channels(); ++channel) {
        std::uint8_t& has = here.chunk->levels[static_cast<std::size_t>(channel)][here.voxel];
        std::vector<Lit> out{{at, has}}, again;
        has = 0;
        putOut(out, again, channel);
        if (m_rules.mode->isSky(channel) && isUnderSky(at)) // and so may be the column below
            for (VoxelPos down = at; seat(down).chunk && isUnderSky(down); --down.y) {
                const Seat seated = seat(down);
                seated.chunk->levels[static_cast<std::size_t>(channel)][seated.voxel] = kMaxLight;
                again.push_back({down, kMaxLight});
            }
        else if (const int emission = own(at, channel)) {
            has = static_cast<std::uint8_t>(emission);
            again.push_back({at, emission});
        }
        for (const Side side : kSides)
            if (const int level = this->level(neighbour(at, side), channel))
                again.push_back({neighbour(at, side), level});
        // What was put out after it had been noted is no source any more.
        std::erase_if(again, [&](const Lit& lit) { return this->level(lit.at, channel) != lit.level; });
        light(again, channel);
    }
}

} // namespace fell::audit
