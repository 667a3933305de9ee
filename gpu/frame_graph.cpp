// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/frame_graph.h>

#include <algorithm>
#include <array>
#include <cassert>
#include <chrono>

namespace fell::gpu {

std::string FrameGraph::firstMistake(const std::vector<Pass>& passes, const std::vector<TargetId>& given)
{
    std::vector<TargetId> written = given;
    for (const Pass& pass : passes) {
        for (const TargetId read : pass.reads)
            if (std::find(written.begin(), written.end(), read) == written.end())
                return pass.id;
        written.insert(written.end(), pass.writes.begin(), pass.writes.end());
    }
    return {};
}

FrameGraph::FrameGraph(ResourceTable& table, std::vector<Pass> passes, const std::vector<TargetId>& given)
    : m_passes(std::move(passes))
    , m_table(&table)
{
    assert(firstMistake(m_passes, given).empty());
    (void)given;
}

GLuint FrameGraph::queryAt(std::size_t i)
{
    while (m_queries.size() <= i) {
        GLuint name = 0;
        glCreateQueries(GL_TIMESTAMP, 1, &name);
        m_queries.emplace_back(*m_table, name, [](GLuint query) { glDeleteQueries(1, &query); });
    }
    return m_queries[i].id();
}

std::vector<PassInfo> FrameGraph::passes() const
{
    std::vector<PassInfo> out;
    for (const Pass& pass : m_passes)
        if (pass.title)
            out.push_back({pass.id, pass.title});
    return out;
}

void FrameGraph::run(FrameContext& context, unsigned leftOut)
{
    m_timed.clear();
    unsigned bit = 1;
    for (const Pass& pass : m_passes) {
        const bool isLeftOut = pass.title && (leftOut & bit) != 0;
        bit <<= pass.title ? 1 : 0;
        if (isLeftOut || !pass.wanted(context))
            continue;
        const std::size_t query = 2 * m_timed.size();
        const auto start = std::chrono::steady_clock::now();
        glPushDebugGroup(GL_DEBUG_SOURCE_APPLICATION, 0, -1, pass.id);
        glQueryCounter(queryAt(query), GL_TIMESTAMP);
        apply(pass.state);
        pass.record(context);
        glQueryCounter(queryAt(query + 1), GL_TIMESTAMP);
        glPopDebugGroup();
        const std::chrono::duration<double, std::milli> spent = std::chrono::steady_clock::now() - start;
        m_timed.push_back({&pass, spent.count(), query});
    }
}

std::vector<PassCost> FrameGraph::collect() const
{
    std::vector<PassCost> out;
    for (const Timed& timed : m_timed) {
        std::array<GLuint64, 2> ns{};
        for (std::size_t i = 0; i < 2; ++i)
            glGetQueryObjectui64v(m_queries[timed.query + i].id(), GL_QUERY_RESULT, &ns[i]);
        out.push_back({timed.pass->id, timed.cpuMs, ns[1] > ns[0] ? static_cast<double>(ns[1] - ns[0]) / 1e6 : 0});
    }
    return out;
}

} // namespace fell::gpu
