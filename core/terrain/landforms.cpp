// SPDX-License-Identifier: Apache-2.0
// Only +, -, *, / and sqrt are used: IEEE rounds them alike on every machine, which sin, exp and pow do not promise.
#include <fell/terrain/landforms.h>

#include <algorithm>
#include <cmath>
#include <span>

namespace fell::terrain {
namespace {

struct OnPath {
    double distance; // to the nearest point of the path
    double along; // 0 at the first point, 1 at the last, by count of segments
};

/// A landform with those segments of its path that can matter.
struct NearForm {
    const Landform& form;
    std::span<const LandformsNear::Segment> segments;
};

OnPath nearestOnPath(const NearForm& near, double x, double z)
{
    double best = 1e300, along = 0;
    for (const auto& s : near.segments) {
        const double t = s.squared > 0 ? std::clamp(((x - s.x) * s.dx + (z - s.z) * s.dz) / s.squared, 0.0, 1.0) : 0;
        const double ex = x - (s.x + t * s.dx), ez = z - (s.z + t * s.dz);
        const double squared = ex * ex + ez * ez;
        if (squared < best) {
            best = squared;
            along = s.index + t;
        }
    }
    return {std::sqrt(best), along / static_cast<double>(near.form.path.size() - 1)};
}

double smooth(double t)
{
    t = std::clamp(t, 0.0, 1.0);
    return t * t * (3 - 2 * t);
}

double distanceTo(const Landform& form, double x, double z)
{
    const double dx = x - form.at[0], dz = z - form.at[1];
    return std::sqrt(dx * dx + dz * dz);
}

void raise(const Landform& form, double x, double z, Ground& ground)
{
    const double d = distanceTo(form, x, z) / form.radius;
    if (d >= 1)
        return;
    if (form.kind == Landform::Kind::Heap) {
        ground.height += form.height * (1 - d);
        ground.cover = form.material;
    } else {
        const double bell = 1 - d * d;
        ground.height += form.height * bell * bell;
    }
}

void carve(const NearForm& of, double x, double z, Ground& ground)
{
    const Landform& form = of.form;
    const OnPath near = nearestOnPath(of, x, z);
    if (near.distance >= form.width / 2)
        return;
    const double floor = form.floor[0] + (form.floor[1] - form.floor[0]) * near.along;
    const double full = smooth((form.width / 2 - near.distance) / (form.width * 0.4));
    ground.height += (floor - ground.height) * full;
    if (form.material != kOpen && full > 0.5)
        ground.cover = form.material;
}

void terrace(const Landform& form, double x, double z, Ground& ground)
{
    const double d = distanceTo(form, x, z);
    if (d >= form.radius)
        return;
    const double steps = std::floor(std::max(0.0, d - 2 * form.bench) / form.bench);
    const double bench = form.floor[0] + form.step * steps;
    if (ground.height <= bench)
        return;
    ground.height = bench;
    ground.cover = form.material;
}

void cover(const NearForm& of, double x, double z, Ground& ground)
{
    const Landform& form = of.form;
    if (nearestOnPath(of, x, z).distance > form.width / 2)
        return;
    if (form.kind == Landform::Kind::Track) {
        ground.cover = form.material;
    } else {
        ground.wall = form.material;
        ground.wallHeight = form.height;
    }
}

/// The box of a form, or of a part of its path, and what it reaches next to it.
PlanBox boxOf(std::span<const std::array<double, 2>> points, double margin)
{
    PlanBox box{1e300, 1e300, -1e300, -1e300};
    for (const auto& [x, z] : points)
        box = {std::min(box.x0, x), std::min(box.z0, z), std::max(box.x1, x), std::max(box.z1, z)};
    return {box.x0 - margin, box.z0 - margin, box.x1 + margin, box.z1 + margin};
}

bool meet(const PlanBox& a, const PlanBox& b)
{
    return a.x0 <= b.x1 && a.x1 >= b.x0 && a.z0 <= b.z1 && a.z1 >= b.z0;
}

} // namespace

LandformsNear landformsNear(const std::vector<Landform>& all, const PlanBox& box)
{
    constexpr double kRounding = 1e-3; // metres: distances are rounded, and none that counts may be missed for that
    LandformsNear near;
    for (const auto& form : all) {
        if (form.path.empty()) {
            if (meet(boxOf({&form.at, 1}, form.radius + kRounding), box))
                near.forms.push_back({&form, 0, 0});
            continue;
        }
        // Beyond half its width a path does nothing, so a segment that is further away need not be the nearest either.
        const std::size_t first = near.segments.size();
        for (std::size_t i = 0; i + 1 < form.path.size(); ++i) {
            const auto &from = form.path[i], &to = form.path[i + 1];
            if (!meet(boxOf({&from, 2}, form.width / 2 + kRounding), box))
                continue;
            const double dx = to[0] - from[0], dz = to[1] - from[1];
            near.segments.push_back({from[0], from[1], dx, dz, dx * dx + dz * dz, static_cast<double>(i)});
        }
        if (near.segments.size() > first)
            near.forms.push_back({&form, first, near.segments.size() - first});
    }
    return near;
}

void shapeGround(const LandformsNear& near, double x, double z, Ground& ground)
{
    for (const auto& [form, first, count] : near.forms) {
        const NearForm ready{*form, std::span(near.segments).subspan(first, count)};
        switch (form->kind) {
        case Landform::Kind::Summit:
        case Landform::Kind::Heap:
            raise(*form, x, z, ground);
            break;
        case Landform::Kind::Trough:
            carve(ready, x, z, ground);
            break;
        case Landform::Kind::Terraces:
            terrace(*form, x, z, ground);
            break;
        case Landform::Kind::Track:
        case Landform::Kind::Wall:
            cover(ready, x, z, ground);
            break;
        }
    }
}

} // namespace fell::terrain
