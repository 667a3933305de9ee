// SPDX-License-Identifier: Apache-2.0
#include <fell/mesh/ring_occlusion.h>

#include <algorithm>
#include <bit>

namespace fell::mesh {
namespace {

constexpr int kMaxCells = 10, kMaxTogether = 11; // of width or height, and of both together

std::uint64_t lowBits(int count)
{
    return count >= 64 ? ~std::uint64_t{0} : (std::uint64_t{1} << count) - 1;
}

/// The ring around a rectangle: rows along the width before and beyond, columns along the height, and the four corners.
struct Ring {
    int width = 0, height = 0;
    std::uint64_t before = 0, beyond = 0, left = 0, right = 0;
    std::array<bool, 4> corners{};

    [[nodiscard]] bool isEmpty() const
    {
        return (before | beyond | left | right) == 0 && !corners[0] && !corners[1] && !corners[2] && !corners[3];
    }
    [[nodiscard]] bool fitsWord() const { return isEmpty() || width + height <= kMaxTogether; }
    /// That of a part of the rectangle, `size` long from `from` along the width or the height.
    [[nodiscard]] Ring part(bool alongWidth, int from, int size) const;
};

Ring Ring::part(bool alongWidth, int from, int size) const
{
    Ring out = *this;
    const int end = from + size, whole = alongWidth ? width : height;
    auto& [c0, c1, c2, c3] = out.corners;
    if (alongWidth) {
        out.width = size;
        out.before = before >> from & lowBits(size);
        out.beyond = beyond >> from & lowBits(size);
        if (from > 0) { // what lay inside is open: of its two corners only what lies across is left
            out.left = 0;
            c0 = before >> (from - 1) & 1;
            c3 = beyond >> (from - 1) & 1;
        }
        if (end < whole) {
            out.right = 0;
            c1 = before >> end & 1;
            c2 = beyond >> end & 1;
        }
    } else {
        out.height = size;
        out.left = left >> from & lowBits(size);
        out.right = right >> from & lowBits(size);
        if (from > 0) {
            out.before = 0;
            c0 = left >> (from - 1) & 1;
            c1 = right >> (from - 1) & 1;
        }
        if (end < whole) {
            out.beyond = 0;
            c3 = left >> end & 1;
            c2 = right >> end & 1;
        }
    }
    return out;
}

/// Where the parts of a word begin.
struct Layout {
    unsigned before, beyond, left, right;
};
constexpr Layout layoutOf(unsigned width, unsigned height)
{
    return {6, width + 8, 2 * width + 10, 2 * width + height + 10};
}

/// Widths and heights of 1 to 10, of which there are as many heights as fit, in 6 bits: heights h and 11 - h fill a row
/// of 11 together.
constexpr OcclusionRing codeOf(unsigned width, unsigned height)
{
    return height <= 5 ? (height - 1) * 11 + width - 1 : (10 - height) * 11 + height + width - 1;
}
struct Size {
    unsigned width, height;
};
constexpr Size sizeOf(OcclusionRing rim)
{
    const unsigned row = (rim & 63) / 11, at = (rim & 63) % 11;
    return at < 10 - row ? Size{at + 1, row + 1} : Size{at + row - 9, 10 - row};
}

OcclusionRing pack(const Ring& ring)
{
    if (ring.isEmpty())
        return 0;
    const auto w = static_cast<unsigned>(ring.width), h = static_cast<unsigned>(ring.height);
    const auto bits = [](std::uint64_t value) { return static_cast<OcclusionRing>(value); };
    const auto bit = [&ring](std::size_t corner) { return static_cast<OcclusionRing>(ring.corners[corner]); };
    const OcclusionRing before = bit(0) | bits(ring.before) << 1 | bit(1) << (w + 1),
                        beyond = bit(3) | bits(ring.beyond) << 1 | bit(2) << (w + 1);
    const Layout at = layoutOf(w, h);
    return codeOf(w, h) | before << at.before | beyond << at.beyond | bits(ring.left) << at.left
        | bits(ring.right) << at.right;
}

Ring unpack(OcclusionRing rim)
{
    const auto bits = [rim](unsigned from, unsigned count) {
        return std::uint64_t{rim >> from} & lowBits(static_cast<int>(count));
    };
    const auto [w, h] = sizeOf(rim);
    const Layout at = layoutOf(w, h);
    Ring ring{static_cast<int>(w), static_cast<int>(h), bits(at.before + 1, w), bits(at.beyond + 1, w),
        bits(at.left, h), bits(at.right, h), {}};
    ring.corners = {bits(at.before, 1) != 0, bits(at.before + w + 1, 1) != 0, bits(at.beyond + w + 1, 1) != 0,
        bits(at.beyond, 1) != 0};
    return ring;
}

/// How long a part at the low end has nothing in its ring.
int emptyBegin(const Ring& ring, bool alongWidth)
{
    const auto& c = ring.corners;
    if (c[0] || c[alongWidth ? 3 : 1] || (alongWidth ? ring.left : ring.before) != 0)
        return 0;
    const int max = (alongWidth ? ring.width : ring.height) - 1;
    return std::min(max, std::countr_zero(alongWidth ? ring.before | ring.beyond : ring.left | ring.right) - 1);
}

/// Where a rectangle whose ring fits no word is cut: a thick one is peeled, so that its inside, which needs no word,
/// stays whole; a thin one is cut to lengths that fit.
struct Cut {
    bool alongWidth;
    int at;
};
Cut cutOf(const Ring& ring)
{
    constexpr int kThin = 4; // voxels
    const bool alongWidth = ring.width >= ring.height;
    const int length = alongWidth ? ring.width : ring.height, thick = alongWidth ? ring.height : ring.width;
    const int half = (length + 1) / 2, max = std::min(kMaxCells, kMaxTogether - thick);
    if (thick > kThin && half > max) {
        const auto& c = ring.corners;
        if (ring.before != 0 || c[0] || c[1])
            return {false, 1};
        if (ring.beyond != 0 || c[2] || c[3])
            return {false, ring.height - 1};
        return {true, ring.left != 0 ? 1 : ring.width - 1};
    }
    if (const int empty = emptyBegin(ring, alongWidth); empty >= kThin / 2)
        return {alongWidth, empty};
    return {alongWidth, std::min(half, max)};
}

/// Light runs as a plane over a quad of more than one voxel: by whole levels a voxel, in every channel.
QuadLight partOf(const QuadLight& whole, bool alongWidth, int size, int from, int to)
{
    const auto between = [&](PackedLight a, PackedLight b, int at) {
        PackedLight out = 0;
        for (unsigned c = 0; c < 24; c += 4) {
            const int low = static_cast<int>(a >> c & 15), high = static_cast<int>(b >> c & 15);
            out |= static_cast<PackedLight>(low + (high - low) / size * at) << c;
        }
        return out;
    };
    const auto& [c0, c1, c2, c3] = whole.corners;
    if (alongWidth)
        return {{between(c0, c1, from), between(c0, c1, to), between(c3, c2, to), between(c3, c2, from)}};
    return {{between(c0, c3, from), between(c1, c2, from), between(c1, c2, to), between(c0, c3, to)}};
}

class RimMaker {
public:
    RimMaker(LitQuads& out, std::vector<OcclusionRing>& rims)
        : m_out(out)
        , m_rims(rims)
    {
    }

    void add(const QuadFields& quad, const Ring& ring, const QuadLight* light)
    {
        if (ring.fitsWord()) {
            m_out.quads.push_back(packQuad(quad));
            if (light)
                m_out.lights.push_back(*light);
            m_rims.push_back(pack(ring));
            return;
        }
        const auto [alongWidth, at] = cutOf(ring);
        const int size = alongWidth ? ring.width : ring.height;
        for (const auto& [from, to] : {std::array{0, at}, std::array{at, size}}) {
            QuadFields part = quad;
            const auto axis = static_cast<std::size_t>(axisOf(quad.side) + (alongWidth ? 1 : 2)) % 3;
            (axis == 0 ? part.x : axis == 1 ? part.y : part.z) += from;
            (alongWidth ? part.width : part.height) = to - from;
            const QuadLight lit = light ? partOf(*light, alongWidth, size, from, to) : QuadLight{};
            add(part, ring.part(alongWidth, from, to - from), light ? &lit : nullptr);
        }
    }

private:
    LitQuads& m_out;
    std::vector<OcclusionRing>& m_rims;
};

/// Reads the ring of a quad in the layer that it looks into.
class RingReader {
public:
    RingReader(const PaddedVoxels& voxels, const SideRules& rules)
        : m_voxels(voxels)
        , m_rules(rules)
        , m_steps{1, static_cast<std::ptrdiff_t>(voxels.stride()) * voxels.stride(), voxels.stride()}
    {
    }
    [[nodiscard]] Ring read(const QuadFields& q) const
    {
        const auto a = static_cast<std::size_t>(axisOf(q.side));
        const std::ptrdiff_t u = m_steps[(a + 1) % 3], v = m_steps[(a + 2) % 3];
        const Material* at = m_voxels.voxels.data() + m_voxels.index(q.x, q.y, q.z) + m_steps[a] * signOf(q.side);
        const auto run = [this](const Material* from, std::ptrdiff_t step, int count) {
            std::uint64_t bits = 0;
            for (int i = 0; i < count; ++i, from += step)
                bits |= std::uint64_t{m_rules.isSolidCube(*from)} << i;
            return bits;
        };
        Ring ring{q.width, q.height, run(at - v, u, q.width), run(at + q.height * v, u, q.width),
            run(at - u, v, q.height), run(at + q.width * u, v, q.height), {}};
        const auto corner = [&](std::ptrdiff_t i, std::ptrdiff_t j, bool first, bool second) {
            return (first && second) || m_rules.isSolidCube(at[i * u + j * v]);
        };
        const auto first = [](std::uint64_t bits) { return (bits & 1) != 0; };
        const auto last = [](std::uint64_t bits, int count) { return (bits >> (count - 1) & 1) != 0; };
        ring.corners = {corner(-1, -1, first(ring.before), first(ring.left)),
            corner(q.width, -1, last(ring.before, q.width), first(ring.right)),
            corner(q.width, q.height, last(ring.beyond, q.width), last(ring.right, q.height)),
            corner(-1, q.height, first(ring.beyond), last(ring.left, q.height))};
        return ring;
    }

private:
    const PaddedVoxels& m_voxels;
    const SideRules& m_rules;
    std::array<std::ptrdiff_t, 3> m_steps; // to the next voxel along x, y, z
};

} // namespace

int rimDarkness(OcclusionRing rim, int i, int j)
{
    const Ring ring = unpack(rim);
    const auto at = [&ring](int u, int v) -> int { // a voxel of the ring
        const bool low = u < 0, high = u >= ring.width;
        if (v < 0)
            return low ? ring.corners[0] : high ? ring.corners[1] : ring.before >> u & 1;
        if (v >= ring.height)
            return low ? ring.corners[3] : high ? ring.corners[2] : ring.beyond >> u & 1;
        return low ? ring.left >> v & 1 : high ? ring.right >> v & 1 : 0;
    };
    return rim == 0 ? 0 : at(i - 1, j - 1) + at(i, j - 1) + at(i, j) + at(i - 1, j);
}

void addOcclusionRings(const PaddedVoxels& voxels, const SideRules& rules, std::span<const Quad> quads,
    std::span<const QuadLight> lights, LitQuads& out, std::vector<OcclusionRing>& rims)
{
    const RingReader reader(voxels, rules);
    RimMaker maker(out, rims);
    for (std::size_t i = 0; i < quads.size(); ++i) {
        QuadFields quad = unpackQuad(quads[i]);
        quad.hasRing = true;
        maker.add(quad, reader.read(quad), lights.empty() ? nullptr : &lights[i]);
    }
}

} // namespace fell::mesh
