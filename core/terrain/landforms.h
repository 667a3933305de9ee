// SPDX-License-Identifier: Apache-2.0
// What the landforms of a recipe do to one column of the ground.
#pragma once

#include "terrain/recipe.h"

#include <vector>

namespace fell {

/// The ground in one column, in metres.
struct Ground {
    double height = 0;
    Material cover = kOpen; // a landform's material on top; open air for none
    Material wall = kOpen; // stands on the ground
    double wallHeight = 0;
};

/// A rectangle on the plan, metres, both ends included.
struct PlanBox {
    double x0, z0, x1, z1;
};

/// The landforms that can touch `box`, in their order. Leaving the others out changes nothing, to the bit.
std::vector<const Landform*> landformsNear(const std::vector<Landform>& all, const PlanBox& box);

/// Applies `forms` in order to the ground at (x, z). Cost: about 10 ns a form and path segment.
void shapeGround(const std::vector<const Landform*>& forms, double x, double z, Ground& ground);

} // namespace fell
