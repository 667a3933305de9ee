// SPDX-License-Identifier: Apache-2.0
#include <fell/audit/seam_audit.h>

#include <algorithm>
#include <bit>
#include <cassert>
#include <cmath>
#include <cstring>
#include <random>
#include <thread>
#include <unordered_map>

namespace fell::audit {
namespace {

/// Which cells of a chunk's six borders are closed by sides that look out of it, and by sides that look into it.
struct Rims {
    std::array<std::vector<bool>, kSideCount> out, in; // of this chunk's mesh
    std::array<std::vector<bool>, kSideCount> seamOut, seamIn; // of its seams
};

/// The axes of a border: its own, and the two along it.
struct Axes {
    std::size_t a, u, v;
    explicit Axes(Side side)
        : a(static_cast<std::size_t>(axisOf(side)))
        , u((a + 1) % 3)
        , v((a + 2) % 3)
    {
    }
};

void mark(const QuadFields& q, int edge, std::array<std::vector<bool>, kSideCount>& out,
    std::array<std::vector<bool>, kSideCount>& in)
{
    const Axes axes(q.side);
    const int plane = planeOf(q);
    if (plane != 0 && plane != edge)
        return;
    const auto border = static_cast<Side>(axisOf(q.side) * 2 + (plane == 0 ? 1 : 0));
    auto& cells = (border == q.side ? out : in)[static_cast<std::size_t>(border)];
    cells.resize(static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge));
    const std::array<int, 3> at{q.x, q.y, q.z};
    for (int j = at[axes.v]; j < at[axes.v] + q.height; ++j)
        for (int i = at[axes.u]; i < at[axes.u] + q.width; ++i)
            cells[static_cast<std::size_t>(j * edge + i)] = true;
}

Rims rimsOf(const ChunkMesh& mesh, int edge)
{
    Rims rims;
    std::vector<Quad> quads(mesh.quads[0]);
    if (!quads.empty())
        std::memcpy(quads.data(), mesh.vertices.data(), quads.size() * sizeof(Quad)); // the layout "packed", not lit
    std::size_t seams = 0;
    for (const std::uint32_t count : mesh.seams)
        seams += count;
    const std::size_t own = quads.size() - seams;
    for (std::size_t i = 0; i < quads.size(); ++i)
        mark(unpackQuad(quads[i]), edge, i < own ? rims.out : rims.seamOut, i < own ? rims.in : rims.seamIn);
    return rims;
}

class SeamAuditor {
public:
    SeamAuditor(const SeamAuditSpec& spec, const std::stop_token& stop)
        : m_spec(spec)
        , m_stop(stop)
        , m_setup(spec.setup)
        , m_edge(spec.setup.chunk.edge)
        , m_sides(sideRulesOf(spec.terrain->recipe.blocks))
    {
        assert(hasLevels(spec.setup.lod));
        m_setup.mesh.layout = "packed";
        m_setup.light.mode = "none";
        m_result.row.audit = "seams";
    }

    SeamAuditResult run()
    {
        Streamer streamer(m_spec.terrain, m_setup, {}, m_spec.changes ? m_spec.changes->copy() : nullptr);
        m_streamer = &streamer;
        for (std::uint64_t view = 0; view < m_spec.views; ++view) {
            const Eye eye = eyeOf(view);
            if (!settle(eye))
                break;
            look(eye);
            if (m_spec.progress)
                m_spec.progress(static_cast<double>(view + 1) / static_cast<double>(m_spec.views));
        }
        m_result.row.stopped = m_stop.stop_requested();
        return std::move(m_result);
    }

private:
    Eye eyeOf(std::uint64_t view)
    {
        if (m_spec.route)
            return eyeOn(*m_spec.route,
                static_cast<double>(view) / std::max(1.0, static_cast<double>(m_spec.views) - 1), *m_spec.terrain);
        const auto near = [this] { return static_cast<std::int64_t>(m_dice() % 256) - 128; };
        Eye eye{{near(), near(), near()}, glm::dvec3(0.5), 0, 0};
        return eye;
    }

    bool settle(const Eye& eye)
    {
        m_streamer->moveTo(chunkOf(eye.cell, m_edge));
        while (!m_stop.stop_requested()) {
            m_streamer->deliver({}, [this](const StreamEvent& event) {
                if (event.kind == StreamEvent::Kind::Upload)
                    m_rims.insert_or_assign(event.chunk, rimsOf(event.mesh.mesh, m_edge));
                else if (event.kind == StreamEvent::Kind::Release)
                    m_rims.erase(event.chunk);
            });
            if (m_streamer->settled())
                return true;
            std::this_thread::sleep_for(std::chrono::microseconds(200));
        }
        return false;
    }

    void look(const Eye& eye)
    {
        const auto held = m_streamer->cover();
        const LodCover& cover = *held;
        m_shown.clear();
        m_held.clear();
        for (const ShownChunk& shown : cover.chunks)
            m_shown.insert(shown.chunk);
        for (const ShownChunk& shown : cover.chunks)
            for (const Side side : kSides)
                if (shown.coarser >> static_cast<unsigned>(side) & 1)
                    lookAt(shown, side, eye);
    }

    const VoxelChunk& voxelsOf(ChunkPos chunk)
    {
        auto& held = m_held[chunk];
        while (!held) // a worker has the books for a moment
            held = m_streamer->voxels(chunk);
        return *held;
    }

    [[nodiscard]] bool isClosed(ChunkPos chunk, Side side, int i, int j, bool into, bool withSeams) const
    {
        const auto found = m_rims.find(chunk);
        if (found == m_rims.end())
            return false;
        const auto s = static_cast<std::size_t>(side), at = static_cast<std::size_t>(j * m_edge + i);
        const auto has = [&](const std::vector<bool>& cells) { return !cells.empty() && cells[at]; };
        const Rims& rims = found->second;
        return into ? has(rims.in[s]) || (withSeams && has(rims.seamIn[s]))
                    : has(rims.out[s]) || (withSeams && has(rims.seamOut[s]));
    }

    void lookAt(const ShownChunk& finer, Side side, const Eye& eye)
    {
        ++m_result.borders;
        const ChunkPos beyond = parentOf(finer.chunk + stepOf(side));
        assert(m_shown.contains(beyond)); // never more than one level apart
        const VoxelChunk &own = voxelsOf(finer.chunk), &far = voxelsOf(beyond);
        const bool isStitched = resolve(m_setup).seams == Seams::Stitched;
        const Axes axes(side);
        const bool up = signOf(side) > 0;
        const std::array<std::int64_t, 3> half{finer.chunk.x & 1, finer.chunk.y & 1, finer.chunk.z & 1};
        for (int j = 0; j < m_edge; ++j)
            for (int i = 0; i < m_edge; ++i) {
                std::array<int, 3> here{}, there{};
                here[axes.a] = up ? m_edge - 1 : 0;
                here[axes.u] = i;
                here[axes.v] = j;
                there[axes.a] = up ? 0 : m_edge - 1;
                there[axes.u] = (static_cast<int>(half[axes.u]) * m_edge + i) / 2;
                there[axes.v] = (static_cast<int>(half[axes.v]) * m_edge + j) / 2;
                const bool isSolid = m_sides.isSolidCube(own.at(here[0], here[1], here[2])),
                           isFarSolid = m_sides.isSolidCube(far.at(there[0], there[1], there[2]));
                if (isSolid == isFarSolid)
                    continue;
                // The ray comes out of the open one: the sides that it may meet look towards that.
                const bool closed = isSolid ? isClosed(finer.chunk, side, i, j, false, true)
                                            : isClosed(finer.chunk, side, i, j, true, true)
                        || isClosed(beyond, opposite(side), there[axes.u], there[axes.v], false, !isStitched);
                shine(finer.chunk, beyond, side, here, isSolid, closed, eye);
            }
    }

    /// The rays that go from the open voxel into the solid one through this cell.
    void shine(ChunkPos finer, ChunkPos coarser, Side side, const std::array<int, 3>& here, bool isSolid, bool closed,
        const Eye& eye)
    {
        const std::int64_t length = std::int64_t{1} << finer.level;
        const VoxelPos low
            = lowestVoxelOf(finer, m_edge) + VoxelPos{here[0] * length, here[1] * length, here[2] * length};
        // The middle of the cell, in the border's plane, from the eye.
        const auto size = static_cast<double>(length);
        const VoxelPos from = low - eye.cell;
        glm::dvec3 to = glm::dvec3(from.x, from.y, from.z) + size / 2;
        to[axisOf(side)] += signOf(side) * size / 2;
        const glm::dvec3 ray = to - eye.within;
        const bool goesOut = ray[axisOf(side)] * signOf(side) > 0; // from the finer chunk to the coarser
        m_result.uncovered += !closed;
        const auto judge = [&](bool fromAbove, const auto& nearPlaneIsClear) {
            ++m_result.row.cases;
            if (closed || !nearPlaneIsClear())
                return;
            ++m_result.row.differences;
            if (m_result.row.first.empty())
                m_result.row.first = "at " + std::to_string(low.x) + ", " + std::to_string(low.y) + ", "
                    + std::to_string(low.z) + " a ray from " + (fromAbove ? "above" : "the eye")
                    + " goes into the ground between levels " + std::to_string(finer.level) + " and "
                    + std::to_string(coarser.level);
            if (m_result.found.size() < 100)
                m_result.found.push_back({finer, coarser, low, eye, fromAbove});
        };
        if (goesOut != isSolid)
            judge(false, [&] { return isFreeTo(eye, ray); });
        const bool down = side == Side::Down ? !isSolid : side == Side::Up && isSolid;
        if (down) {
            Eye above = moved(eye, to - eye.within);
            judge(true, [&] { return isFreeTo(moved(above, {0, 4096, 0}), {0, -4096, 0}); });
        }
    }

    /// Walks from the eye along the ray to just before its end: is all of it open?
    bool isFreeTo(const Eye& eye, const glm::dvec3& ray)
    {
        const double whole = glm::length(ray);
        const glm::dvec3 direction = ray / whole;
        double at = 0;
        constexpr double kBefore = 0.01, kStep = 1e-3; // voxels
        while (at < whole - kBefore) {
            const Eye here = moved(eye, direction * at);
            std::optional<ChunkPos> chunk;
            for (int level = 0; level <= kMaxLevel && !chunk; ++level)
                if (const ChunkPos one = chunkOf(here.cell, m_edge, level); m_shown.contains(one))
                    chunk = one;
            if (!chunk) {
                at += m_edge / 2.0; // beyond what is shown
                continue;
            }
            const VoxelPos in = here.cell - lowestVoxelOf(*chunk, m_edge);
            const int level = chunk->level;
            if (m_sides.isSolidCube(voxelsOf(*chunk).at(
                    static_cast<int>(in.x >> level), static_cast<int>(in.y >> level), static_cast<int>(in.z >> level))))
                return false;
            // On to where the ray leaves this voxel.
            const std::int64_t size = std::int64_t{1} << level;
            const std::array<std::int64_t, 3> within{in.x & (size - 1), in.y & (size - 1), in.z & (size - 1)};
            double step = 1e9;
            for (int axis = 0; axis < 3; ++axis) {
                const double inVoxel = static_cast<double>(within[static_cast<std::size_t>(axis)]) + here.within[axis];
                if (direction[axis] > 0)
                    step = std::min(step, (static_cast<double>(size) - inVoxel) / direction[axis]);
                else if (direction[axis] < 0)
                    step = std::min(step, -inVoxel / direction[axis]);
            }
            at += step + kStep;
        }
        return true;
    }

    const SeamAuditSpec& m_spec;
    std::stop_token m_stop;
    Setup m_setup;
    int m_edge;
    SideRules m_sides;
    SeamAuditResult m_result;
    Streamer* m_streamer = nullptr;
    std::mt19937 m_dice{7};
    std::unordered_map<ChunkPos, Rims, ChunkPosHash> m_rims;
    std::unordered_set<ChunkPos, ChunkPosHash> m_shown;
    std::unordered_map<ChunkPos, std::shared_ptr<const VoxelChunk>, ChunkPosHash> m_held;
};

} // namespace

SeamAuditResult auditSeams(const SeamAuditSpec& spec, const std::stop_token& stop)
{
    return SeamAuditor(spec, stop).run();
}

} // namespace fell::audit
