// SPDX-License-Identifier: Apache-2.0
#include <fell/mesh/incremental_mesh.h>

#include <fell/mesh/surfaces.h>

#include <algorithm>
#include <optional>

namespace fell::mesh {
namespace {

/// A chunk's solid quads as they are drawn, and where what came of each of the mesher's begins.
struct Solid {
    Surface surface;
    LightCells cells;
    std::vector<std::uint32_t> firstQuad, firstWord; // by the mesher's quads, and one more: in `surface`, in `cells`
    void clear()
    {
        surface.clear();
        firstQuad.clear();
        firstWord.clear();
    }
    void beginQuad()
    {
        firstQuad.push_back(static_cast<std::uint32_t>(surface.lit.quads.size()));
        firstWord.push_back(static_cast<std::uint32_t>(cells.words.size()));
    }
};

/// Tells the quads that read a voxel of a box: of the layers on both sides of them, one beyond their ends. Coordinates
/// are compared as bytes of one word, with a bit above each that a difference leaves set where it is not negative.
class Readers {
public:
    explicit Readers(const ChunkBox& box)
        : m_isNone(box.isEmpty())
    {
        for (std::size_t axis = 0; axis < 3 && !m_isNone; ++axis) {
            m_high |= static_cast<std::uint32_t>(box.high[axis] + kSign) << (8 * axis);
            m_low |= static_cast<std::uint32_t>(box.low[axis] + 1) << (8 * axis);
        }
    }
    [[nodiscard]] bool has(Quad quad) const
    {
        const auto low = static_cast<std::uint32_t>(quad);
        const std::uint32_t at = (low & 0x3F) | (low & 0xFC0) << 2 | (low & 0x3F000) << 4;
        const Shifts& to = kShifts[quad >> 30 & 7];
        const std::uint32_t size = static_cast<std::uint32_t>(quad >> kWidthBit & 63) << to.width
            | static_cast<std::uint32_t>(quad >> kHeightBit & 63) << to.height;
        const std::uint32_t reach = at + size + kAll * (kSign + 2); // to what lies beyond the far end
        return !m_isNone && ((m_high - at) & (reach - m_low) & kAll * kSign) == kAll * kSign;
    }

private:
    static constexpr int kSign = 128;
    static constexpr std::uint32_t kAll = 0x010101; // each of the three bytes
    struct Shifts {
        unsigned width, height; // to the bytes of the axes that they run along
    };
    static constexpr std::array<Shifts, 8> kShifts = [] {
        std::array<Shifts, 8> shifts{};
        for (const Side side : kSides) {
            const auto a = static_cast<unsigned>(axisOf(side));
            shifts[static_cast<std::size_t>(side)] = {(a + 1) % 3 * 8, (a + 2) % 3 * 8};
        }
        return shifts;
    }();
    bool m_isNone;
    std::uint32_t m_low = 0, m_high = 0;
};

/// Makes the list of now from that of before: a class because its steps share both.
class Renewal {
public:
    Renewal(const PaddedVoxels& voxels, const ChunkMeshOptions& options, const PaddedLight& light, const Solid& from,
        const std::optional<Readers>& readers, Solid& to)
        : m_voxels(voxels)
        , m_options(options)
        , m_baker(light)
        , m_from(from)
        , m_readers(readers)
        , m_to(to)
    {
        to.clear();
        to.cells.begin(light.channels);
    }

    void renew(const QuadList& before, const QuadList& now)
    {
        // A quad that is gone or new is looked for so far ahead, and a little farther for each that was not found.
        constexpr std::size_t kAhead = 64;
        std::size_t at = 0, missed = 0;
        for (std::size_t i = 0; i < now.size();) {
            std::size_t same = 0;
            if (m_readers) {
                const auto from = before.begin() + static_cast<std::ptrdiff_t>(at),
                           end = from + static_cast<std::ptrdiff_t>(std::min(kAhead + missed, before.size() - at)),
                           found = std::find(from, end, now[i]);
                if (found != end) {
                    at = static_cast<std::size_t>(found - before.begin());
                    same = static_cast<std::size_t>(
                        std::mismatch(found, before.end(), now.begin() + static_cast<std::ptrdiff_t>(i), now.end())
                            .first
                        - found);
                    missed = 0;
                }
            }
            if (same == 0) {
                make(now[i++]);
                ++missed;
                continue;
            }
            keep(std::span(before).subspan(at, same), at);
            i += same;
            at += same;
        }
        m_to.beginQuad(); // where the last one ends
    }

private:
    /// Quads that are still there, number `at` on of before.
    void keep(std::span<const Quad> quads, std::size_t at)
    {
        for (std::size_t i = 0; i < quads.size();) {
            std::size_t end = i;
            while (end < quads.size() && !m_readers->has(quads[end]))
                ++end;
            if (end > i)
                copy(at + i, at + end);
            for (i = end; i < quads.size() && m_readers->has(quads[i]); ++i)
                make(quads[i]);
        }
    }

    void copy(std::size_t low, std::size_t high)
    {
        const auto range = [](const auto& list, std::uint32_t from, std::uint32_t to) {
            return std::span(list).subspan(from, to - from);
        };
        const auto append = [](auto& to, const auto& from) { to.insert(to.end(), from.begin(), from.end()); };
        const std::uint32_t quads = m_from.firstQuad[low], quadsEnd = m_from.firstQuad[high];
        const std::uint32_t words = m_from.firstWord[low], wordsEnd = m_from.firstWord[high];
        const auto moved = static_cast<std::uint32_t>(m_to.surface.lit.quads.size()) - quads,
                   movedWords = static_cast<std::uint32_t>(m_to.cells.words.size()) - words; // round 2^32
        for (std::size_t i = low; i < high; ++i) {
            m_to.firstQuad.push_back(m_from.firstQuad[i] + moved);
            m_to.firstWord.push_back(m_from.firstWord[i] + movedWords);
        }
        append(m_to.surface.lit.quads, range(m_from.surface.lit.quads, quads, quadsEnd));
        if (!m_from.surface.rims.empty())
            append(m_to.surface.rims, range(m_from.surface.rims, quads, quadsEnd));
        append(m_to.cells.words, range(m_from.cells.words, words, wordsEnd));
        auto& lights = m_to.surface.lit.lights;
        const std::size_t first = lights.size();
        append(lights, range(m_from.surface.lit.lights, quads, quadsEnd));
        // Corners that have the number of their head in place of light count from where that lies now.
        const auto heads = static_cast<std::uint32_t>(
            static_cast<std::int32_t>(movedWords) / static_cast<std::int32_t>(m_to.cells.wordsACell));
        for (std::size_t i = heads == 0 ? lights.size() : first; i < lights.size(); ++i)
            for (PackedLight& corner : lights[i].corners)
                corner += (corner & kInCells) != 0 ? heads : 0;
    }

    void make(Quad quad)
    {
        m_to.beginQuad();
        const std::span<const Quad> one(&quad, 1);
        const SideLight how{m_options.flatLight, false};
        if (!m_options.format.hasRings())
            return m_baker.bake(one, how, m_to.surface.lit, &m_to.cells);
        m_rimmed.clear();
        addOcclusionRings(m_voxels, *m_options.rules.sides, one, {}, m_rimmed, m_to.surface.rims);
        m_baker.bake(m_rimmed.quads, how, m_to.surface.lit, &m_to.cells);
    }

    const PaddedVoxels& m_voxels;
    const ChunkMeshOptions& m_options;
    LightBaker m_baker;
    const Solid& m_from;
    const std::optional<Readers>& m_readers; // nothing: all is new
    Solid& m_to;
    LitQuads m_rimmed;
};

} // namespace

struct RemeshCache::Parts {
    ChunkSurface quads;
    bool isLit = false; // what follows is of these quads
    bool wasEven = false; // their light, all over
    Solid solid;
    std::array<Surface, kMatterCount> others;
    TriangleList shapes;
    std::vector<std::array<int, 3>> shaped; // the voxels of shaped blocks
};

RemeshCache::RemeshCache()
    : m_parts(std::make_unique<Parts>())
{
}
RemeshCache::RemeshCache(RemeshCache&&) noexcept = default;
RemeshCache& RemeshCache::operator=(RemeshCache&&) noexcept = default;
RemeshCache::~RemeshCache() = default;

const ChunkSurface& RemeshCache::quads() const
{
    return m_parts->quads;
}

namespace {

/// Is there a shaped block in the box or next to it, or was there one?
bool touchesShapes(const PaddedVoxels& voxels, const SideRules& rules, const std::vector<std::array<int, 3>>& before,
    const ChunkBox& box)
{
    std::array<int, 3> low{}, high{}; // of the chunk's voxels
    for (std::size_t axis = 0; axis < 3; ++axis) {
        low[axis] = std::max(0, box.low[axis] - 1);
        high[axis] = std::min(voxels.edge, box.high[axis] + 1);
    }
    const bool had = std::any_of(before.begin(), before.end(), [&](const std::array<int, 3>& at) {
        return at[0] >= low[0] && at[0] < high[0] && at[1] >= low[1] && at[1] < high[1] && at[2] >= low[2]
            && at[2] < high[2];
    });
    for (int y = low[1]; y < high[1] && !had; ++y)
        for (int z = low[2]; z < high[2]; ++z)
            for (int x = low[0]; x < high[0]; ++x)
                if (rules.shapes[voxels.at(x, y, z)])
                    return true;
    return had;
}

void renewShapes(const PaddedVoxels& voxels, const ChunkMeshOptions& options, const PaddedLight& light,
    const std::optional<ChunkBox>& differs, RemeshCache::Parts& parts)
{
    if (differs && !touchesShapes(voxels, *options.rules.sides, parts.shaped, *differs))
        return;
    parts.shapes.clear();
    parts.shaped.clear();
    bakeShapes(voxels, *options.rules.sides, parts.shapes, &light);
    forEachShape(
        voxels, *options.rules.sides, [&](const std::array<int, 3>& at, Material) { parts.shaped.push_back(at); });
}

} // namespace

ChunkMesh remesh(const PaddedVoxels& voxels, const ChunkMeshOptions& options, const PaddedLight* light,
    const SeamQuads* seams, const ChunkDifference& differs, RemeshCache& before, const PaddedVoxels* wide)
{
    RemeshCache::Parts& parts = before.parts();
    thread_local ChunkSurface quads;
    thread_local Solid solid;
    const bool isOther = wide || !differs.voxels || !differs.voxels->isEmpty();
    if (isOther)
        meshQuads(wide ? *wide : voxels, options, quads);
    const ChunkSurface& now = isOther ? quads : parts.quads;
    if (!hasCells(options, light) || !options.bakeShapes
        || options.mesher->traits.makesTriangles) { // ways to compare with: all of it each time
        ChunkMesh mesh = encodeMesh(voxels, now, options, light, seams);
        if (isOther)
            std::swap(parts.quads, quads);
        parts.isLit = false;
        return mesh;
    }
    std::optional<ChunkBox> box;
    if (parts.isLit && differs.voxels && differs.light && light->isEven() == parts.wasEven) {
        box = differs.voxels;
        box->add(*differs.light);
    }
    const std::optional<Readers> readers = box ? std::optional(Readers(*box)) : std::nullopt;
    parts.isLit = false; // until all of it is of now
    Renewal(voxels, options, *light, parts.solid, readers, solid)
        .renew(parts.quads.in(Matter::Solid), now.in(Matter::Solid));
    std::swap(parts.solid, solid);
    Surfaces surfaces{&parts.solid.surface, nullptr, nullptr};
    for (const Matter matter : {Matter::SeeThrough, Matter::Liquid}) {
        Surface& surface = parts.others[static_cast<std::size_t>(matter)];
        const QuadList &list = now.in(matter), &was = parts.quads.in(matter);
        const bool isKept = readers && list == was
            && std::none_of(list.begin(), list.end(), [&](Quad quad) { return readers->has(quad); });
        if (!isKept)
            finishSurface(voxels, list, matter, options, light, nullptr, surface);
        surfaces[static_cast<std::size_t>(matter)] = &surface;
    }
    renewShapes(voxels, options, *light, box, parts);
    ChunkMesh mesh = assembleMesh(options, true, surfaces, seams);
    mesh.cells = parts.solid.cells;
    mesh.shapes = parts.shapes;
    if (isOther)
        std::swap(parts.quads, quads);
    parts.isLit = true;
    parts.wasEven = light->isEven();
    return mesh;
}

} // namespace fell::mesh
