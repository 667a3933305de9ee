// SPDX-License-Identifier: Apache-2.0
// What the landforms of a recipe do to one column of the ground.
#pragma once

#include <fell/terrain/recipe.h>

#include <vector>

namespace fell::terrain {

/// The ground in one column, in metres.
struct Ground {
    double height = 0;
    Material cover = kOpen; // a landform's material on top; open air for none
    Material wall = kOpen; // on the ground
    double wallHeight = 0;
};

/// A rectangle on the plan, metres, both ends included.
struct PlanBox {
    double x0, z0, x1, z1;
};

/// What of a recipe's landforms lies near a box, made ready for many columns in it. Points into the recipe.
struct LandformsNear {
    struct Segment { // of a path
        double x, z, dx, dz; // metres: where it begins, and from there to its end
        double squared; // its length
        double index; // in the path
    };
    struct Form {
        const Landform* form;
        std::size_t firstSegment, segments;
    };
    std::vector<Form> forms; // in their order
    std::vector<Segment> segments; // of each form those that can touch the box, in their order
};

/// Leaving the others out changes nothing in the box, to the bit.
LandformsNear landformsNear(const std::vector<Landform>& all, const PlanBox& box);

/// Applies `near` in order to the ground at (x, z). Cost: about 5 ns a form and path segment.
void shapeGround(const LandformsNear& near, double x, double z, Ground& ground);

} // namespace fell::terrain
