// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/height_layer.h>

#include <algorithm>

namespace fell::terrain {
namespace {

const RecipePart kPart = layerPart({"least", "least of two noises", "creases where the two meet", {},
    {{"Ridges",
        R"({"kind": "least", "note": "ridges", "amplitude": 40, "exponent": 1.5, "noise": {"feature": 300, "octaves": 4}})"}}});

void shares(const float* first, const float* second, std::size_t count, double* out)
{
    for (std::size_t i = 0; i < count; ++i)
        out[i] = plainToOne(std::min(first[i], second[i]));
}

} // namespace

extern const HeightLayerKind kMinLayer;
const HeightLayerKind kMinLayer{.part = &kPart, .isOfTwo = true, .shares = shares};

} // namespace fell::terrain
