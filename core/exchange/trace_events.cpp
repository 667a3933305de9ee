// SPDX-License-Identifier: Apache-2.0
#include <fell/exchange/trace_events.h>

#include <nlohmann/json.hpp>

#include <set>
#include <unordered_map>

namespace fell::exchange {
namespace {

using nlohmann::json;

constexpr int kProcess = 1;

double microseconds(std::uint64_t ns)
{
    return static_cast<double>(ns) / 1000;
}

std::string named(ChunkPos chunk)
{
    return std::to_string(chunk.x) + "," + std::to_string(chunk.y) + "," + std::to_string(chunk.z);
}

/// A span of a thread, or an instant where it has no duration.
struct Span {
    std::uint64_t begin = 0, end = 0;
    const LifeEvent* event = nullptr;
};

/// The span that an event closes: from the last beginning of the same chunk on the same thread, or for light
/// and uploads, which have no begin event, from their cost.
class Spans {
public:
    explicit Spans(std::span<const LifeEvent> events)
    {
        for (const LifeEvent& event : events)
            take(event);
    }
    std::vector<Span> done;

private:
    void take(const LifeEvent& event)
    {
        switch (event.step) {
        case LifeStep::Generating:
        case LifeStep::Meshing:
            m_begun[event.thread] = &event; // a thread does one thing at a time
            return;
        case LifeStep::Generated:
        case LifeStep::Meshed:
        case LifeStep::Bare:
        case LifeStep::Failed:
            if (const auto found = m_begun.find(event.thread);
                found != m_begun.end() && found->second->chunk == event.chunk) {
                done.push_back({found->second->ns, event.ns, &event});
                m_begun.erase(found);
            }
            return;
        case LifeStep::Lit:
        case LifeStep::Uploaded:
        case LifeStep::Edited:
        case LifeStep::Remeshed:
            done.push_back({event.ns - std::min<std::uint64_t>(event.ns, event.costNs), event.ns, &event});
            return;
        default:
            done.push_back({event.ns, event.ns, &event});
        }
    }
    std::unordered_map<std::uint8_t, const LifeEvent*> m_begun;
};

const char* nameOf(LifeStep step)
{
    switch (step) {
    case LifeStep::Generated:
        return "generate";
    case LifeStep::Lit:
        return "light";
    case LifeStep::Meshed:
        return "mesh";
    case LifeStep::Bare:
        return "mesh (nothing to see)";
    case LifeStep::Uploaded:
        return "upload";
    default:
        return wordOf(step);
    }
}

} // namespace

std::string traceEvents(std::span<const LifeEvent> events)
{
    json out = json::array();
    const auto meta = [&out](const char* what, int thread, const std::string& name) {
        out.push_back({{"ph", "M"}, {"pid", kProcess}, {"tid", thread}, {"name", what}, {"args", {{"name", name}}}});
    };
    meta("process_name", 0, "Fell");
    std::set<int> threads;
    for (const LifeEvent& event : events)
        threads.insert(event.thread);
    for (const int thread : threads)
        meta("thread_name", thread, thread == 0 ? "drawing" : "worker " + std::to_string(thread));

    std::unordered_map<ChunkPos, std::uint64_t, ChunkPosHash> flows; // how many spans of a chunk have been written
    std::unordered_map<ChunkPos, std::uint64_t, ChunkPosHash> spansOf;
    const Spans spans(events);
    for (const Span& span : spans.done)
        ++spansOf[span.event->chunk];
    for (const Span& span : spans.done) {
        const LifeEvent& event = *span.event;
        const std::string chunk = named(event.chunk);
        json shown{{"pid", kProcess}, {"tid", event.thread}, {"ts", microseconds(span.begin)},
            {"name", nameOf(event.step)}, {"cat", "chunk"}, {"args", {{"chunk", chunk}}}};
        if (span.end > span.begin) {
            shown["ph"] = "X";
            shown["dur"] = microseconds(span.end - span.begin);
            if (event.costNs > 0)
                shown["args"]["thread_us"] = microseconds(event.costNs);
        } else {
            shown["ph"] = "i";
            shown["s"] = "t";
        }
        out.push_back(std::move(shown));
        const std::uint64_t written = flows[event.chunk]++, all = spansOf[event.chunk];
        if (all < 2)
            continue;
        json flow{{"ph",
                      written == 0             ? "s"
                          : written + 1 == all ? "f"
                                               : "t"},
            {"pid", kProcess}, {"tid", event.thread}, {"ts", microseconds(span.begin)}, {"name", "life"},
            {"cat", "life"}, {"id", chunk}};
        if (written + 1 == all)
            flow["bp"] = "e";
        out.push_back(std::move(flow));
    }
    return json{{"displayTimeUnit", "ms"}, {"traceEvents", std::move(out)}}.dump(1) + "\n";
}

} // namespace fell::exchange
