// SPDX-License-Identifier: Apache-2.0
// Only +, -, *, / and sqrt are used: IEEE rounds them alike on every machine, which sin, exp and pow do not promise.
#include "terrain/landforms.h"

#include <algorithm>
#include <cmath>

namespace fell {
namespace {

struct OnPath {
    double distance; // to the nearest point of the path
    double along; // 0 at the first point, 1 at the last, by count of segments
};

OnPath nearestOnPath(const std::vector<std::array<double, 2>>& path, double x, double z)
{
    double best = 1e300, along = 0;
    for (std::size_t i = 0; i + 1 < path.size(); ++i) {
        const double dx = path[i + 1][0] - path[i][0], dz = path[i + 1][1] - path[i][1];
        const double length = dx * dx + dz * dz;
        const double t
            = length > 0 ? std::clamp(((x - path[i][0]) * dx + (z - path[i][1]) * dz) / length, 0.0, 1.0) : 0;
        const double ex = x - (path[i][0] + t * dx), ez = z - (path[i][1] + t * dz);
        const double squared = ex * ex + ez * ez;
        if (squared < best) {
            best = squared;
            along = (static_cast<double>(i) + t) / static_cast<double>(path.size() - 1);
        }
    }
    return {std::sqrt(best), along};
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

void carve(const Landform& form, double x, double z, Ground& ground)
{
    const OnPath near = nearestOnPath(form.path, x, z);
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

void cover(const Landform& form, double x, double z, Ground& ground)
{
    if (nearestOnPath(form.path, x, z).distance > form.width / 2)
        return;
    if (form.kind == Landform::Kind::Track) {
        ground.cover = form.material;
    } else {
        ground.wall = form.material;
        ground.wallHeight = form.height;
    }
}

PlanBox reachOf(const Landform& form)
{
    if (form.path.empty())
        return {form.at[0] - form.radius, form.at[1] - form.radius, form.at[0] + form.radius, form.at[1] + form.radius};
    PlanBox box{1e300, 1e300, -1e300, -1e300};
    for (const auto& [x, z] : form.path)
        box = {std::min(box.x0, x), std::min(box.z0, z), std::max(box.x1, x), std::max(box.z1, z)};
    const double half = form.width / 2;
    return {box.x0 - half, box.z0 - half, box.x1 + half, box.z1 + half};
}

} // namespace

std::vector<const Landform*> landformsNear(const std::vector<Landform>& all, const PlanBox& box)
{
    std::vector<const Landform*> near;
    for (const auto& form : all) {
        const PlanBox reach = reachOf(form);
        if (reach.x0 <= box.x1 && reach.x1 >= box.x0 && reach.z0 <= box.z1 && reach.z1 >= box.z0)
            near.push_back(&form);
    }
    return near;
}

void shapeGround(const std::vector<const Landform*>& forms, double x, double z, Ground& ground)
{
    for (const Landform* form : forms)
        switch (form->kind) {
        case Landform::Kind::Summit:
        case Landform::Kind::Heap:
            raise(*form, x, z, ground);
            break;
        case Landform::Kind::Trough:
            carve(*form, x, z, ground);
            break;
        case Landform::Kind::Terraces:
            terrace(*form, x, z, ground);
            break;
        case Landform::Kind::Track:
        case Landform::Kind::Wall:
            cover(*form, x, z, ground);
            break;
        }
}

} // namespace fell
