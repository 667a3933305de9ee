// SPDX-License-Identifier: Apache-2.0
#include <fell/light/light_store.h>

#include <fell/light/light_path.h>

#include <algorithm>
#include <cassert>

namespace fell::light {

Transmission& LitChunk::passesToChange()
{
    if (!m_ownPasses)
        m_passes = m_ownPasses = std::make_shared<Transmission>(*m_passes);
    return *m_ownPasses;
}

ChunkLight& LitChunk::lightToChange()
{
    assert(m_light);
    if (!m_ownLight)
        m_light = m_ownLight = std::make_shared<ChunkLight>(*m_light);
    return *m_ownLight;
}

void LitChunk::setLight(ChunkLight light)
{
    m_light = m_ownLight = std::make_shared<ChunkLight>(std::move(light));
}

void LitChunk::setFoundLight(ChunkLight light)
{
    setLight(std::move(light));
    m_first = m_light;
    m_ownLight.reset(); // an edit copies it, so that what differs can be told
    m_wasFound = true;
}

std::shared_ptr<const Transmission> LitChunk::sharePasses()
{
    m_ownPasses.reset();
    return m_passes;
}

std::shared_ptr<const ChunkLight> LitChunk::shareLight()
{
    m_ownLight.reset();
    return m_light;
}

ChunkBox LitChunk::difference(int edge) const
{
    if (m_light == m_first)
        return ChunkBox::nothing();
    return m_first && m_light ? differenceOf(*m_first, *m_light) : ChunkBox{{0, 0, 0}, {edge, edge, edge}};
}

LightStore::LightStore(LightRules rules, int edge, SkyHeightMapOf floorOf, KnownLightOf known)
    : m_rules(std::move(rules))
    , m_edge(edge)
    , m_known(std::move(known))
    , m_sky(edge, std::move(floorOf))
{
}

LitChunk* LightStore::at(ChunkPos chunk)
{
    if (m_last && m_lastChunk == chunk)
        return m_last;
    auto found = m_chunks.find(chunk);
    if (found == m_chunks.end()) {
        auto known = m_known ? m_known(chunk) : std::nullopt;
        if (!known)
            return nullptr;
        found = m_chunks.emplace(chunk, LitChunk(std::move(*known))).first;
    }
    m_lastChunk = chunk;
    m_last = &found->second;
    return m_last;
}

void LightStore::put(ChunkPos chunk, Transmission passes)
{
    m_chunks.insert_or_assign(chunk, LitChunk(std::make_shared<Transmission>(std::move(passes))));
}

bool LightStore::isSurrounded(ChunkPos chunk)
{
    bool whole = true;
    eachAround(chunk, [&](ChunkPos near) { whole &= at(near) != nullptr; });
    return whole;
}

LightStore::Place LightStore::placeOf(VoxelPos at) const
{
    const ChunkPos chunk = chunkOf(at, m_edge);
    const VoxelPos in = at - originOf(chunk, m_edge);
    return {chunk, static_cast<std::size_t>((in.y * m_edge + in.z) * m_edge + in.x)};
}

int LightStore::level(VoxelPos voxel, int channel)
{
    const Place place = placeOf(voxel);
    const LitChunk* chunk = at(place.chunk);
    if (!chunk) // nothing is there, but it may be the sky over the world
        return m_rules.mode->isSky(channel) && isUnderSky(voxel) ? kMaxLight : 0;
    return chunk->light() ? chunk->light()->at(channel, place.voxel) : 0;
}

bool LightStore::isUnderSky(VoxelPos voxel)
{
    // Where nothing is known elsewhere, only columns of chunks that were put have a floor.
    return m_sky.isUnderSky(voxel, hasKnown());
}

int LightStore::emission(VoxelPos voxel, int channel)
{
    if (m_rules.mode->isSky(channel))
        return isUnderSky(voxel) ? kMaxLight : 0;
    const Place place = placeOf(voxel);
    const LitChunk* chunk = at(place.chunk);
    if (!chunk)
        return 0;
    const auto& lamps = chunk->passes().lamps;
    const auto lamp = std::lower_bound(
        lamps.begin(), lamps.end(), place.voxel, [](const LampVoxel& a, std::size_t index) { return a.voxel < index; });
    return lamp != lamps.end() && lamp->voxel == place.voxel
        ? m_rules.emission[static_cast<std::size_t>(channel)][lamp->material]
        : 0;
}

int LightStore::attenuation(VoxelPos voxel, int channel)
{
    const Place place = placeOf(voxel);
    const LitChunk* chunk = at(place.chunk);
    return chunk ? takenAt(chunk->passes(), place.voxel, m_rules.colourOf(channel)) : kMaxLight;
}

int LightStore::fromNeighbours(VoxelPos voxel, int channel)
{
    int max = 0;
    for (const Side side : kSides)
        max = std::max(max, level(neighbour(voxel, side), channel));
    return std::max(0, max - attenuation(voxel, channel));
}

} // namespace fell::light
