// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/height_layer.h>

namespace fell::terrain {
namespace {

const RecipePart kPart = layerPart({"billow", "billow noise",
    "octaves folded up where they cross zero: round hills, creased valleys", {},
    {{"Round hills",
        R"({"kind": "billow", "note": "round hills", "amplitude": 40, "exponent": 1, "noise": {"feature": 160, "octaves": 3}})"}}});

void shares(const float* first, const float*, std::size_t count, double* out)
{
    for (std::size_t i = 0; i < count; ++i)
        out[i] = foldedToOne(first[i]);
}

} // namespace

extern const HeightLayerKind kBillowLayer;
const HeightLayerKind kBillowLayer{.part = &kPart, .isFolded = true, .shares = shares};

} // namespace fell::terrain
