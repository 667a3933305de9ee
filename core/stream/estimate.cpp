// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/estimate.h>

#include <fell/setup/pipeline.h>

#include <algorithm>
#include <cmath>

namespace fell::stream {
namespace {

constexpr double kRecordBytes
    = 300; // of a chunk that is all alike: its record, its place in the table, its voxels' head

/// How far each level reaches, in chunks of that level; one entry without levels.
std::vector<double> reachesOf(const Setup& setup)
{
    constexpr double kWithParents = 1.3; // a node's eight children are loaded together: measured in Corrowdale
    const double distance = setup.stream.distance;
    if (!hasLevels(setup.lod))
        return {distance};
    const double near = firstLevelRadius(setup.lod, setup.chunk.edge, pixelsPerRadian(setup.draw.fieldOfView, 800));
    std::vector<double> reaches;
    for (int level = 0; level <= setup.lod.levels; ++level) {
        const double end = std::ldexp(near, level);
        reaches.push_back(std::min(near * kWithParents, std::ldexp(distance, -level) + 1));
        if (end >= distance)
            break;
    }
    return reaches;
}

/// Chunks of all levels' balls; those that are kept beyond are the same share for all.
double chunksOf(const Setup& setup)
{
    double sum = 0;
    for (const double r : reachesOf(setup))
        sum += 4.19 * r * r * r;
    return sum;
}

/// Area of the ground that all levels show, in voxels of each level.
double groundOf(const Setup& setup)
{
    double sum = 0;
    for (const double r : reachesOf(setup))
        sum += r * r * setup.chunk.edge * setup.chunk.edge;
    return sum;
}

} // namespace

std::uint64_t expectedBytes(const StreamCounts& resident, const Setup& now, const Setup& next)
{
    if (resident.resident == 0)
        return 0;
    const double ground = groundOf(next) / groundOf(now);
    const MeshFormat to = resolve(next).format, from = resolve(now).format;
    const double layout = static_cast<double>(to.vertexBytes()) / static_cast<double>(from.vertexBytes());
    // A surface chunk's bits and its levels; light has not been measured where there is none now.
    constexpr double kFirstLight = 0.5; // of the voxels' bytes, as measured in Corrowdale
    const double light = !to.isLit() ? 0
        : from.isLit()               ? static_cast<double>(resident.lightBytes)
                                     : kFirstLight * static_cast<double>(resident.voxelBytes);
    const double records = static_cast<double>(resident.resident) * kRecordBytes * chunksOf(next) / chunksOf(now);
    return static_cast<std::uint64_t>(
        ground * (static_cast<double>(resident.voxelBytes) + light + static_cast<double>(resident.meshBytes) * layout)
        + records);
}

} // namespace fell::stream
