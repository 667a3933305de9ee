// SPDX-License-Identifier: Apache-2.0
#include <fell/light/light_batches.h>

#include <algorithm>
#include <optional>

namespace fell::light {
namespace {

struct Bounds {
    ChunkPos low{INT64_MAX, INT64_MAX, INT64_MAX}, high{INT64_MIN, INT64_MIN, INT64_MIN}; // both inside
    void add(ChunkPos c)
    {
        low = {std::min(low.x, c.x), std::min(low.y, c.y), std::min(low.z, c.z)};
        high = {std::max(high.x, c.x), std::max(high.y, c.y), std::max(high.z, c.z)};
    }
};

/// Without a flood, where it is plain what there is: rock that takes all light, and open sky far from any lamp. Nothing
/// if it is not.
std::optional<ChunkLight> uniformLight(LightStore& store, ChunkPos chunk, const LitChunk& cell)
{
    ChunkLight light;
    light.edge = store.edge();
    light.channels = store.rules().mode->channels();
    if (cell.passes().kind == Transmission::Kind::Open) {
        bool hasLamp = false;
        eachAround(chunk, [&](ChunkPos at) { hasLamp |= !store.at(at)->passes().lamps.empty(); });
        if (hasLamp
            || (store.rules().mode->sky > 0
                && store.sky().at(chunk.x, chunk.z).highest > originOf(chunk, store.edge()).y))
            return std::nullopt;
        for (int c = store.rules().mode->lamps; c < light.channels; ++c)
            light.of[static_cast<std::size_t>(c)].all = kMaxLight;
    } else if (cell.passes().kind != Transmission::Kind::Dark) {
        return std::nullopt;
    }
    return light;
}

} // namespace

void floodChunks(LightStore& store, std::span<const ChunkPos> chunks, FloodScratch& scratch)
{
    if (chunks.empty())
        return;
    Bounds bounds;
    for (const ChunkPos chunk : chunks)
        bounds.add(chunk);
    const ChunkPos size = bounds.high - bounds.low + ChunkPos{1, 1, 1};
    if (static_cast<std::size_t>(size.x * size.y * size.z) > 2 * chunks.size() + 8) { // thinly spread: one by one
        if (chunks.size() > 1)
            for (const ChunkPos chunk : chunks)
                floodChunks(store, {&chunk, 1}, scratch);
        return;
    }
    LightBlock block;
    block.rules = &store.rules();
    block.edge = store.edge();
    block.size = {static_cast<int>(size.x) + 2, static_cast<int>(size.y) + 2, static_cast<int>(size.z) + 2};
    const ChunkPos low = bounds.low - ChunkPos{1, 1, 1};
    block.y0 = originOf(low, store.edge()).y;
    for (std::int64_t y = 0; y < block.size[1]; ++y)
        for (std::int64_t z = 0; z < block.size[2]; ++z)
            for (std::int64_t x = 0; x < block.size[0]; ++x) {
                const LitChunk* cell = store.at(low + ChunkPos{x, y, z});
                block.passes.push_back(cell ? &cell->passes() : nullptr);
            }
    for (std::int64_t z = 0; z < block.size[2]; ++z) // all floors are made before one is pointed at
        for (std::int64_t x = 0; x < block.size[0]; ++x)
            (void)store.sky().at(low.x + x, low.z + z);
    for (std::int64_t z = 0; z < block.size[2]; ++z)
        for (std::int64_t x = 0; x < block.size[0]; ++x)
            block.floors.push_back(&store.sky().at(low.x + x, low.z + z));
    const LightPart part{{1, 1, 1}, {block.size[0] - 1, block.size[1] - 1, block.size[2] - 1}};
    std::vector<ChunkLight> lights = floodBlock(block, part, scratch);
    for (const ChunkPos chunk : chunks) {
        const ChunkPos in = chunk - bounds.low;
        store.at(chunk)->setLight(std::move(lights[static_cast<std::size_t>((in.y * size.z + in.z) * size.x + in.x)]));
    }
}

void floodInBatches(LightStore& store, std::span<const ChunkPos> chunks, FloodScratch& scratch)
{
    constexpr std::int64_t kPart = 3;
    const auto part = [](std::int64_t v) { return v >= 0 ? v / kPart : -((kPart - 1 - v) / kPart); };
    std::unordered_map<ChunkPos, std::vector<ChunkPos>, ChunkPosHash> parts;
    for (const ChunkPos chunk : chunks)
        parts[{part(chunk.x), part(chunk.y), part(chunk.z)}].push_back(chunk);
    for (const auto& [unused, some] : parts)
        floodChunks(store, some, scratch);
}

void floodMissing(LightStore& store, std::span<const ChunkPos> chunks, FloodScratch& scratch)
{
    for (const ChunkPos chunk : chunks)
        if (LitChunk* cell = store.at(chunk); cell && !cell->light() && store.isSurrounded(chunk)) {
            auto light = uniformLight(store, chunk, *cell);
            if (!light) {
                floodChunks(store, {&chunk, 1}, scratch);
                light = *cell->light();
            }
            cell->setFoundLight(std::move(*light));
        }
}

} // namespace fell::light
