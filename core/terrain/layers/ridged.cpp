// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/height_layer.h>

namespace fell::terrain {
namespace {

const RecipePart kPart = layerPart({"ridged", "ridged noise", "billow noise upside down: sharp crests", {},
    {{"Sharp crests",
        R"({"kind": "ridged", "note": "sharp crests", "amplitude": 60, "exponent": 2, "noise": {"feature": 260, "octaves": 4}})"}}});

void shares(const float* first, const float*, std::size_t count, double* out)
{
    for (std::size_t i = 0; i < count; ++i)
        out[i] = 1 - foldedToOne(first[i]);
}

} // namespace

extern const HeightLayerKind kRidgedLayer;
const HeightLayerKind kRidgedLayer{.part = &kPart, .isFolded = true, .shares = shares};

} // namespace fell::terrain
