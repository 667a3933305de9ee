// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/height_layer.h>

namespace fell::terrain {
namespace {

RecipeField wear()
{
    RecipeField out
        = number("wear", "worn on slopes", "", {0, 16}, "1 halves what is fine on a slope of 45 degrees").orElse(1.0);
    out.comesWithKind = true;
    return out;
}

const RecipePart kPart = layerPart({"worn", "worn noise",
    "fine octaves fade where the ground is steep, as water smooths it", {wear()},
    {{"Worn hills",
        R"({"kind": "worn", "note": "worn hills", "amplitude": 90, "exponent": 1.25, "wear": 2, "noise": {"feature": 320, "octaves": 6}})"}}});

void shares(const float* first, const float*, std::size_t count, double* out)
{
    for (std::size_t i = 0; i < count; ++i)
        out[i] = plainToOne(first[i]);
}

} // namespace

extern const HeightLayerKind kWornLayer;
const HeightLayerKind kWornLayer{.part = &kPart, .isWorn = true, .shares = shares};

} // namespace fell::terrain
