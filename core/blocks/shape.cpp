// SPDX-License-Identifier: Apache-2.0
#include <fell/blocks/shape.h>

#include <glm/geometric.hpp>

#include <cmath>
#include <map>

namespace fell::blocks {
namespace {

constexpr float kOnSide = 1e-4F; // voxels: models come as decimal fractions

float component(const glm::vec3& v, int axis)
{
    return v[axis];
}

std::optional<Side> sideOf(const ShapeTriangle& triangle)
{
    for (const Side side : kSides) {
        const float plane = signOf(side) > 0 ? 1.0F : 0.0F;
        bool on = component(triangle.normal, axisOf(side)) * static_cast<float>(signOf(side)) > 0.999F;
        for (const auto& corner : triangle.corners)
            on = on && std::fabs(component(corner, axisOf(side)) - plane) < kOnSide;
        if (on)
            return side;
    }
    return std::nullopt;
}

struct Flat {
    float u, v;
};

bool isInside(Flat p, const std::array<Flat, 3>& t)
{
    constexpr float kEdge = -1e-5F; // a point on the edge of two triangles is in both
    const auto turn = [p](Flat a, Flat b) { return (b.u - a.u) * (p.v - a.v) - (b.v - a.v) * (p.u - a.u); };
    const float ab = turn(t[0], t[1]), bc = turn(t[1], t[2]), ca = turn(t[2], t[0]);
    return (ab >= kEdge && bc >= kEdge && ca >= kEdge) || (ab <= -kEdge && bc <= -kEdge && ca <= -kEdge);
}

/// The small triangle of one bit of a Coverage.
std::array<Flat, 3> pieceOf(int bit)
{
    const auto u = static_cast<float>(bit / 4 % 2) * 0.5F, v = static_cast<float>(bit / 8) * 0.5F;
    const Flat middle{u + 0.25F, v + 0.25F};
    switch (bit % 4) {
    case 0:
        return {{{u, v}, {u, v + 0.5F}, middle}};
    case 1:
        return {{{u + 0.5F, v}, {u + 0.5F, v + 0.5F}, middle}};
    case 2:
        return {{{u, v}, {u + 0.5F, v}, middle}};
    default:
        return {{{u, v + 0.5F}, {u + 0.5F, v + 0.5F}, middle}};
    }
}

/// Is the piece covered at its middle and near its three corners?
bool isCovered(const std::array<Flat, 3>& piece, const std::vector<std::array<Flat, 3>>& by)
{
    const Flat middle{(piece[0].u + piece[1].u + piece[2].u) / 3, (piece[0].v + piece[1].v + piece[2].v) / 3};
    const auto covered = [&by](Flat p) {
        for (const auto& triangle : by)
            if (isInside(p, triangle))
                return true;
        return false;
    };
    constexpr float kNear = 0.9F; // of the way from the middle to a corner
    bool all = covered(middle);
    for (const Flat corner : piece)
        all = all && covered({middle.u + (corner.u - middle.u) * kNear, middle.v + (corner.v - middle.v) * kNear});
    return all;
}

Coverage coverageOf(const std::vector<ShapeTriangle>& triangles, Side side)
{
    const int u = (axisOf(side) + 1) % 3, v = (axisOf(side) + 2) % 3;
    std::vector<std::array<Flat, 3>> flat;
    for (const ShapeTriangle& triangle : triangles)
        if (triangle.on == side) {
            std::array<Flat, 3> t{};
            for (std::size_t i = 0; i < 3; ++i)
                t[i] = {triangle.corners[i][u], triangle.corners[i][v]};
            flat.push_back(t);
        }
    Coverage coverage = 0;
    for (int bit = 0; bit < 16 && !flat.empty(); ++bit)
        if (isCovered(pieceOf(bit), flat))
            coverage = static_cast<Coverage>(coverage | 1 << bit);
    return coverage;
}

/// Adds a flat polygon as a fan; its corners go counter-clockwise as seen from outside.
void addPolygon(
    std::vector<ShapeTriangle>& to, std::initializer_list<glm::vec3> corners, std::optional<Rgb> colour = {})
{
    const auto* c = corners.begin();
    const glm::vec3 normal = glm::normalize(glm::cross(c[1] - c[0], c[2] - c[0]));
    for (std::size_t i = 2; i < corners.size(); ++i)
        to.push_back({{c[0], c[i - 1], c[i]}, normal, colour, std::nullopt});
}

void indexCorners(BlockShape& shape)
{
    using Key = std::array<float, 9>; // place, normal, colour
    std::map<Key, std::uint32_t> known;
    for (std::size_t i = 0; i < shape.triangles.size() * 3; ++i) {
        const ShapeTriangle& triangle = shape.triangles[i / 3];
        const glm::vec3 &at = triangle.corners[i % 3], &normal = triangle.normal;
        Key key{at.x, at.y, at.z, normal.x, normal.y, normal.z, -1, -1, -1};
        if (triangle.colour)
            key = {at.x, at.y, at.z, normal.x, normal.y, normal.z, static_cast<float>(triangle.colour->r),
                static_cast<float>(triangle.colour->g), static_cast<float>(triangle.colour->b)};
        const auto [vertex, isNew] = known.try_emplace(key, static_cast<std::uint32_t>(shape.vertices.size()));
        if (isNew)
            shape.vertices.push_back(static_cast<std::uint32_t>(i));
        shape.indices.push_back(vertex->second);
    }
}

} // namespace

BlockShape shapeFrom(std::vector<ShapeTriangle> triangles)
{
    BlockShape shape;
    for (auto& triangle : triangles)
        triangle.on = sideOf(triangle);
    for (const Side side : kSides)
        shape.covers[static_cast<std::size_t>(side)] = coverageOf(triangles, side);
    shape.triangles = std::move(triangles);
    indexCorners(shape);
    return shape;
}

BlockShape turned(const BlockShape& shape, int quarters)
{
    std::vector<ShapeTriangle> triangles = shape.triangles;
    for (int turn = 0; turn < quarters; ++turn)
        for (auto& triangle : triangles) {
            // Clockwise from above: east goes to south, south to west.
            for (auto& corner : triangle.corners)
                corner = {1.0F - corner.z, corner.y, corner.x};
            triangle.normal = {-triangle.normal.z, triangle.normal.y, triangle.normal.x};
        }
    return shapeFrom(std::move(triangles));
}

BlockShape halfShape()
{
    constexpr float kTop = 0.5F;
    std::vector<ShapeTriangle> t;
    addPolygon(t, {{0, kTop, 0}, {0, kTop, 1}, {1, kTop, 1}, {1, kTop, 0}});
    addPolygon(t, {{0, 0, 0}, {1, 0, 0}, {1, 0, 1}, {0, 0, 1}});
    addPolygon(t, {{0, 0, 1}, {1, 0, 1}, {1, kTop, 1}, {0, kTop, 1}});
    addPolygon(t, {{1, 0, 0}, {0, 0, 0}, {0, kTop, 0}, {1, kTop, 0}});
    addPolygon(t, {{1, 0, 1}, {1, 0, 0}, {1, kTop, 0}, {1, kTop, 1}});
    addPolygon(t, {{0, 0, 0}, {0, 0, 1}, {0, kTop, 1}, {0, kTop, 0}});
    return shapeFrom(std::move(t));
}

BlockShape slopeShape()
{
    std::vector<ShapeTriangle> t;
    addPolygon(
        t, {{0, 1, 0}, {0, 0, 1}, {1, 0, 1}, {1, 1, 0}}); // from the northern top edge down to the southern floor
    addPolygon(t, {{0, 0, 0}, {1, 0, 0}, {1, 0, 1}, {0, 0, 1}});
    addPolygon(t, {{1, 0, 0}, {0, 0, 0}, {0, 1, 0}, {1, 1, 0}});
    addPolygon(t, {{1, 0, 1}, {1, 0, 0}, {1, 1, 0}});
    addPolygon(t, {{0, 0, 0}, {0, 0, 1}, {0, 1, 0}});
    return shapeFrom(std::move(t));
}

BlockShape standInShape()
{
    constexpr Rgb kHeather{0x7A, 0x4E, 0x8A}, kPale{0xF2, 0xEE, 0xE6};
    constexpr float kLow = 0.12F, kHigh = 0.88F;
    std::vector<ShapeTriangle> t;
    for (const Side side : kSides) {
        const int a = axisOf(side), u = (a + 1) % 3, v = (a + 2) % 3;
        const bool up = signOf(side) > 0;
        const auto at = [&](float du, float dv) {
            glm::vec3 p;
            p[a] = up ? kHigh : kLow;
            p[u] = du;
            p[v] = dv;
            return p;
        };
        const glm::vec3 middle = at(0.5F, 0.5F);
        const std::array<glm::vec3, 4> round{at(kLow, kLow), at(kHigh, kLow), at(kHigh, kHigh), at(kLow, kHigh)};
        for (std::size_t i = 0; i < 4; ++i) { // four triangles of two colours make the cross
            const glm::vec3 &from = round[i], &to = round[(i + 1) % 4];
            const Rgb colour = i % 2 == 0 ? kHeather : kPale;
            if (up)
                addPolygon(t, {middle, from, to}, colour);
            else
                addPolygon(t, {middle, to, from}, colour);
        }
    }
    return shapeFrom(std::move(t));
}

} // namespace fell::blocks
