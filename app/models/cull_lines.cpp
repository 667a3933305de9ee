// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/cull_lines.h>

#include <glm/geometric.hpp>
#include <glm/trigonometric.hpp>

#include <algorithm>
#include <cmath>

namespace fell::app {
namespace {

using Colour = std::array<std::uint8_t, 4>; // sRGB, opacity

constexpr Colour kNode{0x22, 0x28, 0x2B, 150}, kLeaf{0x2F, 0x6F, 0x8F, 190}, kEmpty{0x6B, 0x6F, 0x66, 120},
    kView{0x7A, 0x4E, 0x8A, 255};
constexpr int kDashes = 6; // on an edge of an empty place
constexpr std::size_t kBoxLines = 12;

void addLine(LineBatch& lines, const glm::vec3& from, const glm::vec3& to, const Colour& colour)
{
    lines.vertices.push_back({from, colour});
    lines.vertices.push_back({to, colour});
}

glm::vec3 fromOrigin(const LineBatch& lines, VoxelPos at)
{
    const VoxelPos by = at - lines.from;
    return {static_cast<float>(by.x), static_cast<float>(by.y), static_cast<float>(by.z)};
}

/// The twelve edges: corners differ in one bit.
template <typename Add> void eachEdge(const glm::vec3& low, float edge, const Add& add)
{
    const auto cornerAt = [&](unsigned corner) {
        return low + edge * glm::vec3(corner & 1 ? 1 : 0, corner & 2 ? 1 : 0, corner & 4 ? 1 : 0);
    };
    for (unsigned corner = 0; corner < 8; ++corner)
        for (unsigned axis = 1; axis <= 4; axis *= 2)
            if (!(corner & axis))
                add(cornerAt(corner), cornerAt(corner | axis));
}

std::int64_t awayFrom(const OctreeCell& cell, ChunkPos near)
{
    const std::int64_t half = cell.edge / 2;
    return squaredLength(cell.low + ChunkPos{half, half, half} - near);
}

} // namespace

std::size_t addOctree(LineBatch& lines, std::vector<OctreeCell> cells, int edge, ChunkPos near)
{
    std::sort(cells.begin(), cells.end(), [near](const OctreeCell& a, const OctreeCell& b) {
        return a.edge != b.edge ? a.edge > b.edge : awayFrom(a, near) < awayFrom(b, near);
    });
    std::size_t left = 0, room = kMaxLines;
    for (const OctreeCell& cell : cells) {
        const bool isEmpty = cell.kind == OctreeCell::Kind::Empty;
        const std::size_t needs = isEmpty ? kBoxLines * kDashes : kBoxLines;
        if (needs > room) {
            ++left;
            continue;
        }
        room -= needs;
        // A little inside, so that neighbours are told apart.
        const auto size = static_cast<float>(cell.edge * edge), inset = 0.06F * static_cast<float>(edge);
        const glm::vec3 low = fromOrigin(lines, originOf(cell.low, edge)) + inset;
        eachEdge(low, size - 2 * inset, [&](const glm::vec3& from, const glm::vec3& to) {
            if (!isEmpty)
                return addLine(lines, from, to, cell.kind == OctreeCell::Kind::Leaf ? kLeaf : kNode);
            for (int dash = 0; dash < kDashes; ++dash) {
                const auto at
                    = [&](float part) { return from + (to - from) * ((static_cast<float>(dash) + part) / kDashes); };
                addLine(lines, at(0.25F), at(0.7F), kEmpty);
            }
        });
    }
    return left;
}

void addView(LineBatch& lines, const Eye& eye, const Lens& lens, double reach)
{
    const glm::vec3 at = fromOrigin(lines, eye.cell) + glm::vec3(eye.within), forward(forwardOf(eye)),
                    right(rightOf(eye)), up = glm::cross(right, forward);
    const float high = std::tan(glm::radians(lens.fieldOfView) / 2), wide = high * lens.aspect,
                far = static_cast<float>(reach);
    std::array<glm::vec3, 4> corners{};
    for (unsigned i = 0; i < 4; ++i) {
        const float x = i == 1 || i == 2 ? wide : -wide, y = i < 2 ? -high : high;
        corners[i] = at + (forward + right * x + up * y) * far;
        addLine(lines, at, corners[i], kView);
    }
    for (unsigned i = 0; i < 4; ++i)
        addLine(lines, corners[i], corners[(i + 1) % 4], kView);
    addLine(lines, (corners[0] + corners[1]) * 0.5F, (corners[2] + corners[3]) * 0.5F, kView);
    addLine(lines, (corners[1] + corners[2]) * 0.5F, (corners[3] + corners[0]) * 0.5F, kView);
}

void addBox(LineBatch& lines, VoxelPos low, VoxelPos high)
{
    constexpr float kOut = 0.1F; // voxels
    const glm::vec3 from = fromOrigin(lines, low) - kOut, to = fromOrigin(lines, high) + kOut;
    for (unsigned axis = 0; axis < 3; ++axis)
        for (unsigned corner = 0; corner < 4; ++corner) { // the four edges along the axis
            glm::vec3 a = from, b = to;
            const auto u = static_cast<glm::length_t>((axis + 1) % 3), v = static_cast<glm::length_t>((axis + 2) % 3);
            a[u] = b[u] = corner & 1 ? to[u] : from[u];
            a[v] = b[v] = corner & 2 ? to[v] : from[v];
            addLine(lines, a, b, kView);
        }
    lines.over += 2 * kBoxLines;
}

void addChunk(LineBatch& lines, ChunkPos chunk, int edge)
{
    constexpr float kOut = 0.1F; // voxels
    eachEdge(fromOrigin(lines, originOf(chunk, edge)) - kOut, static_cast<float>(edge) + 2 * kOut,
        [&](const glm::vec3& from, const glm::vec3& to) { addLine(lines, from, to, kView); });
    lines.over += 2 * kBoxLines;
}

} // namespace fell::app
