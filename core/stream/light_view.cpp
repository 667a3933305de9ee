// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/light_view.h>

namespace fell::stream {
namespace {

constexpr std::uint8_t kUnknown = 255;

} // namespace

LightView::LightView(const Streamer& streamer, int edge)
    : m_streamer(streamer)
    , m_edge(edge)
{
}

const LightView::Held& LightView::held(ChunkPos chunk)
{
    const auto [place, isNew] = m_held.try_emplace(chunk);
    if (isNew)
        place->second = {m_streamer.voxels(chunk), m_streamer.light(chunk), m_streamer.skyFloor(chunk.x, chunk.z)};
    return place->second;
}

std::size_t LightView::indexOf(VoxelPos at, ChunkPos chunk) const
{
    const VoxelPos in = at - originOf(chunk, m_edge);
    return static_cast<std::size_t>((in.y * m_edge + in.z) * m_edge + in.x);
}

std::optional<int> LightView::level(VoxelPos at, int channel)
{
    const ChunkPos chunk = chunkOf(at, m_edge);
    const Held& here = held(chunk);
    if (!here.light || channel >= here.light->channels)
        return std::nullopt;
    return here.light->at(channel, indexOf(at, chunk));
}

std::optional<Material> LightView::material(VoxelPos at)
{
    const ChunkPos chunk = chunkOf(at, m_edge);
    const Held& here = held(chunk);
    if (!here.voxels)
        return std::nullopt;
    const VoxelPos in = at - originOf(chunk, m_edge);
    return here.voxels->at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z));
}

std::vector<LightStep> LightView::path(VoxelPos from, int channel)
{
    const LightRules& rules = m_streamer.lightRules();
    const auto own = [&](VoxelPos at) -> int {
        if (!rules.mode->isSky(channel))
            return rules.emission[static_cast<std::size_t>(channel)][material(at).value_or(kOpen)];
        const ChunkPos chunk = chunkOf(at, m_edge);
        const VoxelPos in = at - originOf(chunk, m_edge);
        const auto& floor = held(chunk).floor;
        return floor && at.y >= floor->from[static_cast<std::size_t>(in.z * m_edge + in.x)] ? kMaxLight : 0;
    };
    return traceLight(
        from, [&](VoxelPos at) { return level(at, channel).value_or(0); }, own,
        [&](VoxelPos at) -> int { return rules.takenIn(channel)[material(at).value_or(kOpen)]; });
}

LightVolume LightView::volume(VoxelPos low, const std::array<int, 3>& size, int channel)
{
    LightVolume out{low, size, {}, true};
    out.levels.reserve(static_cast<std::size_t>(size[0]) * static_cast<std::size_t>(size[1] * size[2]));
    for (int y = 0; y < size[1]; ++y)
        for (int z = 0; z < size[2]; ++z)
            for (int x = 0; x < size[0];) { // a chunk's part of the row at a time
                const VoxelPos at = low + VoxelPos{x, y, z};
                const ChunkPos chunk = chunkOf(at, m_edge);
                const auto inChunk = static_cast<int>(at.x - originOf(chunk, m_edge).x);
                const int count = std::min(size[0] - x, m_edge - inChunk);
                const Held& here = held(chunk);
                const std::size_t first = indexOf(at, chunk);
                for (std::size_t i = 0; i < static_cast<std::size_t>(count); ++i)
                    out.levels.push_back(
                        here.light ? static_cast<std::uint8_t>(here.light->at(channel, first + i)) : kUnknown);
                out.isWhole &= here.light != nullptr;
                x += count;
            }
    return out;
}

} // namespace fell::stream
