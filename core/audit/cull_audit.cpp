// SPDX-License-Identifier: Apache-2.0
#include <fell/audit/cull_audit.h>

#include <algorithm>
#include <chrono>
#include <random>
#include <thread>

namespace fell::audit {
namespace {

constexpr std::size_t kNamed = 200; // lost chunks that are kept by name
constexpr double kWide = 120, kNarrow = 12; // degrees

struct View {
    Eye eye;
    double fieldOfView = 65;
    const char* kind = "along the route";
};

class CullAudit {
public:
    CullAudit(const CullAuditSpec& spec, const std::stop_token& stop)
        : m_spec(spec)
        , m_stop(stop)
        , m_setup(spec.setup)
        , m_dice(spec.terrain->recipe.seed)
    {
        m_setup.mesh.mesher = "exposed";
        m_setup.mesh.ambientOcclusion = "none";
        m_setup.draw.submission = "indirect";
        for (const CullStep& step : cullSteps())
            m_result.steps.push_back({step.id, step.isExact, 0, 0});
        m_result.row.audit = "cull";
    }

    CullAuditResult run()
    {
        m_spec.hooks.begin(m_setup, *m_spec.terrain);
        Streamer streamer(m_spec.terrain, m_setup, {}, m_spec.changes ? m_spec.changes->copy() : nullptr);
        for (std::uint64_t i = 0; i < m_spec.views && !m_stop.stop_requested(); ++i) {
            if (m_spec.progress)
                m_spec.progress(static_cast<double>(i) / static_cast<double>(m_spec.views));
            const View view = viewAt(i, streamer);
            if (settle(streamer, view.eye))
                judge(i, view, streamer);
        }
        m_result.row.stopped = m_stop.stop_requested();
        std::stable_partition(m_result.lost.begin(), m_result.lost.end(),
            [](const LostChunk& lost) { return findCullStep(lost.step)->isExact; });
        return std::move(m_result);
    }

private:
    Eye base(std::uint64_t i)
    {
        if (m_spec.route)
            return eyeOn(*m_spec.route,
                static_cast<double>(i) / static_cast<double>(std::max<std::uint64_t>(1, m_spec.views)),
                *m_spec.terrain);
        const auto at = [this](int reach) {
            return static_cast<std::int64_t>(m_dice() % static_cast<unsigned>(2 * reach)) - reach;
        };
        Eye eye{{at(40), at(24), at(40)}, glm::dvec3(0.5), static_cast<double>(m_dice() % 360),
            static_cast<double>(m_dice() % 121) - 60};
        return eye;
    }

    View viewAt(std::uint64_t i, Streamer& streamer)
    {
        if (i == 0 && m_spec.also)
            return {*m_spec.also, m_setup.draw.fieldOfView, "as it is looked at"};
        View view{base(i), m_setup.draw.fieldOfView};
        Eye& eye = view.eye;
        const int edge = m_setup.chunk.edge;
        switch (i % 12) {
        case 1:
        case 7:
            eye.yaw += static_cast<double>(m_dice() % 360);
            return {eye, 65, "turned round"};
        case 2:
            eye.pitch = -90;
            return {eye, 65, "straight down"};
        case 3:
            return {eye, kWide, "wide"};
        case 4: // the lowest corner of a chunk, as near as may be
            eye.cell = originOf(chunkOf(eye.cell, edge), edge);
            eye.within = glm::dvec3(0);
            return {eye, 65, "on the corner of eight chunks"};
        case 5:
            return {inTheGround(eye, streamer), 65, "in a wall"};
        case 6: { // before the middle of the side of a chunk that is larger than the view
            const ChunkPos here = chunkOf(eye.cell, edge);
            eye.cell = originOf(here, edge) + VoxelPos{edge / 2, edge / 2, edge / 4};
            eye.yaw = 90.0 * static_cast<double>(m_dice() % 4);
            eye.pitch = 0;
            return {eye, 2 * kNarrow, "a chunk larger than the view"};
        }
        case 8:
            eye.yaw += static_cast<double>(m_dice() % 360);
            eye.pitch = static_cast<double>(m_dice() % 121) - 60;
            return {eye, kNarrow, "narrow"};
        case 9:
            eye.pitch = 90;
            return {eye, kWide, "straight up"};
        case 10:
            eye.yaw = 90.0 * static_cast<double>(m_dice() % 4);
            eye.pitch = 0;
            eye.within = glm::dvec3(0);
            return {eye, 65, "along an axis from a voxel's corner"};
        default:
            return view;
        }
    }

    /// Down until something opaque is around the eye.
    Eye inTheGround(Eye eye, Streamer& streamer)
    {
        if (!settle(streamer, eye))
            return eye;
        for (int down = 0; down < 4 * m_setup.chunk.edge && nearPlaneIsClear(streamer, {eye, 65}); ++down)
            --eye.cell.y;
        return eye;
    }

    [[nodiscard]] Lens lensOf(const View& view) const
    {
        return lensFor(view.fieldOfView, m_spec.hooks.aspect,
            static_cast<float>(m_setup.stream.distance * m_setup.chunk.edge), m_setup.chunk.edge);
    }

    [[nodiscard]] bool nearPlaneIsClear(const Streamer& streamer, const View& view) const
    {
        return streamer.nearPlaneIsClear(view.eye, lensOf(view)).value_or(false);
    }

    bool settle(Streamer& streamer, const Eye& eye)
    {
        streamer.moveTo(chunkOf(eye.cell, m_setup.chunk.edge));
        while (!m_stop.stop_requested()) {
            streamer.deliver({}, m_spec.hooks.apply);
            if (streamer.settled())
                return true;
            std::this_thread::sleep_for(std::chrono::microseconds(200));
        }
        return false;
    }

    void judge(std::uint64_t number, const View& view, const Streamer& streamer)
    {
        const auto seen = m_spec.hooks.look(view.eye, view.fieldOfView);
        CullScene& scene = m_spec.hooks.scene();
        const Lens lens = lensOf(view);
        const CullView from = cullViewOf(view.eye, lens, m_setup.chunk.edge,
            static_cast<float>(m_setup.stream.distance * m_setup.chunk.edge), nearPlaneIsClear(streamer, view));
        ++m_result.row.cases;
        m_result.seen += seen.size();
        for (std::size_t s = 0; s < cullSteps().size(); ++s) {
            scene.cullBy(cullSteps()[s], from, m_culled);
            m_sides.assign(scene.chunks().size(), kRejected);
            for (const KeptChunk& kept : m_culled.kept)
                m_sides[kept.index] = kept.sides;
            std::uint64_t lost = 0;
            for (const VisibleChunk& chunk : seen) {
                const auto index = scene.octree().find(chunk.chunk);
                const SideSet sides = index ? m_sides[*index] : kRejected;
                // Beyond the render distance the step distance is meant to reject: the picture holds what lingers
                // there.
                const bool isBeyond = std::string_view(cullSteps()[s].id) == "distance"
                    && !isWithinSphere(from, boxOf(chunk.chunk, from.edge, from.eye));
                if (isBeyond || (sides != kRejected && (chunk.sides & ~sides) == 0))
                    continue;
                ++lost;
                name(cullSteps()[s], chunk, view, number);
            }
            m_result.steps[s].lost += lost;
            m_result.steps[s].views += lost > 0;
            if (cullSteps()[s].isExact)
                m_result.row.differences += lost;
        }
    }

    void name(const CullStep& step, const VisibleChunk& chunk, const View& view, std::uint64_t number)
    {
        if (step.isExact && m_result.row.first.empty())
            m_result.row.first = std::string("the step ") + step.id + " loses chunk " + std::to_string(chunk.chunk.x)
                + ", " + std::to_string(chunk.chunk.y) + ", " + std::to_string(chunk.chunk.z) + " of " + m_spec.world
                + " in view " + std::to_string(number) + " (" + view.kind + "), of which "
                + std::to_string(chunk.pixels) + " pixels are seen";
        if (m_result.lost.size() < kNamed || step.isExact)
            m_result.lost.push_back(
                {step.id, m_spec.world, chunk.chunk, chunk.pixels, view.eye, view.fieldOfView, number, view.kind});
    }

    static constexpr SideSet kRejected = 0x80;
    const CullAuditSpec& m_spec;
    std::stop_token m_stop;
    Setup m_setup;
    std::mt19937_64 m_dice;
    CullResult m_culled;
    std::vector<SideSet> m_sides; // by index
    CullAuditResult m_result;
};

} // namespace

CullAuditResult auditCull(const CullAuditSpec& spec, const std::stop_token& stop)
{
    return CullAudit(spec, stop).run();
}

void addTo(CullAuditResult& all, const CullAuditResult& one)
{
    all.row.audit = one.row.audit;
    all.row.cases += one.row.cases;
    all.row.differences += one.row.differences;
    all.row.stopped |= one.row.stopped;
    if (all.row.first.empty())
        all.row.first = one.row.first;
    all.seen += one.seen;
    if (all.steps.empty())
        all.steps = one.steps;
    else
        for (std::size_t s = 0; s < all.steps.size(); ++s) {
            all.steps[s].lost += one.steps[s].lost;
            all.steps[s].views += one.steps[s].views;
        }
    all.lost.insert(all.lost.end(), one.lost.begin(), one.lost.end());
}

} // namespace fell::audit
