// SPDX-License-Identifier: Apache-2.0
// Quads from bit words: sides are `a & ~b`, rectangles are runs of bits and equal masks over rows.
//
// The plan for one chunk: (1) one compare pass makes bit rows of full solid cubes, with one layer of neighbours;
// (2) a bit transpose gives the rows of the third axis; (3) rows that show a side get "same material as the next voxel"
// along each axis; (4) every slice of every direction is cut into rectangles without looking at a voxel again but for
// the one whose material a quad takes. Kinds that are no plain solid cube (glass, water) are rare: each goes through
// (4) once more with separate bits, and shaped blocks only take part in what they hide.
#include <fell/mesh/greedy_slices.h>

#include <algorithm>

namespace fell::mesh {
namespace {

/// What a chunk is meshed from; kept by each thread, since it is large.
template <int Edge> struct Scratch {
    using Word = WordOf<Edge>;
    BitVolume<Edge> solid; // plain solid cubes
    BitVolume<Edge> cubes; // all full solid cubes, where there are others than plain ones
    BitVolume<Edge> kind; // one kind that is no plain solid cube
    SameBits<Edge> same;
    Word hidden[kSideCount][Edge * Edge]; // sides that shaped blocks cover; index: slice * Edge + row
    OtherGroups others;
    std::uint64_t filled[3]; // slices of each axis that hold any of `kind`
    alignas(32) std::uint8_t stream[(Edge + 2) * (Edge + 2) * (Edge + 2) / 8 + 32];
    Slice<Edge> slice{};
};

/// Meshes one chunk. A class because its steps share the voxels, the rules and the scratch memory.
template <int Edge, bool Merge, bool Shade> class BitMesher {
    using Word = WordOf<Edge>;
    using Volume = BitVolume<Edge>;
    static constexpr int kStride = Volume::kStride;

public:
    BitMesher(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out)
        : m_voxels(voxels)
        , m_rules(*rules.sides)
        , m_out(out)
    {
    }

    void mesh()
    {
        if (!readPlainSolid())
            return;
        m_occluders = &m_scratch.solid;
        std::vector<Material> kinds;
        if (!m_scratch.others.empty()) {
            kinds = otherKinds();
            readOthers(kinds);
        }
        if (Merge)
            compareNeighbours();
        Emission to{};
        to.first = m_voxels.voxels.data();
        meshVolume(m_scratch.solid, nullptr, to, m_out.in(Matter::Solid));
        for (const Material kind : kinds)
            if (m_rules.isCube(kind))
                meshKind(kind);
    }

private:
    const Material* row(int y, int z) const { return m_voxels.voxels.data() + m_voxels.index(0, y, z); }

    /// False if nothing can be seen.
    bool readPlainSolid()
    {
        m_scratch.others.clear();
        if (streamPlainSolid(m_voxels.voxels, m_rules.solidCubes, m_scratch.stream, m_scratch.others))
            return false;
        m_scratch.solid.take(m_scratch.stream, Shade);
        return true;
    }

    /// The kinds above the plain solid cubes that occur in the chunk or next to it.
    std::vector<Material> otherKinds() const
    {
        std::vector<Material> kinds;
        const auto see = [&](Material m) {
            if (m > m_rules.solidCubes && std::find(kinds.begin(), kinds.end(), m) == kinds.end())
                kinds.push_back(m);
        };
        const std::vector<Material>& voxels = m_voxels.voxels;
        for (const std::uint32_t i : m_scratch.others) {
            if (i + 32 > voxels.size()) {
                std::for_each(voxels.begin() + i, voxels.end(), see);
                continue;
            }
            std::uint32_t unseen = 0; // what is neither plain solid, as the stream still says, nor open
            std::memcpy(&unseen, m_scratch.stream + i / 8, sizeof unseen);
            unseen = ~(unseen | bitsOfKind(voxels.data() + i, kOpen));
            for (const Material kind : kinds)
                unseen &= ~bitsOfKind(voxels.data() + i, kind);
            while (unseen != 0) {
                const Material kind = voxels[i + static_cast<std::uint32_t>(std::countr_zero(unseen))];
                see(kind);
                unseen &= ~bitsOfKind(voxels.data() + i, kind);
            }
        }
        std::sort(kinds.begin(), kinds.end());
        return kinds;
    }

    void readKind(Material kind, Volume& out) const
    {
        streamKind(m_voxels.voxels, kind, m_scratch.others, m_scratch.stream);
        // Its groups come in order, so the first and the last say which layers can hold any.
        constexpr std::uint32_t kLayer = Volume::kRows;
        const auto lowest = static_cast<int>(m_scratch.others.front() / kLayer) - 1,
                   highest
            = static_cast<int>(std::min<std::uint32_t>(m_scratch.others.back() + 31, kLayer * kStride - 1) / kLayer)
            - 1;
        out.take(m_scratch.stream, Shade, lowest, highest);
    }

    static void add(const Volume& from, Volume& to)
    {
        for (int axis = 0; axis < 3; ++axis)
            for (int i = 0; i < Volume::kRows; ++i) {
                to.rows[axis][i] |= from.rows[axis][i];
                to.below[axis][i] |= from.below[axis][i];
                to.above[axis][i] |= from.above[axis][i];
            }
    }

    /// What the other kinds hide and darken.
    void readOthers(const std::vector<Material>& kinds)
    {
        bool shapes = false;
        for (const Material kind : kinds) {
            shapes |= !m_rules.isCube(kind);
            if (!m_rules.isSolidCube(kind))
                continue;
            if (m_occluders == &m_scratch.solid) {
                m_scratch.cubes = m_scratch.solid;
                m_occluders = &m_scratch.cubes;
            }
            readKind(kind, m_scratch.kind);
            add(m_scratch.kind, m_scratch.cubes);
        }
        if (shapes)
            hideBehindShapes();
    }

    /// Shaped blocks are few: the sides that they cover wholly are taken out one by one.
    void hideBehindShapes()
    {
        m_shapesHide = true;
        std::memset(m_scratch.hidden, 0, sizeof m_scratch.hidden);
        const std::vector<Material>& voxels = m_voxels.voxels;
        for (const std::uint32_t group : m_scratch.others) {
            if (group + 32 <= voxels.size() && areAlike(voxels.data() + group) && m_rules.isCube(voxels[group]))
                continue;
            for (std::uint32_t i = group; i < std::min<std::size_t>(group + 32, voxels.size()); ++i)
                if (voxels[i] > m_rules.solidCubes && !m_rules.isCube(voxels[i]))
                    hideBehind(static_cast<int>(i), m_rules.covers[voxels[i]]);
        }
    }

    void hideBehind(int index, const std::array<Coverage, kSideCount>& covers)
    {
        const std::array<int, 3> shape{
            index % kStride - 1, index / (kStride * kStride) - 1, index / kStride % kStride - 1};
        for (const Side side : kSides) {
            // A side that looks east looks at the shape's west side.
            if (covers[static_cast<std::size_t>(opposite(side))] != kCoversAll)
                continue;
            const auto axis = static_cast<std::size_t>(axisOf(side));
            std::array<int, 3> at = shape;
            at[axis] -= signOf(side);
            if (std::any_of(at.begin(), at.end(), [](int v) { return v < 0 || v >= Edge; }))
                continue;
            constexpr std::array<std::size_t, 3> kOver{1, 2, 1}, kAlong{2, 0, 0};
            m_scratch.hidden[static_cast<std::size_t>(side)][at[axis] * Edge + at[kOver[axis]]] |= Word{1}
                << at[kAlong[axis]];
        }
    }

    /// Fills `same` where a row of plain solid cubes shows any side.
    void compareNeighbours()
    {
        const Volume& solid = m_scratch.solid;
        SameBits<Edge>& same = m_scratch.same;
        alignas(32) Word nextY[Edge]{}, nextZ[Edge]{}; // of the rows of one y
        for (int y = 0; y < Edge; ++y) {
            const Word* rows = solid.rows[1] + Volume::index(y, 0);
            const Word west = solid.rows[0][Volume::index(-1, y)], east = solid.rows[0][Volume::index(Edge, y)];
            Word any = 0;
            alignas(32) Word shown[Edge]; // what other kinds hide only makes it less
            for (int z = 0; z < Edge; ++z) {
                const Word here = rows[z];
                const Word inside = (static_cast<Word>(here << 1) | (west >> z & 1))
                    & (static_cast<Word>(here >> 1) | static_cast<Word>((east >> z & 1) << (Edge - 1))) & rows[z - 1]
                    & rows[z + 1] & rows[z - kStride] & rows[z + kStride];
                shown[z] = here & ~inside;
                any |= shown[z];
            }
            if (any == 0)
                continue;
            for (std::uint64_t filled = filledRows<Edge>(shown); filled != 0; filled &= filled - 1) {
                const int z = std::countr_zero(filled);
                const Material* voxels = row(y, z);
                same.along[1][y * Edge + z] = same.along[2][z * Edge + y] = equalBits<Edge>(voxels, voxels + 1);
                same.over[1][y * Edge + z] = nextZ[z] = equalBits<Edge>(voxels, voxels + kStride);
                same.over[2][z * Edge + y] = nextY[z] = equalBits<Edge>(voxels, voxels + kStride * kStride);
            }
            bits::transpose<Edge>(nextZ, same.along[0] + y, Edge);
            bits::transpose<Edge>(nextY, same.over[0] + y, Edge);
        }
    }

    void meshKind(Material kind)
    {
        readKind(kind, m_scratch.kind);
        Emission to{};
        to.material = static_cast<Quad>(kind) << kMaterialBit;
        const Matter matter = m_rules.matter[kind];
        // Few slices hold any of a kind that is rare, or that lies flat as water does.
        for (std::size_t axis = 0; axis < 3; ++axis) {
            m_scratch.filled[axis] = 0;
            for (int s = 0; s < Edge; ++s) {
                Word any = 0;
                for (int r = 0; r < Edge; ++r)
                    any |= m_scratch.kind.rows[axis][Volume::index(s, r)];
                m_scratch.filled[axis] |= static_cast<std::uint64_t>(any != 0) << s;
            }
            if (m_scratch.filled[axis] == 0)
                return; // it is only next to the chunk
        }
        meshVolume(m_scratch.kind, matter == Matter::Solid ? nullptr : &m_scratch.kind, to, m_out.in(matter));
    }

    /// All sides of the voxels in `volume`. `own` hides sides too, next to what hides those of each direction.
    void meshVolume(const Volume& volume, const Volume* own, const Emission& to, QuadList& out)
    {
        for (const Side side : kSides)
            meshDirection(side, volume, own, to, out);
    }

    void meshDirection(Side side, const Volume& volume, const Volume* own, const Emission& base, QuadList& out)
    {
        const auto axis = static_cast<std::size_t>(axisOf(side));
        const Emission to = emissionOf(side, base);
        Slice<Edge>& slice = m_scratch.slice;
        for (int s = 0; s < Edge; ++s) {
            if (own && !(m_scratch.filled[axis] >> s & 1))
                continue;
            const int here = Volume::index(s, 0), beyond = here + signOf(side) * kStride;
            const Word *from = volume.rows[axis] + here, *over = m_occluders->rows[axis] + beyond;
            Word any = 0;
            for (int r = 0; r < Edge; ++r)
                any |= slice.faces[r] = from[r] & ~over[r];
            if (m_shapesHide) {
                const Word* hidden = m_scratch.hidden[static_cast<std::size_t>(side)] + s * Edge;
                any = 0;
                for (int r = 0; r < Edge; ++r)
                    any |= slice.faces[r] &= ~hidden[r];
            }
            if (own) {
                any = 0;
                for (int r = 0; r < Edge; ++r)
                    any |= slice.faces[r] &= ~own->rows[axis][beyond + r];
            }
            if (any == 0)
                continue;
            if constexpr (Merge)
                join(s, axis, base.first != nullptr);
            if constexpr (Shade)
                shadeSlice<Edge, Merge>({m_occluders->rows[axis] + beyond, m_occluders->below[axis] + beyond,
                                            m_occluders->above[axis] + beyond},
                    axis == 2, slice);
            writeSlice(s, axis, to, out);
        }
    }

    void join(int s, std::size_t axis, bool compare)
    {
        Slice<Edge>& slice = m_scratch.slice;
        const Word *along = m_scratch.same.along[axis] + s * Edge, *over = m_scratch.same.over[axis] + s * Edge;
        if (compare) {
            for (int r = 0; r < Edge; ++r) {
                slice.joinAlong[r] = slice.faces[r] & (slice.faces[r] >> 1) & along[r];
                slice.joinOver[r + 1] = slice.faces[r] & slice.faces[r + 1] & over[r];
            }
        } else {
            for (int r = 0; r < Edge; ++r) {
                slice.joinAlong[r] = slice.faces[r] & (slice.faces[r] >> 1);
                slice.joinOver[r + 1] = slice.faces[r] & slice.faces[r + 1];
            }
        }
    }

    /// Where the quads of a direction's first slice begin, and which of their bits a step changes.
    Emission emissionOf(Side side, const Emission& base) const
    {
        constexpr int kXBit = 0, kYBit = 6, kZBit = 12;
        constexpr std::array<int, 3> kAlong{kZBit, kXBit, kXBit}, kOver{kYBit, kZBit, kYBit};
        constexpr std::ptrdiff_t kLayer = std::ptrdiff_t{kStride} * kStride;
        constexpr std::array<std::ptrdiff_t, 3> kAlongStep{kStride, 1, 1}, kOverStep{kLayer, kStride, kLayer};
        const auto axis = static_cast<std::size_t>(axisOf(side));
        const bool widthAlong = axis == 2; // the width runs along axis (a + 1) % 3
        Emission to = base;
        to.alongBit = kAlong[axis];
        to.overBit = kOver[axis];
        to.lengthBit = widthAlong ? kWidthBit : kHeightBit;
        to.rowsBit = widthAlong ? kHeightBit : kWidthBit;
        to.base = packQuad({0, 0, 0, 1, 1, side, 0});
        to.alongStep = kAlongStep[axis];
        to.overStep = kOverStep[axis];
        if (to.first)
            to.first = row(0, 0);
        return to;
    }

    void writeSlice(int s, std::size_t axis, Emission to, QuadList& out)
    {
        constexpr std::array<int, 3> kSliceBit{0, 6, 12};
        constexpr std::array<std::ptrdiff_t, 3> kSliceStep{1, std::ptrdiff_t{kStride} * kStride, kStride};
        to.base += static_cast<Quad>(s) << kSliceBit[axis];
        if (to.first)
            to.first += s * kSliceStep[axis];
        Slice<Edge>& slice = m_scratch.slice;
        const std::size_t before = out.size();
        if (out.capacity() < before + std::size_t{Edge} * Edge) // it grows as any vector does
            out.reserve(std::max(2 * out.capacity(), before + std::size_t{Edge} * Edge));
        out.resize(before + std::size_t{Edge} * Edge); // room for the most that a slice can show
        Quad* end = out.data() + before;
        if constexpr (Merge) {
            // Most sides of rough ground join nothing: those need none of the rectangles' work.
            for (int r = 0; r < Edge; ++r) {
                slice.single[r] = slice.faces[r]
                    & ~(slice.joinAlong[r] | static_cast<Word>(slice.joinAlong[r] << 1) | slice.joinOver[r]
                        | slice.joinOver[r + 1]);
                slice.faces[r] &= ~slice.single[r];
            }
            end = writeSingles<Edge, Shade>(slice, slice.single, to, end);
            end = writeMerged<Edge, Shade>(slice, to, end);
        } else {
            end = writeSingles<Edge, Shade>(slice, slice.faces, to, end);
        }
        out.resize(static_cast<std::size_t>(end - out.data()));
    }

    const PaddedVoxels& m_voxels;
    const SideRules& m_rules;
    ChunkSurface& m_out;
    Scratch<Edge>& m_scratch = scratch();
    const Volume* m_occluders = nullptr;
    bool m_shapesHide = false;

    static Scratch<Edge>& scratch()
    {
        thread_local const auto kScratch = std::make_unique<Scratch<Edge>>();
        return *kScratch;
    }
};

template <bool Merge, bool Shade> void meshBits(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out)
{
    switch (voxels.edge) {
    case 16:
        return BitMesher<16, Merge, Shade>(voxels, rules, out).mesh();
    case 32:
        return BitMesher<32, Merge, Shade>(voxels, rules, out).mesh();
    default:
        return BitMesher<64, Merge, Shade>(voxels, rules, out).mesh();
    }
}

} // namespace

void meshGreedyBits(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out)
{
    rules.ambientOcclusion ? meshBits<true, true>(voxels, rules, out) : meshBits<true, false>(voxels, rules, out);
}

void meshExposedBits(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out)
{
    rules.ambientOcclusion ? meshBits<false, true>(voxels, rules, out) : meshBits<false, false>(voxels, rules, out);
}

} // namespace fell::mesh
