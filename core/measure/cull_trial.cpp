// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/cull_trial.h>

#include <algorithm>
#include <cassert>

namespace fell::measure {

std::vector<CullVariant> cullVariants(const CullChoices& choices)
{
    std::vector<CullVariant> out{{"all steps", {}, choices, 0}};
    for (const auto& step : choices.steps) {
        CullChoices without = choices;
        std::erase(without.steps, step);
        out.push_back({"without " + step, step, without, 0});
    }
    CullChoices none = choices;
    none.steps.clear();
    out.push_back({"no steps", {}, none, 0});
    return out;
}

std::vector<CullVariant> passVariants(const CullChoices& choices, std::span<const PassInfo> passes)
{
    std::vector<CullVariant> out{{"all passes", {}, choices, 0}};
    for (std::size_t i = 0; i < passes.size(); ++i)
        out.push_back({"without " + passes[i].title, passes[i].title, choices, 1u << i});
    out.push_back({"no pass", {}, choices, (1u << passes.size()) - 1});
    return out;
}

CullTrial::CullTrial(std::vector<CullVariant> variants, int rounds)
    : m_variants(std::move(variants))
    , m_samples(m_variants.size())
    , m_turns(m_variants.size() * (static_cast<std::size_t>(rounds) + 1))
{
    assert(rounds >= 1);
}

std::size_t CullTrial::whose() const
{
    const std::size_t count = m_variants.size(), round = m_turn / count, at = m_turn % count;
    return round % 2 == 0 ? at : count - 1 - at;
}

const CullVariant& CullTrial::next() const
{
    assert(!isDone());
    return m_variants[whose()];
}

void CullTrial::note(const FrameCost& frame)
{
    if (isDone())
        return;
    if (m_turn >= m_variants.size()) { // the first round warms up
        Samples& samples = m_samples[whose()];
        double cullNs = 0;
        for (const CullCount& count : frame.culled)
            cullNs += static_cast<double>(count.ns);
        samples.frameMs.push_back(frame.ms);
        samples.cullMs.push_back(cullNs / 1e6);
        samples.chunks.push_back(static_cast<double>(frame.chunks));
        samples.triangles.push_back(static_cast<double>(frame.triangles));
        samples.drawCalls.push_back(static_cast<double>(frame.drawCalls));
    }
    ++m_turn;
}

std::vector<CullTrialRow> CullTrial::rows() const
{
    const auto median = [](const std::vector<double>& of) { return static_cast<std::uint64_t>(percentile(of, 50)); };
    std::vector<CullTrialRow> out;
    for (std::size_t i = 0; i < m_variants.size(); ++i)
        if (const Samples& of = m_samples[i]; !of.frameMs.empty())
            out.push_back({m_variants[i].what, m_variants[i].step, percentilesOf(of.frameMs), percentile(of.cullMs, 50),
                median(of.chunks), median(of.triangles), median(of.drawCalls)});
    return out;
}

} // namespace fell::measure
