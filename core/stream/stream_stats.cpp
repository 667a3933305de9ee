// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/stream_stats.h>

#include <fell/stream/resident_set.h>

#include <algorithm>

namespace fell::stream {

void StreamStats::publish(const ResidentSet& chunks)
{
    resident = chunks.size();
    toGenerate = chunks.stillToGenerate();
    toLight = chunks.readyToLight();
    toMesh = chunks.readyToMesh();
    voxelBytes = chunks.voxelBytes();
    lightBytes = chunks.lightBytes();
    meshBytes = chunks.meshBytes();
    dropped = chunks.dropped();
}

StreamCounts StreamStats::counts() const
{
    StreamCounts c;
    c.generated = generated;
    c.lit = lit;
    c.relit = relit;
    c.meshed = meshed;
    c.retired = retired;
    c.generateNs = generateNs;
    c.lightNs = lightNs;
    c.meshNs = meshNs;
    c.relightNs = relightNs;
    c.sightNs = sightNs;
    c.resident = resident;
    c.toGenerate = toGenerate;
    c.toLight = toLight;
    c.toMesh = toMesh;
    c.voxelBytes = voxelBytes;
    c.lightBytes = lightBytes;
    c.meshBytes = meshBytes;
    c.dropped = dropped;
    c.evicted = evicted;
    c.failures = failures;
    c.failed = failed;
    c.longestLockNs = longestLockNs;
    c.holds = holds;
    c.heldNs = heldNs;
    c.full = full;
    c.fullAt = fullAt;
    c.levelsMissing = levelsMissing;
    c.levelsWaiting = levelsWaiting;
    std::copy(shownAt.begin(), shownAt.end(), c.shownAt.begin());
    return c;
}

} // namespace fell::stream
