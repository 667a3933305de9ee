// SPDX-License-Identifier: Apache-2.0
#include <fell/edit/tools.h>

#include <algorithm>
#include <cassert>
#include <cmath>
#include <numbers>

namespace fell::edit {
namespace {

constexpr std::array<Tool, 9> kTools{{
    {ToolKind::Remove, "remove", "remove a block", "Removes the outlined block. In most cases one chunk changes.",
        false, false},
    {ToolKind::Place, "place", "place a block", "Places a block on the outlined face.", false, true},
    {ToolKind::Box, "box", "fill a box", "Fills from one corner to the other: click the first corner, then the second.",
        false, true},
    {ToolKind::Ball, "ball", "fill a ball", "All voxels within the radius.", true, true},
    {ToolKind::Raise, "raise", "raise the ground", "Raises a smooth hill of the top material.", true, false},
    {ToolKind::Lower, "lower", "lower the ground", "Lowers a smooth hollow.", true, false},
    {ToolKind::Smooth, "smooth", "smooth the ground", "Moves each column towards the mean of its neighbours.", true,
        false},
    {ToolKind::Paint, "paint", "paint the surface", "Replaces blocks with an exposed face by the chosen block type.",
        true, true},
    {ToolKind::Blast, "blast", "quarry blast", "Removes a ragged ball of rock after a countdown.", true, false},
}};

VoxelPos plus(VoxelPos at, int x, int y, int z)
{
    return {at.x + x, at.y + y, at.z + z};
}

/// Visits the voxels of a ball, layer by layer upward.
template <typename Visit> void eachInBall(VoxelPos middle, int radius, double reach, const Visit& visit)
{
    const double max = reach * reach;
    for (int y = -radius; y <= radius; ++y)
        for (int z = -radius; z <= radius; ++z)
            for (int x = -radius; x <= radius; ++x)
                if (const double squared = x * x + y * y + z * z; squared <= max)
                    visit(plus(middle, x, y, z), std::sqrt(squared));
}

class Changes {
public:
    explicit Changes(const ReadVoxel& read)
        : m_read(read)
    {
    }
    void set(VoxelPos at, Material after)
    {
        if (const auto before = m_read(at); before && *before != after)
            out.push_back({at, *before, after});
    }
    std::vector<VoxelChange> out;

private:
    const ReadVoxel& m_read;
};

bool isOpenTo(const SideRules& rules, Material m)
{
    return m == kOpen || rules.matter[m] == Matter::Liquid;
}

/// The ground of a column near a height: the highest voxel at most `reach` away that is stood on and has open air or
/// liquid above it.
std::optional<std::int64_t> groundNear(
    const ReadVoxel& read, const SideRules& rules, std::int64_t x, std::int64_t z, std::int64_t y, int reach)
{
    auto above = read({x, y + reach + 1, z});
    for (std::int64_t at = y + reach; at >= y - reach; --at) {
        const auto here = read({x, at, z});
        if (here && above && !isOpenTo(rules, *here) && isOpenTo(rules, *above))
            return at;
        above = here;
    }
    return std::nullopt;
}

/// Grows or shrinks a column from its ground to `to`, with the column's top material.
void moveGround(
    const ReadVoxel& read, Changes& changes, std::int64_t x, std::int64_t z, std::int64_t ground, std::int64_t to)
{
    const Material top = read({x, ground, z}).value_or(kOpen);
    for (std::int64_t y = ground + 1; y <= to; ++y)
        changes.set({x, y, z}, top);
    for (std::int64_t y = ground; y > to; --y)
        changes.set({x, y, z}, kOpen);
    if (to < ground && read({x, to, z}).value_or(kOpen) != kOpen)
        changes.set({x, to, z}, top); // turf stays on top
}

void hill(const ToolUse& use, const ReadVoxel& read, const SideRules& rules, Changes& changes)
{
    const double height = std::max(1.0, use.radius / 3.0) * (use.kind == ToolKind::Raise ? 1 : -1);
    for (int z = -use.radius; z <= use.radius; ++z)
        for (int x = -use.radius; x <= use.radius; ++x) {
            const double away = std::hypot(x, z) / (use.radius + 0.5);
            if (away > 1)
                continue;
            const auto ground = groundNear(read, rules, use.at.x + x, use.at.z + z, use.at.y, use.radius + 2);
            const auto by = std::lround(height * 0.5 * (1 + std::cos(away * std::numbers::pi)));
            if (ground && by != 0)
                moveGround(read, changes, use.at.x + x, use.at.z + z, *ground, *ground + by);
        }
}

void smooth(const ToolUse& use, const ReadVoxel& read, const SideRules& rules, Changes& changes)
{
    const int wide = 2 * use.radius + 3; // a ring more, which is only read
    std::vector<std::optional<std::int64_t>> ground(static_cast<std::size_t>(wide * wide));
    const auto at = [&](int x, int z) -> std::optional<std::int64_t>& {
        return ground[static_cast<std::size_t>((z + use.radius + 1) * wide + x + use.radius + 1)];
    };
    for (int z = -use.radius - 1; z <= use.radius + 1; ++z)
        for (int x = -use.radius - 1; x <= use.radius + 1; ++x)
            at(x, z) = groundNear(read, rules, use.at.x + x, use.at.z + z, use.at.y, use.radius + 2);
    for (int z = -use.radius; z <= use.radius; ++z)
        for (int x = -use.radius; x <= use.radius; ++x) {
            if (!at(x, z) || std::hypot(x, z) > use.radius + 0.5)
                continue;
            double sum = 0;
            int count = 0;
            for (int dz = -1; dz <= 1; ++dz)
                for (int dx = -1; dx <= 1; ++dx)
                    if (const auto& one = at(x + dx, z + dz)) {
                        sum += static_cast<double>(*one - use.at.y);
                        ++count;
                    }
            const std::int64_t mean = use.at.y + std::lround(sum / count);
            if (mean != *at(x, z))
                moveGround(read, changes, use.at.x + x, use.at.z + z, *at(x, z), mean);
        }
}

void paint(const ToolUse& use, const ReadVoxel& read, const SideRules& rules, Changes& changes)
{
    eachInBall(use.at, use.radius, use.radius + 0.5, [&](VoxelPos at, double) {
        const Material here = read(at).value_or(kOpen);
        if (isOpenTo(rules, here))
            return;
        const bool isSeen = std::any_of(kSides.begin(), kSides.end(), [&](Side side) {
            const ChunkPos to = stepOf(side);
            return read(at + VoxelPos{to.x, to.y, to.z}).value_or(here) == kOpen;
        });
        if (isSeen)
            changes.set(at, use.material);
    });
}

/// A number from -1 to 1 for a point of a coarse grid, and smooth between them.
double rough(std::uint64_t seed, double x, double y, double z)
{
    const auto cellOf = [](double v) { return static_cast<std::int64_t>(std::floor(v)); };
    const std::int64_t cx = cellOf(x), cy = cellOf(y), cz = cellOf(z);
    const auto ease = [](double t) { return t * t * (3 - 2 * t); };
    const double fx = ease(x - static_cast<double>(cx)), fy = ease(y - static_cast<double>(cy)),
                 fz = ease(z - static_cast<double>(cz));
    double sum = 0;
    for (int corner = 0; corner < 8; ++corner) {
        const int dx = corner & 1, dy = corner >> 1 & 1, dz = corner >> 2;
        const std::uint64_t hash = mix64(seed + hashOf({cx + dx, cy + dy, cz + dz}));
        const double value = static_cast<double>(hash >> 11) * 0x1p-52 - 1;
        sum += value * (dx ? fx : 1 - fx) * (dy ? fy : 1 - fy) * (dz ? fz : 1 - fz);
    }
    return sum;
}

void blast(const ToolUse& use, const ReadVoxel& read, Changes& changes)
{
    constexpr double kRagged = 1.0 / 3; // of the radius
    const double bump = std::max(2.0, use.radius / 3.0); // voxels from one bump to the next
    const int reach = static_cast<int>(std::ceil(use.radius * (1 + kRagged)));
    eachInBall(use.at, reach, use.radius * (1 + kRagged) + 0.5, [&](VoxelPos at, double away) {
        const VoxelPos by = at - use.at;
        const double edge = use.radius
            * (1
                + kRagged
                    * rough(use.seed, static_cast<double>(by.x) / bump, static_cast<double>(by.y) / bump,
                        static_cast<double>(by.z) / bump));
        if (away <= edge + 0.5 && read(at).value_or(kOpen) != kOpen)
            changes.set(at, kOpen);
    });
}

} // namespace

std::span<const Tool> tools()
{
    return kTools;
}

const Tool* findTool(std::string_view id)
{
    const auto found = std::find_if(kTools.begin(), kTools.end(), [id](const Tool& tool) { return tool.id == id; });
    return found == kTools.end() ? nullptr : &*found;
}

const Tool& toolOf(ToolKind kind)
{
    return *std::find_if(kTools.begin(), kTools.end(), [kind](const Tool& tool) { return tool.kind == kind; });
}

std::vector<VoxelChange> changesOf(const ToolUse& use, const ReadVoxel& read, const SideRules& rules)
{
    assert(use.radius >= 0 && use.radius <= kLargestRadius);
    Changes changes(read);
    switch (use.kind) {
    case ToolKind::Place:
        if (const auto here = read(use.at); here && isOpenTo(rules, *here))
            changes.set(use.at, use.material);
        break;
    case ToolKind::Remove:
        changes.set(use.at, kOpen);
        break;
    case ToolKind::Box: {
        const auto end = [](std::int64_t a, std::int64_t b) { // of a box that is not too large
            return std::clamp<std::int64_t>(b, a - kLargestBox + 1, a + kLargestBox - 1);
        };
        const VoxelPos to{end(use.at.x, use.to.x), end(use.at.y, use.to.y), end(use.at.z, use.to.z)};
        for (std::int64_t y = std::min(use.at.y, to.y); y <= std::max(use.at.y, to.y); ++y)
            for (std::int64_t z = std::min(use.at.z, to.z); z <= std::max(use.at.z, to.z); ++z)
                for (std::int64_t x = std::min(use.at.x, to.x); x <= std::max(use.at.x, to.x); ++x)
                    changes.set({x, y, z}, use.material);
        break;
    }
    case ToolKind::Ball:
        eachInBall(use.at, use.radius, use.radius + 0.5, [&](VoxelPos at, double) { changes.set(at, use.material); });
        break;
    case ToolKind::Raise:
    case ToolKind::Lower:
        hill(use, read, rules, changes);
        break;
    case ToolKind::Smooth:
        smooth(use, read, rules, changes);
        break;
    case ToolKind::Paint:
        paint(use, read, rules, changes);
        break;
    case ToolKind::Blast:
        blast(use, read, changes);
        break;
    }
    return std::move(changes.out);
}

std::vector<DebrisPiece> debrisOf(
    std::span<const VoxelChange> removed, VoxelPos at, std::uint64_t seed, std::size_t max)
{
    std::vector<DebrisPiece> pieces;
    const std::size_t every = std::max<std::size_t>(1, removed.size() / std::max<std::size_t>(1, max));
    for (std::size_t i = 0; i < removed.size() && pieces.size() < max; i += every) {
        const VoxelChange& one = removed[i];
        if (one.before == kOpen)
            continue;
        const auto chance = [&](std::uint64_t which) {
            return static_cast<float>(mix64(seed + hashOf({one.at.x, one.at.y, one.at.z}) + which) >> 40) * 0x1p-24F;
        };
        const VoxelPos by = one.at - at;
        const auto away = static_cast<float>(
            std::max(1.0, std::sqrt(static_cast<double>(by.x * by.x + by.y * by.y + by.z * by.z))));
        const float speed = 8 + 14 * chance(1);
        pieces.push_back({one.at, one.before,
            {static_cast<float>(by.x) / away * speed, 6 + 12 * chance(2), static_cast<float>(by.z) / away * speed}});
    }
    return pieces;
}

} // namespace fell::edit
