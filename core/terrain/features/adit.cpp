// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/features/adit.h>

#include <fell/terrain/columns.h>
#include <fell/terrain/noise.h>

#include <algorithm>
#include <cassert>
#include <cmath>
#include <mutex>
#include <unordered_map>

namespace fell::terrain {
namespace {

/// What a rule says of its adits, in voxels.
struct AditRules {
    AditRules(const FeatureRule& from, const RecipeUnits& units)
        : half(std::max(0, (units.whole(from.own.number("width")) - 1) / 2))
        , height(std::max(1, units.whole(from.own.number("height"))))
        , lengthLow(std::max(4, units.whole(from.own.pair("length")[0])))
        , lengthHigh(std::max(4, units.whole(from.own.pair("length")[1])))
        , step(std::max(2, units.whole(4)))
        , mouth(units.whole(14))
        , out(units.whole(9))
        , frames(std::max(2, units.whole(6)))
        , lamps(2 * frames)
        , floor(from.own.block("floor"))
        , lamp(from.own.block("lamp"))
        , frame(from.own.block("frame"))
        , rail(from.own.block("rail"))
        , turns(from.own.turns("rail"))
    {
    }
    int half, height; // next to the middle; from floor to roof
    int lengthLow, lengthHigh;
    int step; // between two looks at the ground
    int mouth; // the farthest until rock covers it
    int out; // of the platform
    int frames, lamps; // apart: a lamp midway between props
    Material floor, lamp, frame, rail; // open air for none
    int turns; // of the rail
};

constexpr std::int64_t kMargin = 4; // voxels from the border of a cell that a gallery stays away: its walls lie in them
constexpr float kMinCover = 1.5f; // voxels of rock over a roof
constexpr int kMaxDrop = 4; // voxels that a platform may stand over the ground

/// Which way an adit goes: a voxel `along` from its mouth and `across`, to the right, lies there.
struct Heading {
    int x = 0, z = 0;
    [[nodiscard]] VoxelPos at(VoxelPos mouth, int along, int across, int up) const
    {
        return mouth + VoxelPos{along * x - across * z, up, along * z + across * x};
    }
};
constexpr std::array<Heading, 4> kHeadings{{{1, 0}, {-1, 0}, {0, 1}, {0, -1}}};

/// One adit while it is dug. A class because every part of it asks for the same four things.
class Dig {
public:
    Dig(const Terrain& terrain, const AditRules& rule, VoxelPos low, VoxelPos high, VoxelPos mouth, Heading heading)
        : m_terrain(terrain)
        , m_rule(rule)
        , m_low(low)
        , m_high(high)
        , m_mouth(mouth)
        , m_heading(heading)
    {
    }

    /// How far from its mouth the gallery can go with at most `most` under the hill; 0 if that would be less than
    /// `least`.
    [[nodiscard]] int reach(int min, int max)
    {
        int along = 0;
        for (; m_covered < 0 || along <= m_covered + max; ++along) {
            if (!isInCell(along, m_rule.half + 2) || !isInCell(along, -m_rule.half - 2))
                break;
            if (along % m_rule.step != 0)
                continue;
            const bool isCovered = cover(m_heading, m_mouth, along) >= kMinCover;
            if (isCovered && m_covered < 0)
                m_covered = along;
            if (!isCovered && m_covered >= 0) {
                along -= m_rule.step - 1;
                break;
            }
            if (m_covered < 0 && along >= m_rule.mouth)
                return 0;
        }
        const int last = along - 1;
        return m_covered < 0 || last - m_covered < min ? 0 : last;
    }

    [[nodiscard]] Adit dig(int length, std::uint64_t dice)
    {
        platform();
        gallery(m_heading, m_mouth, 0, length);
        for (int part = 1; part <= 2; ++part) // at a third and at two thirds, to either side
            if (const int at = length * part / 3; at > m_covered + 2 * m_rule.half)
                branch(at, dice >> (8 * part));
        rails(length - 1);
        return std::move(m_adit);
    }

private:
    [[nodiscard]] bool isInCell(int along, int across) const
    {
        const VoxelPos at = m_heading.at(m_mouth, along, across, 0);
        return at.x >= m_low.x && at.z >= m_low.z && at.x < m_high.x && at.z < m_high.z;
    }

    /// Voxels of ground over the roof there: the least of the middle and both walls.
    [[nodiscard]] float cover(Heading heading, VoxelPos from, int along) const
    {
        float min = 1e9f;
        for (const int across : {-m_rule.half - 2, 0, m_rule.half + 2}) {
            const VoxelPos at = heading.at(from, along, across, 0);
            min = std::min(min, groundHeight(m_terrain, at.x, at.z) - static_cast<float>(m_mouth.y + m_rule.height));
        }
        return min;
    }

    void put(AditBox::How how, VoxelPos a, VoxelPos b, Material material)
    {
        AditBox box{how, {std::min(a.x, b.x), std::min(a.y, b.y), std::min(a.z, b.z)},
            {std::max(a.x, b.x) + 1, std::max(a.y, b.y) + 1, std::max(a.z, b.z) + 1}, material};
        if (m_adit.boxes.empty()) {
            m_adit.low = box.low;
            m_adit.high = box.high;
        }
        for (auto axis : {&VoxelPos::x, &VoxelPos::y, &VoxelPos::z}) {
            m_adit.low.*axis = std::min(m_adit.low.*axis, box.low.*axis);
            m_adit.high.*axis = std::max(m_adit.high.*axis, box.high.*axis);
        }
        m_adit.boxes.push_back(box);
    }

    /// Hollow, with props and lamps. Where rock should cover it, it gets walls and a roof if there is none:
    /// in caves, and where crags lean out.
    void gallery(Heading heading, VoxelPos from, int first, int last)
    {
        using How = AditBox::How;
        const int half = m_rule.half, top = m_rule.height - 1;
        const auto at = [&](int along, int across, int up) { return heading.at(from, along, across, up); };
        const bool isMain = first == 0;
        put(How::Fill, at(first, -half, -1), at(last, half, -1), m_rule.floor);
        put(How::Fill, at(isMain ? m_covered : first + 1, -half - 1, -1), at(last + 1, half + 1, top + 1),
            m_rule.floor);
        put(How::Hollow, at(first, -half, 0), at(last, half, top), kOpen);
        for (int along = isMain ? m_covered : last; along <= last; ++along) {
            const int since = isMain ? along - m_covered : 0;
            if (const Material frame = m_rule.frame;
                frame != kOpen && half > 0 && isMain && since % m_rule.frames == 0) {
                put(How::Put, at(along, -half, 0), at(along, -half, top), frame);
                put(How::Put, at(along, half, 0), at(along, half, top), frame);
                put(How::Put, at(along, -half, top), at(along, half, top), frame);
            }
            if (const Material lamp = m_rule.lamp;
                lamp != kOpen && (isMain ? since % m_rule.lamps == m_rule.frames / 2 : true)) {
                const int side = (since / m_rule.lamps) % 2 == 0 ? half + 1 : -half - 1, up = std::max(0, top - 1);
                const int behind = side < 0 ? side - 1 : side + 1;
                put(How::Fill, at(along, behind, up), at(along, behind, up), m_rule.floor);
                put(How::Put, at(along, side, up), at(along, side, up), lamp);
            }
        }
    }

    void branch(int along, std::uint64_t dice)
    {
        const int side = (dice & 1) != 0 ? 1 : -1;
        const Heading heading{-m_heading.z * side, m_heading.x * side};
        const VoxelPos from = m_heading.at(m_mouth, along, 0, 0);
        const int want = m_rule.half + m_rule.lengthLow / 2 + static_cast<int>((dice >> 1) % 8);
        int last = 0;
        for (int at = 0; at <= want; at += m_rule.step) {
            if (!isInCell(along, side * (at + 2)) || cover(heading, from, at) < kMinCover)
                break;
            last = at;
        }
        if (last > m_rule.half + 2)
            gallery(heading, from, m_rule.half + 1, last);
    }

    /// What was carried out, flattened before the mouth; where the ground falls away from it, it ends.
    void platform()
    {
        using How = AditBox::How;
        for (int i = 1; i <= m_rule.out && isInCell(-i, m_rule.half) && isInCell(-i, -m_rule.half); ++i) {
            bool isFit = true;
            for (const int across : {-m_rule.half, 0, m_rule.half}) {
                const VoxelPos at = m_heading.at(m_mouth, -i, across, 0);
                const ColumnSample column = columnAt(m_terrain, at.x, at.z);
                const float above = column.height - static_cast<float>(m_mouth.y);
                isFit &= column.push == 0 && above < 2 && above > -kMaxDrop
                    && static_cast<std::int64_t>(std::ceil(column.height - 0.5f)) > m_terrain.waterLevel;
            }
            if (!isFit)
                break;
            m_out = i;
        }
        if (m_out == 0)
            return;
        const auto at = [&](int along, int across, int up) { return m_heading.at(m_mouth, along, across, up); };
        put(How::Fill, at(-m_out, -m_rule.half, -kMaxDrop - 1), at(-1, m_rule.half, -1), m_rule.floor);
        put(How::Hollow, at(-m_out, -m_rule.half, 0), at(-1, m_rule.half, m_rule.height - 1), kOpen);
    }

    void rails(int last)
    {
        Material rail = m_rule.rail;
        if (rail == kOpen)
            return;
        if (m_heading.z != 0 && m_rule.turns > 1)
            rail = static_cast<Material>(rail + 1); // a quarter turn
        put(AditBox::How::Put, m_heading.at(m_mouth, -m_out, 0, 0), m_heading.at(m_mouth, last, 0, 0), rail);
    }

    const Terrain& m_terrain;
    const AditRules& m_rule;
    VoxelPos m_low, m_high; // of the cell, less its margin
    VoxelPos m_mouth;
    Heading m_heading;
    int m_covered = -1; // where rock begins to cover it
    int m_out = 0; // the platform's length
    Adit m_adit;
};

Heading uphill(const Terrain& terrain, VoxelPos at, int step)
{
    const Heading* best = kHeadings.data();
    float highest = -1e9f;
    for (const Heading& heading : kHeadings)
        if (const float ground = groundHeight(terrain, at.x + heading.x * step, at.z + heading.z * step);
            ground > highest) {
            highest = ground;
            best = &heading;
        }
    return *best;
}

/// The adit of one cell of the site's grid, wherever the question comes from.
std::optional<Adit> aditOfCell(
    const Terrain& terrain, const FeatureSite& site, const AditRules& rule, std::int64_t cellX, std::int64_t cellZ)
{
    assert(terrain.level == 0);
    const std::uint64_t dice = diceOf(site, cellX, cellZ);
    if (!hasAny(site, dice))
        return std::nullopt;
    const std::int64_t spacing = site.spacing;
    const VoxelPos low{cellX * spacing + kMargin, 0, cellZ * spacing + kMargin};
    const VoxelPos high{(cellX + 1) * spacing - kMargin, 0, (cellZ + 1) * spacing - kMargin};
    if (high.x <= low.x)
        return std::nullopt; // in voxels of many metres
    // Several places of the cell are tried: hillsides are where they are.
    constexpr int kTries = 5;
    std::uint64_t die = dice;
    for (int i = 0; i < kTries; ++i) {
        die = mix64(die);
        const auto within = [&](std::uint64_t bits) {
            return static_cast<std::int64_t>((bits & 0xFFFF) * static_cast<std::uint64_t>(high.x - low.x) >> 16);
        };
        VoxelPos mouth{low.x + within(die), 0, low.z + within(die >> 16)};
        // What costs least is asked first.
        const float ground = groundHeight(terrain, mouth.x, mouth.z);
        mouth.y = static_cast<std::int64_t>(std::ceil(ground - 0.5f));
        if (mouth.y <= terrain.waterLevel)
            continue;
        const Heading heading = uphill(terrain, mouth, rule.step * 2);
        const VoxelPos inside = heading.at(mouth, rule.mouth, 0, 0);
        if (groundHeight(terrain, inside.x, inside.z) < static_cast<float>(mouth.y + rule.height) + kMinCover)
            continue; // the hill does not rise soon enough
        if (!canPlace(terrain, site, columnAt(terrain, mouth.x, mouth.z), mouth.x, mouth.z))
            continue;
        Dig dig(terrain, rule, low, high, mouth, heading);
        const auto span = static_cast<std::uint64_t>(rule.lengthHigh - rule.lengthLow + 1);
        const int max = rule.lengthLow + static_cast<int>((die >> 32 & 0xFFFF) * span >> 16);
        if (const int length = dig.reach(rule.lengthLow, max); length > 0)
            return dig.dig(length, die >> 40);
    }
    return std::nullopt;
}

/// Remembers its cells: each is asked for by all chunk columns that it touches, one after the other. It goes level from
/// its mouth towards the steepest of four sides, as far as there is rock over it; where there is not enough, there is
/// none. All of it lies within its cell, so two never meet.
class AditFeature final : public Feature {
public:
    AditFeature(const FeatureRule& rule, const FeatureSite& site, const RecipeUnits& units)
        : m_site(site)
        , m_rules(rule, units)
    {
    }
    [[nodiscard]] Phase phase() const override { return Phase::Dig; }
    /// All that one sees of them from afar is a mouth of three voxels.
    [[nodiscard]] std::shared_ptr<const Feature> coarser(const Terrain&) const override { return nullptr; }

    void place(const Terrain& terrain, const PlacingSquare& square, PlacedFeatures& out) const override
    {
        const std::int64_t spacing = m_site.spacing, last = square.size - 1;
        for (std::int64_t cz = cellOf(square.z0, spacing); cz <= cellOf(square.z0 + last, spacing); ++cz)
            for (std::int64_t cx = cellOf(square.x0, spacing); cx <= cellOf(square.x0 + last, spacing); ++cx)
                if (auto adit = remembered(terrain, cx, cz); adit && adit->reaches(square.x0, square.z0, square.size))
                    out.push_back(std::move(adit));
    }

private:
    std::shared_ptr<const PlacedFeature> remembered(
        const Terrain& terrain, std::int64_t cellX, std::int64_t cellZ) const
    {
        constexpr std::size_t kMax = 4096; // cells
        const ChunkPos key{cellX, 0, cellZ};
        {
            const std::scoped_lock lock(m_mutex);
            if (const auto found = m_known.find(key); found != m_known.end())
                return found->second;
        }
        // Two threads may find the same at once: the answer is the same.
        auto adit = aditOfCell(terrain, m_site, m_rules, cellX, cellZ);
        std::shared_ptr<const PlacedFeature> made
            = adit ? std::make_shared<const PlacedAdit>(std::move(*adit)) : nullptr;
        const std::scoped_lock lock(m_mutex);
        if (m_known.size() >= kMax)
            m_known.clear();
        return m_known.emplace(key, std::move(made)).first->second;
    }

    FeatureSite m_site;
    AditRules m_rules;
    mutable std::mutex m_mutex;
    mutable std::unordered_map<ChunkPos, std::shared_ptr<const PlacedFeature>, ChunkPosHash> m_known;
};

const RecipePart kPart = featurePart(
    {"adit", "Adits", "level galleries into the hill, with a platform before the mouth; whole within their cell",
        {number("height", "height", "m", {1, 12}), number("width", "width", "m", {1, 12}),
            numberPair("length", "least length", "greatest length", "m", {4, 200}, "under the hill",
                RecipeField::Order::NotFalling),
            block("floor", "floor"), block("lamp", "lamp").optional(), block("frame", "frame", "props").optional(),
            block("rail", "rail", "along x; its kind turned by 90 degrees along z").optional()},
        {{"Adits",
            R"({"kind": "adit", "note": "adits", "spacing": 90, "chance": 0.8, "slope": 2, "ground": ["MATERIAL"], "height": 3, "width": 3, "length": [16, 40], "floor": "MATERIAL"})"}}},
    number("spacing", "spacing", "m", {16, 500}));

} // namespace

PlacedAdit::PlacedAdit(Adit of)
    : adit(std::move(of))
{
    low = adit.low;
    high = adit.high;
}

void PlacedAdit::stamp(const Terrain&, VoxelPos origin, int edge, std::span<Material> voxels) const
{
    for (const AditBox& box : adit.boxes) {
        const VoxelPos from{std::max<std::int64_t>(box.low.x - origin.x, 0),
            std::max<std::int64_t>(box.low.y - origin.y, 0), std::max<std::int64_t>(box.low.z - origin.z, 0)};
        const VoxelPos to{std::min<std::int64_t>(box.high.x - origin.x, edge),
            std::min<std::int64_t>(box.high.y - origin.y, edge), std::min<std::int64_t>(box.high.z - origin.z, edge)};
        for (std::int64_t y = from.y; y < to.y; ++y)
            for (std::int64_t z = from.z; z < to.z; ++z)
                for (std::int64_t x = from.x; x < to.x; ++x) {
                    Material& voxel = voxels[static_cast<std::size_t>((y * edge + z) * edge + x)];
                    if (box.how != AditBox::How::Fill || voxel == kOpen)
                        voxel = box.material;
                }
    }
}

PlacedFeatures aditsNear(const Terrain& terrain, std::int64_t x0, std::int64_t z0, int size)
{
    PlacedFeatures out;
    for (const auto& feature : terrain.features)
        if (feature->phase() == Feature::Phase::Dig)
            feature->place(terrain, {x0, z0, size, {}, {}}, out);
    return out;
}

extern const FeatureKind kAdit;
const FeatureKind kAdit{&kPart, FeatureKind::Group::Other,
    [](const FeatureRule& rule, const FeatureSite& site, const RecipeUnits& units) -> std::shared_ptr<const Feature> {
        return std::make_shared<AditFeature>(rule, site, units);
    },
    [](const auto&) -> std::string { return "adits into the hill"; }};

} // namespace fell::terrain
