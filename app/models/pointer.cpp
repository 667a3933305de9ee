// SPDX-License-Identifier: GPL-3.0-or-later
#include "models/pointer.h"

#include <glm/geometric.hpp>
#include <glm/matrix.hpp>

#include <cmath>
#include <limits>

namespace fell {

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
                probe && (probe->stage == ChunkStage::Wanted || probe->stage == ChunkStage::Generating))
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

} // namespace fell
