// SPDX-License-Identifier: Apache-2.0
#include <fell/audit/shrink.h>

#include <algorithm>

namespace fell::audit {
namespace {

std::vector<std::size_t> solidOf(const PaddedVoxels& voxels)
{
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i < voxels.voxels.size(); ++i)
        if (voxels.voxels[i] != kOpen)
            out.push_back(i);
    return out;
}

} // namespace

PaddedVoxels shrinkVoxels(PaddedVoxels voxels, const std::function<bool(const PaddedVoxels&)>& fails,
    std::chrono::steady_clock::time_point deadline)
{
    const auto isLate = [&] { return std::chrono::steady_clock::now() >= deadline; };
    const auto triesWith = [&](const std::vector<std::size_t>& changed, Material material) {
        PaddedVoxels other = voxels;
        for (const std::size_t i : changed)
            other.voxels[i] = material;
        if (isLate() || !fails(other))
            return false;
        voxels = std::move(other);
        return true;
    };
    std::vector<std::size_t> solid = solidOf(voxels);
    for (std::size_t part = solid.size(); part > 0 && !isLate();) {
        bool isSmaller = false;
        for (std::size_t from = 0; from < solid.size() && !isLate();) {
            const auto begin = solid.begin() + static_cast<std::ptrdiff_t>(from),
                       end = begin + static_cast<std::ptrdiff_t>(std::min(part, solid.size() - from));
            if (triesWith({begin, end}, kOpen)) {
                solid.erase(begin, end);
                isSmaller = true;
            } else {
                from += part;
            }
        }
        part = part > 1 ? (part + 1) / 2 : isSmaller ? 1 : 0;
    }
    if (solid.size() > 1)
        (void)triesWith(solid, voxels.voxels[solid[0]]);
    return voxels;
}

} // namespace fell::audit
