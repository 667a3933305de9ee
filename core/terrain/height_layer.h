// SPDX-License-Identifier: Apache-2.0
// Kinds of height layers: what each makes of its noise. Each is a file of terrain/layers/ and a line of the table.
#pragma once

#include <fell/terrain/noise.h>
#include <fell/terrain/recipe_fields.h>

#include <algorithm>
#include <cstddef>
#include <span>
#include <string_view>

namespace fell::terrain {

struct HeightLayerKind {
    const RecipePart* part; // its id, title and fields
    bool isOfTwo = false; // reads two noises
    bool isFolded = false; // each octave folded up where it crosses zero
    bool isWorn = false; // fine octaves fade where the ground is steep: Noise::wear
    /// What it makes of its noises, brought to [0, 1]. `second` is read only where it is of two. A loop without a
    /// branch that depends on a column, over `count` columns. `first`, `second`: about -1 to 1; `out`: 0 to 1.
    void (*shares)(const float* first, const float* second, std::size_t count, double* out);
};

/// The plainest first.
std::span<const HeightLayerKind* const> heightLayerKinds();
const HeightLayerKind* findHeightLayerKind(std::string_view id);

/// A layer's noise brought to [0, 1].
inline double plainToOne(double value)
{
    return std::min(std::max(value * kNoiseToOne + 0.5, 0.0), 1.0);
}
/// The same of a folded one, most of whose values lie in 0.55.
inline double foldedToOne(double value)
{
    return std::min(std::max((value + kMeanFold) * 1.8, 0.0), 1.0);
}

} // namespace fell::terrain
