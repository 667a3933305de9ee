// SPDX-License-Identifier: Apache-2.0
#include <fell/edit/walk.h>

#include <glm/trigonometric.hpp>

#include <algorithm>
#include <cassert>
#include <cmath>

namespace fell::edit {
namespace {

constexpr double kSkin = 1e-9; // voxels: what touches does not overlap, whatever rounding says
const std::vector<SolidBox> kUnknown{{{0, 0, 0}, {1, 1, 1}}};

/// The body's box, from the lowest corner of body.cell.
SolidBox boxOf(const Body& body, const BodyShape& shape)
{
    const double half = shape.width / 2;
    return {body.within - glm::dvec3(half, 0, half), body.within + glm::dvec3(half, shape.height, half)};
}

void settleIn(Body& body)
{
    for (int a = 0; a < 3; ++a) {
        const double whole = std::floor(body.within[a]);
        body.within[a] -= whole;
        if (body.within[a] >= 1) // a rounded-up 1 - tiny
            body.within[a] = 0;
        (a == 0 ? body.cell.x : a == 1 ? body.cell.y : body.cell.z) += static_cast<std::int64_t>(whole);
    }
}

/// Visits the boxes of all voxels that `where` touches, from the lowest corner of `cell`.
template <typename Visit>
void eachBox(
    VoxelPos cell, const SolidBox& where, const ReadVoxel& read, const CollisionRules& rules, const Visit& visit)
{
    const auto from = [](double v) { return static_cast<std::int64_t>(std::floor(v)); };
    for (std::int64_t y = from(where.low.y); y <= from(where.high.y); ++y)
        for (std::int64_t z = from(where.low.z); z <= from(where.high.z); ++z)
            for (std::int64_t x = from(where.low.x); x <= from(where.high.x); ++x) {
                const auto material = read(cell + VoxelPos{x, y, z});
                const glm::dvec3 at(static_cast<double>(x), static_cast<double>(y), static_cast<double>(z));
                for (const SolidBox& box : material ? rules.boxes[*material] : kUnknown)
                    visit(SolidBox{box.low + at, box.high + at});
            }
}

bool overlapOn(const SolidBox& a, const SolidBox& b, int axis)
{
    return a.low[axis] < b.high[axis] - kSkin && b.low[axis] < a.high[axis] - kSkin;
}

/// How far the box goes along one axis before it meets another; boxes that it is in already let it go.
double freeWay(
    const SolidBox& body, VoxelPos cell, int axis, double way, const ReadVoxel& read, const CollisionRules& rules)
{
    SolidBox sweep = body;
    (way > 0 ? sweep.high : sweep.low)[axis] += way;
    double allowed = way;
    eachBox(cell, sweep, read, rules, [&](const SolidBox& box) {
        const int u = (axis + 1) % 3, v = (axis + 2) % 3;
        if (!overlapOn(body, box, u) || !overlapOn(body, box, v) || overlapOn(body, box, axis))
            return;
        if (way > 0 && box.low[axis] >= body.high[axis] - kSkin)
            allowed = std::min(allowed, std::max(0.0, box.low[axis] - body.high[axis]));
        else if (way < 0 && box.high[axis] <= body.low[axis] + kSkin)
            allowed = std::max(allowed, std::min(0.0, box.high[axis] - body.low[axis]));
    });
    return allowed;
}

/// A quarter by quarter column of a shape: how low and how high its triangles go there.
std::vector<SolidBox> columnsOf(const BlockShape& shape)
{
    constexpr int kCut = 4;
    std::vector<SolidBox> boxes;
    for (int z = 0; z < kCut; ++z)
        for (int x = 0; x < kCut; ++x) {
            const double x0 = static_cast<double>(x) / kCut, z0 = static_cast<double>(z) / kCut, x1 = x0 + 1.0 / kCut,
                         z1 = z0 + 1.0 / kCut;
            double low = 1e9, high = -1e9;
            for (const ShapeTriangle& triangle : shape.triangles) {
                glm::dvec3 min(1e9), max(-1e9);
                for (const glm::vec3& corner : triangle.corners) {
                    min = glm::min(min, glm::dvec3(corner));
                    max = glm::max(max, glm::dvec3(corner));
                }
                if (min.x >= x1 || max.x <= x0 || min.z >= z1 || max.z <= z0)
                    continue;
                // Of a slanted triangle only what lies over the column: its plane at the column's corners.
                const glm::dvec3 n(triangle.normal), a(triangle.corners[0]);
                if (std::fabs(n.y) > 1e-6)
                    for (const double px : {std::max(x0, min.x), std::min(x1, max.x)})
                        for (const double pz : {std::max(z0, min.z), std::min(z1, max.z)}) {
                            const double y = a.y - (n.x * (px - a.x) + n.z * (pz - a.z)) / n.y;
                            low = std::min(low, std::clamp(y, min.y, max.y));
                            high = std::max(high, std::clamp(y, min.y, max.y));
                        }
            }
            if (high > low) // also 0 to 0: a floor alone does not collide
                boxes.push_back({{x0, std::max(0.0, low), z0}, {x1, std::min(1.0, high), z1}});
        }
    return boxes;
}

/// Tries to climb what stopped the body: up, over, and down again onto it. Nothing where that leads no farther.
std::optional<Body> climbed(
    const Body& body, const BodyShape& shape, glm::dvec3 way, const ReadVoxel& read, const CollisionRules& rules)
{
    const Swept up = swept(body, shape, {0, shape.step, 0}, read, rules);
    const Swept over = swept(up.body, shape, {way.x, 0, way.z}, read, rules);
    const Swept down = swept(over.body, shape, {0, -shape.step - 0.01, 0}, read, rules);
    const auto gone = [&](const Body& to) {
        return std::fabs(static_cast<double>(to.cell.x - body.cell.x) + to.within.x - body.within.x)
            + std::fabs(static_cast<double>(to.cell.z - body.cell.z) + to.within.z - body.within.z);
    };
    const Swept plain = swept(body, shape, {way.x, 0, way.z}, read, rules);
    return down.stopped[1] && gone(down.body) > gone(plain.body) + 1e-6 ? std::optional(down.body) : std::nullopt;
}

Body stepped(const Body& before, const BodyShape& shape, const WalkKeys& keys, double yaw, double dt,
    const ReadVoxel& read, const CollisionRules& rules)
{
    Body body = before;
    const auto middle
        = read(body.cell + VoxelPos{0, static_cast<std::int64_t>(std::floor(body.within.y + shape.height * 0.45)), 0});
    body.isSwimming = middle && rules.isLiquid[*middle];
    const double turn = glm::radians(yaw);
    glm::dvec3 wish(std::sin(turn) * keys.forward + std::cos(turn) * keys.right, 0,
        -std::cos(turn) * keys.forward + std::sin(turn) * keys.right);
    const double length = std::hypot(wish.x, wish.z);
    const double speed = body.isSwimming ? keys.speed * 0.6 : keys.speed;
    if (length > 1)
        wish /= length;
    body.velocity.x = wish.x * speed;
    body.velocity.z = wish.z * speed;
    if (body.isSwimming) {
        constexpr double kBuoyant = 0.25, kDrag = 4; // of gravity; a second
        body.velocity.y -= keys.gravity * kBuoyant * dt;
        body.velocity.y -= body.velocity.y * std::min(1.0, kDrag * dt);
        if (keys.up)
            body.velocity.y = std::max(body.velocity.y, keys.jump * 0.4);
    } else {
        if (keys.up && body.isOnGround)
            body.velocity.y = keys.jump;
        body.velocity.y -= keys.gravity * dt;
    }
    const bool wasOnGround = body.isOnGround;
    const glm::dvec3 way = body.velocity * dt;
    Swept moved = swept(body, shape, way, read, rules);
    if ((moved.stopped[0] || moved.stopped[2]) && (wasOnGround || body.isSwimming) && way.y <= 0)
        if (auto higher = climbed(body, shape, way, read, rules)) {
            moved.body.cell = higher->cell;
            moved.body.within = higher->within;
            moved.stopped[1] = true;
        }
    moved.body.velocity = body.velocity;
    moved.body.isSwimming = body.isSwimming;
    moved.body.isOnGround = moved.stopped[1] && way.y <= 0;
    if (moved.stopped[1])
        moved.body.velocity.y = 0;
    return moved.body;
}

} // namespace

CollisionRules collisionRulesOf(const SideRules& rules)
{
    CollisionRules out;
    for (std::size_t m = 0; m < rules.matter.size(); ++m) {
        const auto material = static_cast<Material>(m);
        const bool isLiquid = material != kOpen && rules.matter[m] == Matter::Liquid;
        out.isLiquid.push_back(isLiquid);
        std::vector<SolidBox>& boxes = out.boxes.emplace_back();
        if (material == kOpen || isLiquid)
            continue;
        if (rules.isCube(material))
            boxes.push_back({{0, 0, 0}, {1, 1, 1}});
        else
            boxes = columnsOf(*rules.shapes[m]);
    }
    return out;
}

Eye eyeOf(const Body& body, const BodyShape& shape, const Eye& look)
{
    Eye eye = look;
    eye.cell = body.cell;
    eye.within = body.within;
    return moved(eye, {0, shape.eyes, 0});
}

Body bodyAt(const Eye& eye, const BodyShape& shape)
{
    const Eye feet = moved(eye, {0, -shape.eyes, 0});
    return {feet.cell, feet.within, {}, false, false};
}

Swept swept(
    const Body& body, const BodyShape& shape, glm::dvec3 way, const ReadVoxel& read, const CollisionRules& rules)
{
    Swept out{body, {}};
    for (const int axis : {1, 0, 2}) {
        // Long ways are gone in pieces, so that no sweep looks at more than a few voxels at once.
        constexpr double kPiece = 8;
        for (double left = way[axis]; left != 0 && !out.stopped[static_cast<std::size_t>(axis)];) {
            const double part = std::clamp(left, -kPiece, kPiece);
            const double free = freeWay(boxOf(out.body, shape), out.body.cell, axis, part, read, rules);
            out.stopped[static_cast<std::size_t>(axis)] = free != part;
            out.body.within[axis] += free;
            left -= part;
            settleIn(out.body);
        }
    }
    return out;
}

bool isInside(const Body& body, const BodyShape& shape, const ReadVoxel& read, const CollisionRules& rules)
{
    const SolidBox own = boxOf(body, shape);
    bool inside = false;
    eachBox(body.cell, own, read, rules, [&](const SolidBox& box) {
        constexpr double kTouch = 1e-7;
        bool overlaps = true;
        for (int a = 0; a < 3; ++a)
            overlaps &= own.low[a] < box.high[a] - kTouch && box.low[a] < own.high[a] - kTouch;
        inside |= overlaps;
    });
    return inside;
}

Body walked(const Body& body, const BodyShape& shape, const WalkKeys& keys, double yaw, double seconds,
    const ReadVoxel& read, const CollisionRules& rules)
{
    assert(seconds >= 0);
    constexpr double kStep = 1.0 / 60;
    constexpr int kMaxSteps = 120;
    const int steps = std::clamp(static_cast<int>(std::ceil(seconds / kStep)), 1, kMaxSteps);
    Body out = body;
    for (int i = 0; i < steps; ++i)
        out = stepped(out, shape, keys, yaw, seconds / steps, read, rules);
    return out;
}

} // namespace fell::edit
