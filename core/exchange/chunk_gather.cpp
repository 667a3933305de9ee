// SPDX-License-Identifier: Apache-2.0
#include <fell/exchange/chunk_gather.h>

#include <algorithm>

namespace fell::exchange {
namespace {

constexpr Material kUntouched = 0xFFFF; // more than any block set has
constexpr std::int64_t kFarthestVoxel = 1'000'000'000; // voxels
constexpr std::int64_t kDeepestVoxel = -4096; // below it the world is solid: the recipe of importWorld

std::size_t voxelsKept()
{
    return std::size_t{kKeptEdge} * kKeptEdge * kKeptEdge;
}

std::string textOf(VoxelPos at)
{
    return std::to_string(at.x) + ", " + std::to_string(at.y) + ", " + std::to_string(at.z);
}

} // namespace

ChunkGather::ChunkGather(WorldFile& world, std::size_t most)
    : m_world(world)
    , m_most(most)
{
}

ChunkGather::Held& ChunkGather::heldAt(ChunkPos chunk)
{
    Held& held = m_held[chunk];
    if (held.voxels.empty())
        held.voxels.assign(voxelsKept(), kUntouched);
    held.used = ++m_time;
    return held;
}

std::optional<Problem> ChunkGather::add(
    const ForeignHeader& header, const ForeignChunk& chunk, const std::vector<Material>& materials, VoxelPos shift)
{
    const auto& edge = header.edge;
    const VoxelPos begin = header.placeOf(chunk.at, {0, 0, 0}) + shift,
                   end = header.placeOf(chunk.at, {edge[0] - 1, edge[1] - 1, edge[2] - 1}) + shift;
    for (const VoxelPos at : {begin, end})
        if (std::max({std::abs(at.x), std::abs(at.y), std::abs(at.z)}) > kFarthestVoxel || at.y < kDeepestVoxel)
            return Problem{"chunk " + std::to_string(chunk.at[0]) + ", " + std::to_string(chunk.at[1]) + ", "
                    + std::to_string(chunk.at[2]),
                "",
                "has a voxel at " + textOf(at) + "; at most " + std::to_string(kFarthestVoxel)
                    + " from the origin and not below " + std::to_string(kDeepestVoxel)
                    + " are allowed: move it by --at"};
    // Of each of the file's axes: in which kept chunk a voxel lies, and where in it.
    struct Step {
        std::int64_t kept;
        std::size_t offset;
    };
    std::array<std::vector<Step>, 3> steps;
    const std::array<std::int64_t, 3> first{begin.x, begin.y, begin.z};
    constexpr std::array<std::size_t, 3> kStrides{1, std::size_t{kKeptEdge} * kKeptEdge, kKeptEdge}; // x, y, z
    for (std::size_t axis = 0; axis < 3; ++axis) {
        const auto to = static_cast<std::size_t>(header.axes[axis].to);
        for (int n = 0; n < edge[axis]; ++n) {
            const std::int64_t at = first[to] + (header.axes[axis].isBackward ? -n : n);
            const std::int64_t kept = chunkOf({at, 0, 0}, kKeptEdge).x;
            steps[axis].push_back({kept, static_cast<std::size_t>(at - kept * kKeptEdge) * kStrides[to]});
        }
    }
    const auto keptAt = [&](const Step& i, const Step& j, const Step& k) {
        std::array<std::int64_t, 3> out{};
        out[static_cast<std::size_t>(header.axes[0].to)] = i.kept;
        out[static_cast<std::size_t>(header.axes[1].to)] = j.kept;
        out[static_cast<std::size_t>(header.axes[2].to)] = k.kept;
        return ChunkPos{out[0], out[1], out[2]};
    };
    const std::uint16_t* id = chunk.ids.data();
    for (const Step& k : steps[2])
        for (const Step& j : steps[1]) {
            Material* to = nullptr;
            std::int64_t kept = INT64_MAX;
            for (const Step& i : steps[0]) {
                if (i.kept != kept) {
                    kept = i.kept;
                    to = heldAt(keptAt(i, j, k)).voxels.data() + j.offset + k.offset;
                }
                const Material material = materials[*id];
                if (material == kOpen && *id != 0)
                    return Problem{"material " + std::to_string(*id), "",
                        "is not in the palette, and chunk " + std::to_string(chunk.at[0]) + ", "
                            + std::to_string(chunk.at[1]) + ", " + std::to_string(chunk.at[2])
                            + " has it: add it there"};
                to[i.offset] = material;
                ++id;
            }
        }
    return m_held.size() > m_most ? writeDownTo(m_most / 2) : std::nullopt;
}

/// Writes those that were touched longest ago.
std::optional<Problem> ChunkGather::write(std::size_t count)
{
    std::vector<std::pair<std::uint64_t, ChunkPos>> byUse;
    byUse.reserve(m_held.size());
    for (const auto& [chunk, held] : m_held)
        byUse.emplace_back(held.used, chunk);
    std::sort(byUse.begin(), byUse.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    byUse.resize(std::min(count, byUse.size()));
    std::vector<StoredChunk> out;
    for (const auto& [used, chunk] : byUse) {
        std::vector<Material>& voxels = m_held[chunk].voxels;
        if (m_written.count(chunk) > 0) { // what came before stays where nothing new came
            const auto before = m_world.loadBox(chunk, chunk + ChunkPos{1, 1, 1});
            if (!before)
                return before.problem();
            for (const StoredChunk& stored : before.value().chunks)
                for (const KeptVoxel& one : stored.changed)
                    if (stored.chunk == chunk && voxels[one.voxel] == kUntouched)
                        voxels[one.voxel] = one.material;
        }
        StoredChunk stored{chunk, {}, nullptr};
        for (std::size_t i = 0; i < voxels.size(); ++i)
            if (voxels[i] != kUntouched && voxels[i] != kOpen)
                stored.changed.push_back({static_cast<std::uint16_t>(i), voxels[i]});
        m_held.erase(chunk);
        if (!stored.changed.empty() || m_written.count(chunk) > 0) {
            m_written.insert(chunk);
            out.push_back(std::move(stored));
        }
    }
    return out.empty() ? std::nullopt : m_world.save(out);
}

std::optional<Problem> ChunkGather::writeDownTo(std::size_t held)
{
    constexpr std::size_t kTogether = 256; // chunks: 32 MiB of voxels at most
    while (m_held.size() > held)
        if (auto problem = write(std::min(kTogether, m_held.size() - held)))
            return problem;
    return std::nullopt;
}

std::optional<Problem> ChunkGather::finish()
{
    return writeDownTo(0);
}

} // namespace fell::exchange
