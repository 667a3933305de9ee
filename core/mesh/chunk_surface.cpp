// SPDX-License-Identifier: Apache-2.0
#include <fell/mesh/chunk_surface.h>

#include <algorithm>
#include <cmath>

namespace fell::mesh {

void TriangleList::add(const TriangleList& other)
{
    const auto first = static_cast<std::uint32_t>(vertices.size());
    vertices.insert(vertices.end(), other.vertices.begin(), other.vertices.end());
    indices.reserve(indices.size() + other.indices.size());
    for (const std::uint32_t index : other.indices)
        indices.push_back(first + index);
}

std::vector<Quad> ChunkSurface::all() const
{
    std::vector<Quad> out;
    for (const QuadList& list : of)
        out.insert(out.end(), list.begin(), list.end());
    return out;
}

PackedLight lightAt(const PaddedLight& light, const std::array<float, 3>& point, const std::array<float, 3>& normal)
{
    constexpr float kBefore = 0.5F; // voxels: where the middle of the voxel before a side lies
    std::array<int, 3> low{};
    std::array<float, 3> within{};
    for (std::size_t axis = 0; axis < 3; ++axis) {
        const float at = point[axis] + normal[axis] * kBefore - 0.5F; // from voxel middles
        low[axis] = std::clamp(static_cast<int>(std::floor(at)), -1, light.edge - 1);
        within[axis] = std::clamp(at - static_cast<float>(low[axis]), 0.0F, 1.0F);
    }
    std::array<float, kMaxLightChannels> sum{};
    float all = 0;
    for (unsigned i = 0; i < 8; ++i) {
        std::array<int, 3> voxel{};
        float weight = 1;
        for (std::size_t axis = 0; axis < 3; ++axis) {
            const bool isHigh = (i >> axis & 1) != 0;
            voxel[axis] = low[axis] + static_cast<int>(isHigh);
            weight *= isHigh ? within[axis] : 1 - within[axis];
        }
        if (weight <= 0 || !light.isPassable(voxel[0], voxel[1], voxel[2]))
            continue;
        all += weight;
        for (int c = 0; c < light.channels; ++c)
            sum[static_cast<std::size_t>(c)] += weight * static_cast<float>(light.at(c, voxel[0], voxel[1], voxel[2]));
    }
    PackedLight packed = 0;
    for (int c = 0; c < light.channels && all > 0; ++c)
        packed |= static_cast<PackedLight>(std::lround(sum[static_cast<std::size_t>(c)] / all)) << (kLevelBits * c);
    return packed;
}

} // namespace fell::mesh
