// SPDX-License-Identifier: Apache-2.0
// The table of height layers. A new one is a file of terrain/layers/ and a line here.
#include <fell/terrain/height_layer.h>

#include <algorithm>
#include <array>

namespace fell::terrain {

extern const HeightLayerKind kNoiseLayer, kBillowLayer, kRidgedLayer, kMinLayer, kGreatestLayer, kWornLayer;

std::span<const HeightLayerKind* const> heightLayerKinds()
{
    static constexpr std::array kKinds{
        &kNoiseLayer, &kBillowLayer, &kRidgedLayer, &kMinLayer, &kGreatestLayer, &kWornLayer};
    return kKinds;
}

const HeightLayerKind* findHeightLayerKind(std::string_view id)
{
    const auto all = heightLayerKinds();
    const auto found
        = std::find_if(all.begin(), all.end(), [id](const HeightLayerKind* kind) { return kind->part->id == id; });
    return found == all.end() ? nullptr : *found;
}

} // namespace fell::terrain
