// SPDX-License-Identifier: Apache-2.0
#include <fell/cull/visibility_table.h>

#include <glm/geometric.hpp>
#include <glm/trigonometric.hpp>

#include <algorithm>
#include <bit>
#include <cassert>
#include <cmath>
#include <limits>

namespace fell::cull {
namespace {

/// Voxels. A camera that is as near to a border as kOn is in both chunks: no part of the border represents all that
/// is looked at through it. From farther away a look within 170 degrees crosses it more than kCut before the eye.
constexpr float kOn = 0.05F, kCut = 0.001F;
constexpr float kInfinite = std::numeric_limits<float>::infinity();
constexpr float kFarther = 1.0001F; // a beam's depth: rounding never hides

/// Beams that a stretch of the picture touches.
struct Span {
    int first, last;
};
Span spanOf(float low, float high, int count)
{
    constexpr float kSlack = 1e-3F; // beams: rounding never hides
    const auto beam = [count](float clip, float slack) {
        return static_cast<int>(std::floor(std::clamp(
            (clip * 0.5F + 0.5F) * static_cast<float>(count) + slack, 0.0F, static_cast<float>(count) - 0.5F)));
    };
    return {beam(low, -kSlack), beam(high, kSlack)};
}

} // namespace

void VisibilityTable::clear(int reach)
{
    assert(reach >= 1 && reach <= 64);
    m_reach = reach;
    m_edge = 2 * reach + 3;
    m_places.assign(static_cast<std::size_t>(m_edge * m_edge * m_edge), {});
}

std::size_t VisibilityTable::placeOf(ChunkPos chunk) const
{
    const auto wrapped = [this](std::int64_t v) { return v % m_edge + (v % m_edge < 0 ? m_edge : 0); };
    return static_cast<std::size_t>((wrapped(chunk.y) * m_edge + wrapped(chunk.z)) * m_edge + wrapped(chunk.x));
}

void VisibilityTable::learn(ChunkPos chunk, const ChunkVisibility& sight)
{
    m_places[placeOf(chunk)] = {sight, chunk, true};
}

void VisibilityTable::forget(ChunkPos chunk)
{
    if (find(chunk))
        m_places[placeOf(chunk)].isKnown = false;
}

const ChunkVisibility* VisibilityTable::find(ChunkPos chunk) const
{
    const Place& place = m_places[placeOf(chunk)];
    return place.isKnown && place.chunk == chunk ? &place.sight : nullptr;
}

/// Where an opening in a chunk's side is in the picture: the part of it that is before the eye.
PictureRect PortalTraversal::pictureOf(
    const Portal& opening, const glm::vec3& low, Side side, const CullView& view, float& nearest) const
{
    constexpr float kSlack = 0.01F; // voxels: rounding never closes an opening
    nearest = 0;
    const int axis = axisOf(side), a = axis == 0 ? 1 : 0, b = axis == 2 ? 1 : 2;
    const auto unit = static_cast<float>(view.edge) / 64;
    glm::vec3 corner = low;
    corner[axis] += signOf(side) > 0 ? static_cast<float>(view.edge) : 0.0F;
    if (std::abs(corner[axis] - static_cast<float>(view.eye.within[axis])) < kOn)
        return {};
    const std::array<float, 2> atA{low[a] + unit * opening.low[0] - kSlack, low[a] + unit * opening.high[0] + kSlack},
        atB{low[b] + unit * opening.low[1] - kSlack, low[b] + unit * opening.high[1] + kSlack};
    PictureRect out = PictureRect::nothing();
    float min = kInfinite;
    const auto add = [&](const glm::vec4& at) {
        min = std::min(min, at.w);
        const glm::vec2 point = glm::vec2(at) / at.w;
        out.add({point, point});
    };
    // What reaches behind the eye is cut close before it, corner by corner around the rectangle.
    glm::vec4 before{};
    for (unsigned i = 0; i <= 4; ++i) {
        corner[a] = atA[(i & 3) == 1 || (i & 3) == 2];
        corner[b] = atB[(i & 3) >= 2];
        const glm::vec4 at = view.toClip * glm::vec4(corner, 1);
        if (i > 0 && (at.w > kCut) != (before.w > kCut)) {
            glm::vec4 cut = glm::mix(before, at, (kCut - before.w) / (at.w - before.w));
            cut.w = kCut;
            add(cut);
        }
        if (at.w > kCut)
            add(at);
        before = at;
    }
    nearest = min;
    return out;
}

/// The same within a part of the picture. An opening with gaps is taken piece by piece, so that what lies before the
/// gaps only does not count.
PictureRect PortalTraversal::seenOf(
    const Portal& opening, const glm::vec3& low, Side side, const CullView& view, const PictureRect& through) const
{
    if (opening.isEmpty() || through.isEmpty())
        return PictureRect::nothing();
    const auto seenThrough = [&](const Portal& whole) {
        float nearest = 0;
        const PictureRect seen = pictureOf(whole, low, side, view, nearest).cutTo(through);
        return m_beams && !seen.isEmpty() ? m_beams->reaching(seen, nearest) : seen;
    };
    if (opening.cells == Portal::whole().cells)
        return seenThrough(opening);
    constexpr int kCells = Portal::kCells, kUnits = 64 / kCells;
    PictureRect out = PictureRect::nothing();
    for (int first = 0, end = 1; first < kCells; first = end, end = first + 1) {
        const auto rowAt
            = [&](int row) { return static_cast<unsigned>(opening.cells >> (row * kCells) & ((1U << kCells) - 1)); };
        while (end < kCells && rowAt(end) == rowAt(first)) // rows alike are one piece
            ++end;
        for (unsigned row = rowAt(first); row != 0;) {
            const int from = std::countr_zero(row), to = from + std::countr_one(row >> from);
            row &= ~0U << to;
            const auto within = [](int v) { return static_cast<std::uint8_t>(v * kUnits); };
            const Portal piece
                = opening.cutTo({{within(from), within(first)}, {within(to), within(end)}, ~std::uint64_t{0}});
            if (piece.isEmpty())
                continue;
            const PictureRect seen = seenThrough(piece);
            if (!seen.isEmpty())
                out.add(seen);
        }
    }
    return out;
}

/// Long: one walk whose steps share nearly all locals.
void PortalTraversal::run(const VisibilityTable& field, const CullView& view, const DepthBeams* beams)
{
    m_here = chunkOf(view.eye.cell, view.edge);
    m_beams = beams;
    m_isOpen = !view.nearPlaneIsClear;
    if (m_isOpen)
        return;
    m_reach = field.reach() + 1;
    m_edge = 2 * m_reach + 1;
    m_known.assign(static_cast<std::size_t>(m_edge * m_edge * m_edge), Place::Unknown);
    m_first.resize(m_known.size());
    m_through.clear();
    m_queue.clear();
    // Of the planes only those through the eye: what is nearer than the near plane is looked through too.
    const auto edge = static_cast<float>(view.edge);
    const glm::vec3 middle = boxOf(m_here, view.edge, view.eye).low + edge / 2;
    std::array<float, kNearPlane> from{}, reach{};
    for (std::size_t p = 0; p < kNearPlane; ++p) {
        const glm::vec3 normal(view.planes[p]);
        from[p] = glm::dot(normal, middle) + view.planes[p].w;
        constexpr float kSlack = 1.001F; // rounding never rejects
        reach[p] = (std::abs(normal.x) + std::abs(normal.y) + std::abs(normal.z)) * edge / 2 * kSlack;
    }
    const auto isInView = [&](const Step& at) {
        for (std::size_t p = 0; p < kNearPlane; ++p) {
            const glm::vec4& plane = view.planes[p];
            if (from[p] + edge * (plane.x * at.x + plane.y * at.y + plane.z * at.z) < -reach[p])
                return false;
        }
        return !beams || beams->sees(view, boxOf(m_here + ChunkPos{at.x, at.y, at.z}, view.edge, view.eye));
    };
    // Chunks are there when their centre is within the distance; whatever is nearer than one of them is looked through.
    const float max = view.distance / edge + 1.74F;
    m_maxSquared = static_cast<int>(max * max);
    // The eye's own chunk counts as one region: which of them the eye is in is not known.
    const ChunkVisibility* own = field.find(m_here);
    const ChunkVisibility unknown = ChunkVisibility::open();
    const ChunkPortals& ownOpenings = own ? own->all() : unknown.all();
    m_known[placeOf(0, 0, 0)] = Place::Seen;
    m_first[placeOf(0, 0, 0)] = 0;
    m_through.emplace_back();
    const glm::vec3 lowHere = boxOf(m_here, view.edge, view.eye).low;
    m_queue.push_back({0, 0, 0});
    // Each step is one chunk farther, counted along the axes: a chunk's predecessors were taken before it.
    for (std::size_t next = 0; next < m_queue.size(); ++next) {
        const Step at = m_queue[next];
        const ChunkVisibility* known = field.find(m_here + ChunkPos{at.x, at.y, at.z});
        const ChunkVisibility& sight = known ? *known : unknown;
        const std::size_t first = m_first[placeOf(at.x, at.y, at.z)], count = next == 0 ? 1 : sight.regionCount();
        for (const Side side : kSides) {
            const auto axis = static_cast<std::size_t>(axisOf(side));
            const std::array<int, 3> place{at.x, at.y, at.z};
            if (place[axis] * signOf(side) < 0 || place[axis] * signOf(side) >= m_reach)
                continue;
            const ChunkPos by = stepOf(side);
            const Step to{static_cast<std::int16_t>(at.x + by.x), static_cast<std::int16_t>(at.y + by.y),
                static_cast<std::int16_t>(at.z + by.z)};
            Place& there = m_known[placeOf(to.x, to.y, to.z)];
            if (there == Place::Outside)
                continue;
            const glm::vec3 low = lowHere + edge * glm::vec3(at.x, at.y, at.z);
            for (std::size_t region = 0; region < count && there != Place::Outside; ++region) {
                const PictureRect through = m_through[first + region];
                const ChunkPortals& openings = next == 0 ? ownOpenings : sight.region(region);
                const Portal& opening = openings[static_cast<std::size_t>(side)];
                if (seenOf(opening, low, side, view, through).isEmpty())
                    continue;
                if (there == Place::Unknown) {
                    if (to.x * to.x + to.y * to.y + to.z * to.z > m_maxSquared || !isInView(to)) {
                        there = Place::Outside;
                        continue;
                    }
                    there = Place::Seen;
                    const ChunkVisibility* sightThere = field.find(m_here + ChunkPos{to.x, to.y, to.z});
                    m_first[placeOf(to.x, to.y, to.z)] = static_cast<std::uint32_t>(m_through.size());
                    m_through.resize(
                        m_through.size() + (sightThere ? sightThere->regionCount() : 1), PictureRect::nothing());
                    m_queue.push_back(to);
                }
                propagateThrough(field, view, to, side, opening, low, through);
            }
        }
    }
}

/// The next chunk's own voxels may close the border: then it is seen there, but not looked through.
void PortalTraversal::propagateThrough(const VisibilityTable& field, const CullView& view, Step to, Side side,
    const Portal& opening, const glm::vec3& low, const PictureRect& through)
{
    const ChunkVisibility* sight = field.find(m_here + ChunkPos{to.x, to.y, to.z});
    const std::size_t first = m_first[placeOf(to.x, to.y, to.z)], count = sight ? sight->regionCount() : 1;
    for (std::size_t region = 0; region < count; ++region) {
        const Portal border
            = sight ? opening.cutTo(sight->region(region)[static_cast<std::size_t>(opposite(side))]) : opening;
        const PictureRect seen = seenOf(border, low, side, view, through);
        if (!seen.isEmpty())
            m_through[first + region].add(seen);
    }
}

bool PortalTraversal::reaches(ChunkPos chunk) const
{
    if (chunk.level > 0) // sights are those of level 0
        return true;
    const ChunkPos from = chunk - m_here;
    if (m_isOpen || std::max({std::abs(from.x), std::abs(from.y), std::abs(from.z)}) > m_reach
        || squaredLength(from) > m_maxSquared)
        return true;
    return m_known[placeOf(static_cast<int>(from.x), static_cast<int>(from.y), static_cast<int>(from.z))]
        == Place::Seen;
}

/// The cells near the eye, as one grid.
struct DepthBeams::Near {
    static constexpr int kChunks = 2 * kReach + 1, kCells = kChunks * kSightCells;
    const std::uint64_t* solid = nullptr;
    glm::vec3 low{}; // of the grid, voxels from the eye's cell
    float cell = 8; // voxels
    float farthest = kInfinite; // cells: queries end at the render distance

    [[nodiscard]] bool isSolid(int x, int y, int z) const
    {
        const std::uint64_t chunk = solid[((y >> 2) * kChunks + (z >> 2)) * kChunks + (x >> 2)];
        return chunk >> (((y & 3) * 4 + (z & 3)) * 4 + (x & 3)) & 1;
    }
    /// `axis` and the two others in the order of the axes.
    [[nodiscard]] bool isSolid(int axis, int layer, int a, int b) const
    {
        return axis == 0 ? isSolid(layer, a, b) : axis == 1 ? isSolid(a, layer, b) : isSolid(a, b, layer);
    }

    /// How far a beam goes, depth along the view. The corners' directions are one voxel deep each.
    [[nodiscard]] float depthOf(const std::array<glm::vec3, 4>& corners, const glm::vec3& eye) const
    {
        const glm::vec3 middle = corners[0] + corners[1] + corners[2] + corners[3];
        const glm::vec3 size = glm::abs(middle);
        const int axis = size.x >= size.y && size.x >= size.z ? 0 : size.y >= size.z ? 1 : 2;
        const int a = axis == 0 ? 1 : 0, b = axis == 2 ? 1 : 2;
        const float sign = middle[axis] < 0 ? -1.0F : 1.0F;
        float slowest = kInfinite; // voxels along the axis for one of depth
        std::array<float, 2> min{kInfinite, kInfinite}, max{-kInfinite, -kInfinite};
        for (const glm::vec3& corner : corners) {
            const float along = corner[axis] * sign;
            if (along <= 0)
                return kInfinite;
            slowest = std::min(slowest, along);
            min[0] = std::min(min[0], corner[a] / along);
            max[0] = std::max(max[0], corner[a] / along);
            min[1] = std::min(min[1], corner[b] / along);
            max[1] = std::max(max[1], corner[b] / along);
        }
        // From one layer of cells to the next; `layer` is the one beyond the border.
        const float from = (eye[axis] - low[axis]) / cell;
        int layer = static_cast<int>(std::floor(from)) + (sign > 0 ? 1 : -1);
        for (; layer >= 0 && layer<kCells; layer += sign> 0 ? 1 : -1) {
            const float border = static_cast<float>(sign > 0 ? layer : layer + 1);
            const float away = (border - from) * sign; // cells
            if (away > farthest)
                return kInfinite;
            constexpr float kSlack = 1e-3F; // cells: rounding never fills a beam
            const int a0 = static_cast<int>(std::floor((eye[a] - low[a]) / cell + min[0] * away - kSlack)),
                      a1 = static_cast<int>(std::floor((eye[a] - low[a]) / cell + max[0] * away + kSlack)),
                      b0 = static_cast<int>(std::floor((eye[b] - low[b]) / cell + min[1] * away - kSlack)),
                      b1 = static_cast<int>(std::floor((eye[b] - low[b]) / cell + max[1] * away + kSlack));
            if (a0 < 0 || b0 < 0 || a1 >= kCells || b1 >= kCells)
                return kInfinite;
            bool isFilled = true;
            for (int i = a0; i <= a1 && isFilled; ++i)
                for (int j = b0; j <= b1 && isFilled; ++j)
                    isFilled = isSolid(axis, layer, i, j);
            if (isFilled)
                return away * cell / slowest;
        }
        return kInfinite;
    }
};

void DepthBeams::run(const VisibilityTable& field, const CullView& view)
{
    m_isOpen = !view.nearPlaneIsClear;
    if (m_isOpen)
        return;
    const ChunkPos here = chunkOf(view.eye.cell, view.edge);
    m_solid.clear();
    bool isAnySolid = false;
    for (int y = -kReach; y <= kReach; ++y)
        for (int z = -kReach; z <= kReach; ++z)
            for (int x = -kReach; x <= kReach; ++x) {
                const bool isHeld = std::max({std::abs(x), std::abs(y), std::abs(z)}) <= field.reach() + 1;
                const ChunkVisibility* sight = isHeld ? field.find(here + ChunkPos{x, y, z}) : nullptr;
                m_solid.push_back(sight ? sight->solid : 0);
                isAnySolid |= m_solid.back() != 0;
            }
    m_columns = std::clamp(static_cast<int>(std::lround(kRows * view.lens.aspect)), 8, 120);
    m_depths.assign(static_cast<std::size_t>(m_columns * kRows), kInfinite);
    if (!isAnySolid)
        return;
    Near near;
    near.solid = m_solid.data();
    near.cell = static_cast<float>(view.edge) / kSightCells;
    near.farthest = (view.distance + 2 * static_cast<float>(view.edge)) / near.cell;
    near.low = boxOf(here + ChunkPos{-kReach, -kReach, -kReach}, view.edge, view.eye).low;
    const glm::vec3 forward(forwardOf(view.eye)), right(rightOf(view.eye)), up = glm::cross(right, forward);
    const float high = std::tan(glm::radians(view.lens.fieldOfView) / 2), wide = high * view.lens.aspect;
    const auto towardsCorner = [&](int column, int row) {
        const float x = 2 * static_cast<float>(column) / static_cast<float>(m_columns) - 1,
                    y = 2 * static_cast<float>(row) / kRows - 1;
        return forward + right * (x * wide) + up * (y * high);
    };
    const glm::vec3 eye(view.eye.within);
    for (int row = 0; row < kRows; ++row)
        for (int column = 0; column < m_columns; ++column)
            m_depths[static_cast<std::size_t>(row * m_columns + column)]
                = near.depthOf({towardsCorner(column, row), towardsCorner(column + 1, row),
                                   towardsCorner(column, row + 1), towardsCorner(column + 1, row + 1)},
                    eye);
}

bool DepthBeams::sees(const CullView& view, const Box& box) const
{
    if (m_isOpen)
        return true;
    glm::vec2 low(kInfinite), high(-kInfinite);
    float nearest = kInfinite;
    for (unsigned corner = 0; corner < 8; ++corner) {
        const glm::vec4 at = view.toClip
            * glm::vec4(corner & 1 ? box.high.x : box.low.x, corner & 2 ? box.high.y : box.low.y,
                corner & 4 ? box.high.z : box.low.z, 1);
        if (at.w <= view.lens.nearest)
            return true; // it reaches behind the eye
        nearest = std::min(nearest, at.w);
        low = glm::min(low, glm::vec2(at) / at.w);
        high = glm::max(high, glm::vec2(at) / at.w);
    }
    const Span columns = spanOf(low.x, high.x, m_columns), rows = spanOf(low.y, high.y, kRows);
    for (int row = rows.first; row <= rows.last; ++row)
        for (int column = columns.first; column <= columns.last; ++column)
            if (depth(column, row) * kFarther >= nearest)
                return true;
    return false;
}

PictureRect DepthBeams::reaching(const PictureRect& rect, float nearest) const
{
    if (m_isOpen)
        return rect;
    const Span columns = spanOf(rect.low.x, rect.high.x, m_columns), rows = spanOf(rect.low.y, rect.high.y, kRows);
    const auto isReached = [&](Span ofColumns, Span ofRows) {
        for (int row = ofRows.first; row <= ofRows.last; ++row)
            for (int column = ofColumns.first; column <= ofColumns.last; ++column)
                if (depth(column, row) * kFarther >= nearest)
                    return true;
        return false;
    };
    // Inwards from its four borders.
    Span withinRows = rows, withinColumns = columns;
    while (withinRows.first <= rows.last && !isReached(columns, {withinRows.first, withinRows.first}))
        ++withinRows.first;
    if (withinRows.first > rows.last)
        return PictureRect::nothing();
    while (!isReached(columns, {withinRows.last, withinRows.last}))
        --withinRows.last;
    while (!isReached({withinColumns.first, withinColumns.first}, withinRows))
        ++withinColumns.first;
    while (!isReached({withinColumns.last, withinColumns.last}, withinRows))
        --withinColumns.last;
    constexpr float kSlack = 1e-4F; // of the picture: rounding never cuts off
    const auto edgeOf
        = [](int beam, int count) { return 2 * static_cast<float>(beam) / static_cast<float>(count) - 1; };
    PictureRect out = rect;
    if (withinColumns.first > columns.first)
        out.low.x = std::max(out.low.x, edgeOf(withinColumns.first, m_columns) - kSlack);
    if (withinColumns.last < columns.last)
        out.high.x = std::min(out.high.x, edgeOf(withinColumns.last + 1, m_columns) + kSlack);
    if (withinRows.first > rows.first)
        out.low.y = std::max(out.low.y, edgeOf(withinRows.first, kRows) - kSlack);
    if (withinRows.last < rows.last)
        out.high.y = std::min(out.high.y, edgeOf(withinRows.last + 1, kRows) + kSlack);
    return out;
}

} // namespace fell::cull
