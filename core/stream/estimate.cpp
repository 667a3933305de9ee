// SPDX-License-Identifier: Apache-2.0
#include "stream/estimate.h"

#include "mesh/layouts.h"

namespace fell {
namespace {

constexpr double kRecordBytes
    = 300; // of a chunk that is all alike: its record, its place in the table, its voxels' head

/// Chunks of a ball; those that are kept beyond it are the same share for all.
double chunksOf(const Setup& setup)
{
    const double r = setup.stream.distance;
    return 4.19 * r * r * r;
}

} // namespace

std::uint64_t expectedBytes(const StreamCounts& resident, const Setup& now, const Setup& next)
{
    if (resident.resident == 0)
        return 0;
    const double reach = static_cast<double>(next.stream.distance) * next.chunk.edge
        / (static_cast<double>(now.stream.distance) * now.chunk.edge);
    const auto isLit = [](const Setup& setup) { return findLightMode(setup.light.mode)->channels() > 0; };
    const double layout = static_cast<double>(findLayout(next.mesh.layout)->bytesPerQuad(isLit(next)))
        / static_cast<double>(findLayout(now.mesh.layout)->bytesPerQuad(isLit(now)));
    // A surface chunk's bits and its levels; nobody has measured light yet where there is none now.
    constexpr double kFirstLight = 0.5; // of the voxels' bytes, as measured in Corrowdale
    const double light = !isLit(next) ? 0
        : isLit(now)                  ? static_cast<double>(resident.lightBytes)
                                      : kFirstLight * static_cast<double>(resident.voxelBytes);
    const double records = static_cast<double>(resident.resident) * kRecordBytes * chunksOf(next) / chunksOf(now);
    return static_cast<std::uint64_t>(reach * reach
            * (static_cast<double>(resident.voxelBytes) + light + static_cast<double>(resident.meshBytes) * layout)
        + records);
}

} // namespace fell
