// SPDX-License-Identifier: Apache-2.0
// A body that walks, jumps, falls and swims among voxels, and never goes through one.
#pragma once

#include <fell/blocks/side_rules.h>
#include <fell/cull/view.h>
#include <fell/save/changes.h>

namespace fell::edit {

/// A box in voxels, from the voxel's lowest corner.
struct SolidBox {
    glm::dvec3 low{}, high{};
};

/// What stops a body, by material. A cube is one box; a shaped block up to 16, one for each quarter by quarter column,
/// as high and as low as its triangles there: a slope is a stair of four steps. Air and liquids do not collide.
struct CollisionRules {
    std::vector<std::vector<SolidBox>> boxes;
    std::vector<bool> isLiquid;
};
CollisionRules collisionRulesOf(const SideRules& rules);

struct BodyShape {
    double width = 0.6, height = 1.8, eyes = 1.62; // voxels
    double step = 1.02; // voxels that it climbs without a jump
};

/// Where the body is: the middle of its floor.
struct Body {
    VoxelPos cell;
    glm::dvec3 within{0.5, 0, 0.5}; // in that voxel, [0, 1)
    glm::dvec3 velocity{}; // voxels a second
    bool isOnGround = false, isSwimming = false;
};
/// Eyes of a body, looking as `look` does; and a body whose eyes are there.
Eye eyeOf(const Body& body, const BodyShape& shape, const Eye& look);
Body bodyAt(const Eye& eye, const BodyShape& shape);

/// What the body is asked to do.
struct WalkKeys {
    double forward = 0, right = 0; // -1 to 1
    bool up = false; // jumps, or swims up
    double speed = 5; // voxels a second
    double gravity = 24, jump = 8.2; // voxels a second, each second; voxels a second
};

/// The body after `seconds`. Each axis is swept alone, the greatest way first cut where a box begins: however fast
/// and however long the step, it stops before the first box on its way. Unknown voxels stop it too.
///
/// Units   yaw in degrees as an eye's. Asserts seconds >= 0.
/// Exact   a body that is in no box is in none afterwards; one that is in a box (something was built around it) may
/// leave. Cost    O(voxels swept), about 2 us for a walk; long times are cut into steps of 1/60 s, at most 120 of them.
Body walked(const Body& body, const BodyShape& shape, const WalkKeys& keys, double yaw, double seconds,
    const ReadVoxel& read, const CollisionRules& rules);

/// Moves the body by a way, axis by axis y, x, z, and says on which it was stopped. Without gravity, steps or swimming.
struct Swept {
    Body body;
    std::array<bool, 3> stopped{};
};
Swept swept(
    const Body& body, const BodyShape& shape, glm::dvec3 way, const ReadVoxel& read, const CollisionRules& rules);

/// Is any part of the body in a box?
bool isInside(const Body& body, const BodyShape& shape, const ReadVoxel& read, const CollisionRules& rules);

} // namespace fell::edit
