// SPDX-License-Identifier: Apache-2.0
#include <fell/mesh/quad.h>

namespace fell::mesh {

std::array<std::array<int, 3>, 4> cornersOf(const QuadFields& quad)
{
    const auto a = static_cast<std::size_t>(axisOf(quad.side)), u = (a + 1) % 3, v = (a + 2) % 3;
    std::array<int, 3> base{quad.x, quad.y, quad.z};
    base[a] = planeOf(quad);
    std::array<std::array<int, 3>, 4> corners{base, base, base, base};
    // u x v points along +a, so the round 0, u, u+v, v is counter-clockwise for the positive side.
    const std::size_t second = signOf(quad.side) > 0 ? 1 : 3, fourth = 4 - second;
    corners[second][u] += quad.width;
    corners[2][u] += quad.width;
    corners[2][v] += quad.height;
    corners[fourth][v] += quad.height;
    return corners;
}

std::uint64_t areaOf(std::span<const Quad> quads)
{
    std::uint64_t area = 0;
    for (const Quad quad : quads) {
        const QuadFields fields = unpackQuad(quad);
        area += static_cast<std::uint64_t>(fields.width) * static_cast<std::uint64_t>(fields.height);
    }
    return area;
}

namespace {

template <typename Visit> void forEachUnitSide(std::span<const Quad> quads, const Visit& visit)
{
    for (const Quad quad : quads) {
        const QuadFields q = unpackQuad(quad);
        const auto a = static_cast<std::size_t>(axisOf(q.side)), u = (a + 1) % 3, v = (a + 2) % 3;
        for (int i = 0; i < q.width; ++i)
            for (int j = 0; j < q.height; ++j) {
                std::array<int, 3> at{q.x, q.y, q.z};
                at[u] += i;
                at[v] += j;
                visit(packQuad({at[0], at[1], at[2], 1, 1, q.side, q.material, q.ambientOcclusion, q.facesInward}));
            }
    }
}

} // namespace

std::vector<Quad> unitSides(std::span<const Quad> quads)
{
    std::vector<Quad> out;
    forEachUnitSide(quads, [&out](Quad side) { out.push_back(side); });
    return out;
}

std::uint64_t surfaceDigest(std::span<const Quad> quads)
{
    std::uint64_t sum = 0; // a sum does not ask for the order
    forEachUnitSide(quads, [&sum](Quad side) { sum += mix64(side); });
    return sum;
}

} // namespace fell::mesh
