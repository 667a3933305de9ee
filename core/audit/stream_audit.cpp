// SPDX-License-Identifier: Apache-2.0
#include <fell/audit/stream_audit.h>

#include <chrono>
#include <map>
#include <random>
#include <thread>

namespace fell::audit {
namespace {

/// What one visit left on the drawing side.
struct Visit {
    std::map<ChunkPos, std::vector<std::byte>> meshes;
    std::uint64_t meshBytes = 0, usedBytes = 0;
};

std::string placeOf(ChunkPos chunk)
{
    return "chunk " + std::to_string(chunk.x) + ", " + std::to_string(chunk.y) + ", " + std::to_string(chunk.z);
}

class StreamAudit {
public:
    StreamAudit(const StreamAuditSpec& spec, const std::stop_token& stop)
        : m_spec(spec)
        , m_stop(stop)
        , m_streamer(spec.terrain, spec.setup, {}, spec.changes ? spec.changes->copy() : nullptr)
    {
    }

    AuditRow run()
    {
        m_row.audit = "stream";
        std::mt19937_64 dice(m_spec.terrain->recipe.seed);
        if (visit(m_spec.home)) {
            const Visit home = m_here;
            for (int i = 0; i < m_spec.journeys; ++i) {
                if (m_spec.progress)
                    m_spec.progress(static_cast<double>(i) / m_spec.journeys);
                // Near journeys keep some chunks, far ones none: 2^2 to 2^35 chunks of edge 32 are 2^40 voxels.
                const std::int64_t far = std::int64_t{1} << (2 + dice() % 34);
                const ChunkPos away{dice() % 2 ? far : -far, static_cast<std::int64_t>(dice() % 5) - 2,
                    static_cast<std::int64_t>(dice() % 9) - 4};
                if (!visit(m_spec.home + away) || !visit(m_spec.home))
                    break;
                compare(home, "after journey " + std::to_string(i + 1));
            }
        }
        m_row.stopped = m_stop.stop_requested();
        return m_row;
    }

private:
    /// Stays until everything is there.
    bool visit(ChunkPos place)
    {
        m_streamer.moveTo(place);
        while (!m_stop.stop_requested()) {
            m_streamer.deliver({}, [this](const StreamEvent& event) { take(event); });
            if (m_streamer.settled()) {
                m_here.meshBytes = m_streamer.counts().meshBytes;
                m_here.usedBytes = m_spec.hooks.usedBytes ? m_spec.hooks.usedBytes() : 0;
                return true;
            }
            std::this_thread::sleep_for(std::chrono::microseconds(200));
        }
        return false;
    }

    void take(const StreamEvent& event)
    {
        if (m_spec.hooks.apply)
            m_spec.hooks.apply(event);
        if (event.mesh.isBare)
            return; // nothing is held of it
        ++m_row.cases;
        if (event.kind == StreamEvent::Kind::Release)
            check(m_here.meshes.erase(event.chunk) == 1, placeOf(event.chunk) + " was released and had not been there");
        else
            check(m_here.meshes.emplace(event.chunk, event.mesh.mesh.vertices).second,
                placeOf(event.chunk) + " was uploaded twice");
    }

    void compare(const Visit& before, const std::string& when)
    {
        // A short journey leaves what the slack keeps: compared is what the first visit had.
        for (const auto& [chunk, mesh] : before.meshes) {
            ++m_row.cases;
            const auto found = m_here.meshes.find(chunk);
            check(found != m_here.meshes.end() && found->second == mesh,
                placeOf(chunk) + " has not the mesh that it had, " + when);
        }
        if (m_here.meshes.size() != before.meshes.size())
            return; // the slack's chunks are there too, with their bytes
        const auto same = [&](std::uint64_t now, std::uint64_t then, const char* what) {
            ++m_row.cases;
            check(now == then,
                std::to_string(now) + " bytes of " + what + " in place of " + std::to_string(then) + ", " + when);
        };
        same(m_here.meshBytes, before.meshBytes, "meshes");
        same(m_here.usedBytes, before.usedBytes, "graphics memory");
    }

    void check(bool holds, const std::string& sentence)
    {
        if (holds)
            return;
        if (m_row.differences++ == 0)
            m_row.first = sentence;
    }

    const StreamAuditSpec& m_spec;
    std::stop_token m_stop;
    AuditRow m_row;
    Visit m_here;
    Streamer m_streamer;
};

} // namespace

AuditRow auditStream(const StreamAuditSpec& spec, const std::stop_token& stop)
{
    return StreamAudit(spec, stop).run();
}

} // namespace fell::audit
