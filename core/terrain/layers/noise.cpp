// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/height_layer.h>

namespace fell::terrain {
namespace {

const RecipePart kPart = layerPart({"noise", "noise", "", {},
    {{"Rolling ground",
         R"({"kind": "noise", "note": "rolling ground", "amplitude": 30, "exponent": 1, "noise": {"feature": 200, "octaves": 4}})"},
        {"Mountains",
            R"({"kind": "noise", "note": "mountains", "amplitude": 120, "exponent": 3, "noise": {"feature": 500, "octaves": 4}})"},
        {"Ledges that wind",
            R"({"kind": "noise", "note": "ledges that wind", "amplitude": 50, "exponent": 1, "curve": [[0, 0], [0.35, 0.1], [0.45, 0.5], [0.6, 0.55], [0.7, 0.95], [1, 1]], "noise": {"feature": 300, "octaves": 4}, "warp": {"amount": 60, "noise": {"feature": 150, "octaves": 2}}})"}}});

void shares(const float* first, const float*, std::size_t count, double* out)
{
    for (std::size_t i = 0; i < count; ++i)
        out[i] = plainToOne(first[i]);
}

} // namespace

extern const HeightLayerKind kNoiseLayer;
const HeightLayerKind kNoiseLayer{.part = &kPart, .shares = shares};

} // namespace fell::terrain
