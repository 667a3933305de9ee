// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/height_layer.h>

#include <algorithm>

namespace fell::terrain {
namespace {

const RecipePart kPart = layerPart({"greatest", "greatest of two noises", "domes that meet in creases", {},
    {{"Domes",
        R"({"kind": "greatest", "note": "domes", "amplitude": 40, "exponent": 1.5, "noise": {"feature": 300, "octaves": 4}})"}}});

void shares(const float* first, const float* second, std::size_t count, double* out)
{
    for (std::size_t i = 0; i < count; ++i)
        out[i] = plainToOne(std::max(first[i], second[i]));
}

} // namespace

extern const HeightLayerKind kGreatestLayer;
const HeightLayerKind kGreatestLayer{.part = &kPart, .isOfTwo = true, .shares = shares};

} // namespace fell::terrain
