// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/why_not_drawn.h>

#include <algorithm>
#include <vector>

namespace fell::stream {
namespace {

std::string waitsText(ChunkPos chunk, const ChunkDetails& details)
{
    constexpr std::size_t kNamed = 3;
    const std::vector<ChunkPos> missing = details.waitsFor(chunk);
    std::string names;
    for (std::size_t i = 0; i < std::min(kNamed, missing.size()); ++i)
        names += (i == 0 ? "" : " · ") + std::to_string(missing[i].x) + ", " + std::to_string(missing[i].y) + ", "
            + std::to_string(missing[i].z);
    return "it waits for the voxels of " + std::to_string(missing.size()) + " of its neighbours: " + names
        + (missing.size() > kNamed ? " …" : "");
}

std::string failedText(const char* what, int tries)
{
    return std::string(what) + " failed " + std::to_string(tries) + " times; it is tried again";
}

} // namespace

std::string whyNotDrawn(ChunkPos chunk, const ChunkDetails& details, bool isUploaded, const CullStep* rejectedBy)
{
    switch (details.stage) {
    case ChunkProgress::Absent:
        return "it lies beyond the render distance";
    case ChunkProgress::Wanted:
        return details.tries > 0 ? failedText("generating it", details.tries) : "no worker has started to generate it";
    case ChunkProgress::Generating:
        return "a thread is generating it";
    case ChunkProgress::Waiting:
        return waitsText(chunk, details);
    case ChunkProgress::Ready:
        return details.tries > 0 ? failedText("meshing it", details.tries) : "it waits for a thread that meshes it";
    case ChunkProgress::Meshing:
        return "a thread is meshing it";
    case ChunkProgress::Bare:
        return "nothing of it can be seen: all open air, or covered on every side";
    case ChunkProgress::Kept:
        return "it lies beyond the render distance; its voxels are kept in case you turn back";
    case ChunkProgress::Failed:
        return "it failed " + std::to_string(ResidentSet::kMaxTries) + " times and was given up";
    case ChunkProgress::Meshed:
        break;
    }
    if (!isUploaded)
        return "its mesh waits to be uploaded";
    return rejectedBy ? std::string("left out by the cull step “") + rejectedBy->title + "”" : std::string();
}

} // namespace fell::stream
