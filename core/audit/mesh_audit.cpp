// SPDX-License-Identifier: Apache-2.0
#include <fell/audit/audit.h>

#include <algorithm>
#include <map>
#include <random>

namespace fell::audit {
namespace {

/// 27 chunks of one pattern, and voxels looked up across their borders.
class RandomWorld {
public:
    RandomWorld(int edge, std::uint64_t number, std::uint64_t seed, const SideRules& rules)
        : m_edge(edge)
    {
        std::mt19937_64 dice(mix64(seed) + number);
        const auto max = static_cast<std::uint64_t>(rules.matter.size() - 1);
        // Every second one is of plain solid blocks alone, where a set has any; the rest of everything.
        const std::uint64_t kinds = number % 2 == 0 && rules.solidCubes > 0 ? rules.solidCubes : max;
        const std::uint64_t pattern = number / 2 % 7;
        const double fill = static_cast<double>(dice() % 1000) / 1000;
        const auto height = static_cast<std::int64_t>(dice() % static_cast<std::uint64_t>(edge)),
                   slope = static_cast<std::int64_t>(dice() % 5) - 2;
        const auto some = [&] { return static_cast<Material>(1 + dice() % kinds); };
        const Material one = some();
        for (std::int64_t c = 0; c < 27; ++c) {
            const VoxelPos origin{(c % 3 - 1) * edge, (c / 9 - 1) * edge, (c / 3 % 3 - 1) * edge};
            std::vector<Material> voxels;
            voxels.reserve(static_cast<std::size_t>(edge) * edge * edge);
            for (std::int64_t y = origin.y; y < origin.y + edge; ++y)
                for (std::int64_t z = origin.z; z < origin.z + edge; ++z)
                    for (std::int64_t x = origin.x; x < origin.x + edge; ++x) {
                        bool solid = false;
                        switch (pattern) {
                        case 0: // dust
                            solid = static_cast<double>(dice() % 1000) < fill * 1000;
                            break;
                        case 1: // a checkerboard
                            solid = (x + y + z) % 2 == 0;
                            break;
                        case 2: // one voxel, somewhere in the middle chunk or next to it
                            solid = x == height && y == slope && z == height / 2;
                            break;
                        case 3: // full
                            solid = true;
                            break;
                        case 4: // empty
                            break;
                        case 5: // a slope of ground
                            solid = y < height + x * slope / 2 - z / 3;
                            break;
                        default: // hills with single blocks on them
                            solid = y < height + (x * x - z * z) / edge || dice() % 40 == 0;
                        }
                        // Ground of few materials merges, dust of many does not: the audit needs both.
                        voxels.push_back(!solid ? kOpen : pattern >= 5 && dice() % 8 != 0 ? one : some());
                    }
            m_chunks.push_back(
                VoxelChunk(edge, std::move(voxels))
                    .convertedTo(voxelForms()[(number + static_cast<std::uint64_t>(c)) % voxelForms().size()]));
        }
    }

    [[nodiscard]] Neighbourhood view() const
    {
        Neighbourhood around;
        for (std::size_t i = 0; i < 27; ++i)
            around.chunks[i] = &m_chunks[i];
        return around;
    }

    [[nodiscard]] Material at(const std::array<int, 3>& p) const
    {
        std::array<int, 3> chunk{}, local{};
        for (std::size_t axis = 0; axis < 3; ++axis) {
            chunk[axis] = p[axis] < 0 ? 0 : p[axis] >= m_edge ? 2 : 1;
            local[axis] = p[axis] - (chunk[axis] - 1) * m_edge;
        }
        return m_chunks[static_cast<std::size_t>(chunk[1] * 9 + chunk[2] * 3 + chunk[0])].at(
            local[0], local[1], local[2]);
    }

private:
    int m_edge;
    std::vector<VoxelChunk> m_chunks;
};

/// A chunk of a world as it was gathered.
struct GatheredWorld {
    const PaddedVoxels& voxels;
    [[nodiscard]] Material at(const std::array<int, 3>& p) const { return voxels.at(p[0], p[1], p[2]); }
};

/// The shade of a side from the voxels that meet at each of its corners, one by one.
template <typename World>
std::uint8_t slowShade(const World& sample, const SideRules& rules, std::array<int, 3> voxel, Side side)
{
    const auto a = static_cast<std::size_t>(axisOf(side)), u = (a + 1) % 3, v = (a + 2) % 3;
    unsigned ambientOcclusion = 0;
    for (int corner = 0; corner < 4; ++corner) {
        const int du = corner == 1 || corner == 2 ? 1 : -1, dv = corner >= 2 ? 1 : -1;
        std::array<int, 3> first = voxel, second = voxel, across = voxel;
        for (auto* p : {&first, &second, &across})
            (*p)[a] += signOf(side);
        first[u] += du;
        second[v] += dv;
        across[u] += du;
        across[v] += dv;
        const bool b = rules.isSolidCube(sample.at(first)), c = rules.isSolidCube(sample.at(second));
        const unsigned dark = b && c ? 3u : static_cast<unsigned>(b) + c + rules.isSolidCube(sample.at(across));
        ambientOcclusion |= (dark & 1u) << corner | (dark >> 1) << (corner + 4);
    }
    return static_cast<std::uint8_t>(ambientOcclusion);
}

template <typename World> std::vector<Quad> slowSides(const World& world, const SideRules& rules, int edge)
{
    std::vector<Quad> out;
    for (int y = 0; y < edge; ++y)
        for (int z = 0; z < edge; ++z)
            for (int x = 0; x < edge; ++x) {
                const Material here = world.at({x, y, z});
                if (!rules.isCube(here))
                    continue;
                for (const Side side : kSides) {
                    const ChunkPos to = stepOf(side);
                    if (isSideSeen(rules, here,
                            world.at(
                                {x + static_cast<int>(to.x), y + static_cast<int>(to.y), z + static_cast<int>(to.z)}),
                            side))
                        out.push_back(packQuad({x, y, z, 1, 1, side, here, slowShade(world, rules, {x, y, z}, side)}));
                }
            }
    std::sort(out.begin(), out.end());
    return out;
}

/// The sides of voxels that triangles cover for the most part, as unit sides. Triangles in other planes, and small ones
/// that close something, are none.
std::vector<Quad> sidesOf(const TriangleList& triangles)
{
    constexpr int kUnit = static_cast<int>(kMeshUnit);
    struct Found {
        std::int64_t area = 0; // twice it, in 1/kUnit^2 voxel sides
        std::array<int, 4> darkness{};
        Material material = kOpen;
    };
    std::map<std::array<int, 4>, Found> found; // by voxel and side
    for (std::size_t i = 0; i < triangles.count(); ++i) {
        const auto& normal = triangles.corner(i, 0).normal;
        const auto level = std::find_if(normal.begin(), normal.end(), [](int n) { return std::abs(n) == 127; });
        if (level == normal.end())
            continue;
        const auto a = static_cast<std::size_t>(level - normal.begin()), u = (a + 1) % 3, v = (a + 2) % 3;
        const auto at
            = [&](std::size_t corner, std::size_t axis) -> int { return triangles.corner(i, corner).place[axis]; };
        std::array<int, 4> key{};
        key[u] = (at(0, u) + at(1, u) + at(2, u)) / 3 / kUnit;
        key[v] = (at(0, v) + at(1, v) + at(2, v)) / 3 / kUnit;
        key[a] = at(0, a) / kUnit - (*level > 0 ? 1 : 0);
        key[3] = static_cast<int>(2 * a) + (*level > 0 ? 0 : 1);
        Found& one = found[key];
        one.material = triangles.corner(i, 0).material;
        one.area
            += std::abs((at(1, u) - at(0, u)) * (at(2, v) - at(0, v)) - (at(2, u) - at(0, u)) * (at(1, v) - at(0, v)));
        for (std::size_t corner = 0; corner < 3; ++corner) {
            const bool highU = at(corner, u) > key[u] * kUnit + kUnit / 2,
                       highV = at(corner, v) > key[v] * kUnit + kUnit / 2;
            one.darkness[highV ? (highU ? 2 : 3) : (highU ? 1 : 0)] = triangles.corner(i, corner).darkness;
        }
    }
    std::vector<Quad> out;
    for (const auto& [key, one] : found) {
        if (one.area < kUnit * kUnit) // twice half a side
            continue;
        unsigned ambientOcclusion = 0;
        for (unsigned corner = 0; corner < 4; ++corner)
            ambientOcclusion |= (static_cast<unsigned>(one.darkness[corner]) & 1U) << corner
                | (static_cast<unsigned>(one.darkness[corner]) >> 1) << (corner + 4);
        out.push_back(packQuad({key[0], key[1], key[2], 1, 1, static_cast<Side>(key[3]), one.material,
            static_cast<std::uint8_t>(ambientOcclusion)}));
    }
    return out;
}

/// Twice the sum of all areas, each in the direction that it looks to, in 1/kUnit^2 voxel sides. What is cut off a
/// solid leaves this as it was, if and only if what bounds it then is closed: each missing or turned triangle shows.
std::array<std::int64_t, 3> areaVector(std::span<const Quad> quads, const TriangleList& triangles)
{
    constexpr auto kUnit = static_cast<std::int64_t>(kMeshUnit);
    std::array<std::int64_t, 3> sum{};
    for (const Quad quad : quads) {
        const QuadFields q = unpackQuad(quad);
        sum[static_cast<std::size_t>(axisOf(q.side))] += 2 * kUnit * kUnit * q.width * q.height * signOf(q.side);
    }
    for (std::size_t i = 0; i < triangles.count(); ++i)
        for (std::size_t a = 0; a < 3; ++a) {
            const std::size_t u = (a + 1) % 3, v = (a + 2) % 3;
            const auto at = [&](std::size_t corner, std::size_t axis) -> std::int64_t {
                return triangles.corner(i, corner).place[axis];
            };
            sum[a] += (at(1, u) - at(0, u)) * (at(2, v) - at(0, v)) - (at(2, u) - at(0, u)) * (at(1, v) - at(0, v));
        }
    return sum;
}

constexpr Quad kWithoutShade = (Quad{1} << kOcclusionBit) - 1;

/// The sides that a mesher shows, as unit sides in order. What only the mesher of every side makes is left out.
std::vector<Quad> shownSides(const Mesher& mesher, const PaddedVoxels& voxels, const MeshRules& rules)
{
    ChunkSurface quads;
    meshSurface(mesher, voxels, rules, quads);
    std::vector<Quad> out = sidesOf(quads.triangles);
    for (std::size_t m = 0; m < kMatterCount; ++m)
        for (const Quad side : unitSides(quads.of[m])) {
            const QuadFields q = unpackQuad(side);
            const ChunkPos to = stepOf(q.side);
            const Material there
                = voxels.at(q.x + static_cast<int>(to.x), q.y + static_cast<int>(to.y), q.z + static_cast<int>(to.z));
            const bool hidden = mesher.traits.drawsHidden && !isSideSeen(*rules.sides, q.material, there, q.side);
            if (static_cast<std::size_t>(rules.sides->matter[q.material]) != m)
                out.push_back(~Quad{0}); // in the wrong mesh
            else if (!hidden)
                out.push_back(side);
        }
    std::sort(out.begin(), out.end());
    return out;
}

/// Do the triangles bound what the sides bound, but for what was cut off? The chunk is looked at alone in open air: a
/// cut may run on into the next chunk.
bool isClosed(const Mesher& mesher, PaddedVoxels voxels, const MeshRules& rules)
{
    const int low = -voxels.apron, high = voxels.edge + voxels.apron;
    for (int y = low; y < high; ++y)
        for (int z = low; z < high; ++z)
            for (int x = low; x < high; ++x)
                if (std::min({x, y, z}) < 0 || std::max({x, y, z}) >= voxels.edge)
                    voxels.voxels[voxels.index(x, y, z)] = kOpen;
    ChunkSurface surface;
    meshSurface(mesher, voxels, rules, surface);
    return areaVector(surface.all(), surface.triangles)
        == areaVector(slowSides(GatheredWorld{voxels}, *rules.sides, voxels.edge), {});
}

std::string describe(const Mesher& mesher, bool ambientOcclusion, int edge, const std::string& name,
    const std::vector<Quad>& slow, const std::vector<Quad>& live)
{
    constexpr std::array<const char*, kSideCount> kNames{"+x", "-x", "+y", "-y", "+z", "-z"};
    std::vector<Quad> only;
    std::set_symmetric_difference(slow.begin(), slow.end(), live.begin(), live.end(), std::back_inserter(only));
    const std::string where = std::string(mesher.id) + (ambientOcclusion ? " with" : " without")
        + " ambient occlusion, edge " + std::to_string(edge) + ", " + name + ": ";
    if (only.empty() || only[0] == ~Quad{0})
        return where + "a quad is in the mesh of another opacity class";
    const QuadFields q = unpackQuad(only[0]);
    const bool isMissing = std::binary_search(slow.begin(), slow.end(), only[0]);
    const auto count = std::count(live.begin(), live.end(), only[0]);
    const auto isSame = [&](Quad other) { return (other & kWithoutShade) == (only[0] & kWithoutShade); };
    const bool isElsewhere = std::any_of((isMissing ? live : slow).begin(), (isMissing ? live : slow).end(), isSame);
    return where + "the face " + kNames[static_cast<std::size_t>(q.side)] + " of voxel (" + std::to_string(q.x) + ", "
        + std::to_string(q.y) + ", " + std::to_string(q.z) + ") of material " + std::to_string(q.material)
        + (isMissing && count > 0 ? " is emitted more than once"
                : isElsewhere     ? " has another ambient occlusion"
                : isMissing       ? " is missing"
                                  : " is emitted and should not be");
}

/// Every mesher on one chunk, with shade and without, against the slow way.
template <typename World>
void auditChunk(const World& world, const PaddedVoxels& voxels, const std::string& name, const SideRules& rules,
    const std::vector<const Mesher*>& meshers, AuditRow& row)
{
    const auto shaded = slowSides(world, rules, voxels.edge);
    auto plain = shaded;
    for (Quad& side : plain)
        side &= kWithoutShade;
    std::sort(plain.begin(), plain.end());
    for (const Mesher* mesher : meshers)
        for (const bool ambientOcclusion : {false, true}) {
            if (ambientOcclusion && !mesher->traits.takesOcclusion)
                continue;
            ++row.cases;
            const MeshRules how{&rules, ambientOcclusion, ambientOcclusion};
            const auto live = shownSides(*mesher, voxels, how);
            const auto& slow = ambientOcclusion ? shaded : plain;
            if (live != slow && ++row.differences == 1)
                row.first = describe(*mesher, ambientOcclusion, voxels.edge, name, slow, live);
            else if (live == slow && mesher->traits.makesTriangles && !isClosed(*mesher, voxels, how)
                && ++row.differences == 1)
                row.first = std::string(mesher->id) + ", edge " + std::to_string(voxels.edge) + ", " + name
                    + ": the triangles do not close what they cut open";
        }
}

} // namespace

PaddedVoxels randomNeighbourhood(int edge, std::uint64_t number, std::uint64_t seed, const SideRules& rules, int apron)
{
    PaddedVoxels voxels;
    gather(RandomWorld(edge, number, seed, rules).view(), voxels, apron);
    return voxels;
}

AuditRow auditMesh(const MeshAuditSpec& spec, const std::stop_token& stop)
{
    AuditRow row;
    row.audit = "mesh";
    const SideRules rules = sideRulesOf(spec.blocks);
    std::vector<const Mesher*> all = spec.meshers;
    if (all.empty())
        for (const Mesher& mesher : meshers())
            all.push_back(&mesher);
    PaddedVoxels voxels;
    for (std::uint64_t number = 0; number < spec.cases; ++number) {
        if (stop.stop_requested()) {
            row.stopped = true;
            return row;
        }
        if (spec.progress && number % 64 == 0)
            spec.progress(static_cast<double>(number) / static_cast<double>(spec.cases));
        const int edge = number % 64 == 63 ? 64 : number % 16 == 15 ? 32 : 16;
        const RandomWorld world(edge, number, spec.seed, rules);
        gather(world.view(), voxels, widestApron());
        auditChunk(world, voxels, "random world " + std::to_string(number), rules, all, row);
    }
    for (std::size_t i = 0; i < spec.chunks.size() && !stop.stop_requested(); ++i)
        auditChunk(GatheredWorld{spec.chunks[i]}, spec.chunks[i], "chunk " + std::to_string(i) + " of the world", rules,
            all, row);
    row.stopped = stop.stop_requested();
    return row;
}

} // namespace fell::audit
