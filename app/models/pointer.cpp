// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/pointer.h>

#include <glm/geometric.hpp>
#include <glm/matrix.hpp>

#include <algorithm>
#include <cmath>
#include <limits>

namespace fell::app {

glm::dvec3 directionThrough(const Eye& eye, const Lens& lens, double x, double y)
{
    const glm::mat4 back = glm::inverse(viewProjection(eye, lens));
    const auto at = [&back, x, y](float depth) {
        const glm::vec4 p = back * glm::vec4(static_cast<float>(x), static_cast<float>(y), depth, 1);
        return glm::dvec3(p) / static_cast<double>(p.w);
    };
    return glm::normalize(at(0.9F) - at(-1));
}

std::optional<Pointed> pointedAt(
    const Streamer& streamer, const Eye& eye, glm::dvec3 direction, int edge, double farthest)
{
    std::array<std::int64_t, 3> cell{eye.cell.x, eye.cell.y, eye.cell.z};
    std::array<double, 3> next{}, step{}; // along the ray: to the next plane of each axis, and from plane to plane
    for (int axis = 0; axis < 3; ++axis) {
        const auto a = static_cast<std::size_t>(axis);
        const double d = direction[axis];
        step[a] = d == 0 ? std::numeric_limits<double>::infinity() : 1 / std::fabs(d);
        next[a] = d == 0 ? step[a] : (d > 0 ? 1 - eye.within[axis] : eye.within[axis]) * step[a];
    }
    std::shared_ptr<const VoxelChunk> voxels;
    ChunkPos held{INT64_MIN, 0, 0};
    VoxelPos before = eye.cell;
    for (double gone = 0; gone <= farthest;) {
        const VoxelPos at{cell[0], cell[1], cell[2]};
        if (const ChunkPos chunk = chunkOf(at, edge); chunk != held) {
            held = chunk;
            voxels = streamer.voxels(chunk);
            if (const auto probe = voxels ? std::nullopt : streamer.probe(chunk);
                probe && (probe->stage == ChunkProgress::Wanted || probe->stage == ChunkProgress::Generating))
                return Pointed{at, chunk, kOpen, gone, before};
        }
        if (voxels) {
            const VoxelPos in = at - originOf(held, edge);
            const Material material
                = voxels->at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z));
            if (material != kOpen)
                return Pointed{at, held, material, gone, before};
        }
        before = at;
        const std::size_t axis = next[0] <= next[1] && next[0] <= next[2] ? 0 : next[1] <= next[2] ? 1 : 2;
        cell[axis] += direction[static_cast<int>(axis)] > 0 ? 1 : -1;
        gone = next[axis];
        next[axis] += step[axis];
    }
    return std::nullopt;
}

ShownChunks shownOf(const LodCover& cover)
{
    ShownChunks shown;
    shown.reserve(cover.chunks.size());
    for (const ShownChunk& chunk : cover.chunks)
        shown.insert(chunk.chunk);
    return shown;
}

std::optional<Pointed> pointedAt(
    const Streamer& streamer, const ShownChunks& shown, const Eye& eye, glm::dvec3 direction, int edge, double farthest)
{
    constexpr double kOver = 1e-4; // voxels: into the next one, whatever rounding says
    std::optional<ChunkPos> chunk;
    std::shared_ptr<const VoxelChunk> voxels;
    for (double gone = 0; gone <= farthest;) {
        const Eye here = moved(eye, direction * gone);
        if (!chunk || chunkOf(here.cell, edge, chunk->level) != *chunk) {
            chunk.reset();
            for (int level = 0; level <= kMaxLevel && !chunk; ++level)
                if (const ChunkPos one = chunkOf(here.cell, edge, level); shown.contains(one))
                    chunk = one;
            voxels = chunk ? streamer.voxels(*chunk) : nullptr;
        }
        // The box that is open or not as a whole: a voxel, or a chunk that is all alike or not there.
        const int level = chunk ? chunk->level : 0;
        const bool isWhole = !voxels || voxels->isUniform();
        const std::int64_t size = isWhole ? std::int64_t{edge} << level : std::int64_t{1} << level;
        const VoxelPos in = here.cell - lowestVoxelOf(chunk.value_or(chunkOf(here.cell, edge)), edge);
        if (voxels) {
            const Material material = isWhole ? voxels->uniform()
                                              : voxels->at(static_cast<int>(in.x >> level),
                                                  static_cast<int>(in.y >> level), static_cast<int>(in.z >> level));
            const auto low = [level](std::int64_t at) { return at >> level << level; };
            if (material != kOpen)
                return Pointed{{low(here.cell.x), low(here.cell.y), low(here.cell.z)}, *chunk, material, gone,
                    moved(eye, direction * std::max(0.0, gone - 2 * kOver)).cell};
        }
        const std::array<std::int64_t, 3> within{in.x & (size - 1), in.y & (size - 1), in.z & (size - 1)};
        double step = std::numeric_limits<double>::infinity();
        for (int axis = 0; axis < 3; ++axis) {
            const double at = static_cast<double>(within[static_cast<std::size_t>(axis)]) + here.within[axis];
            if (direction[axis] != 0)
                step = std::min(step, ((direction[axis] > 0 ? static_cast<double>(size) : 0) - at) / direction[axis]);
        }
        gone += step + kOver;
    }
    return std::nullopt;
}

} // namespace fell::app
