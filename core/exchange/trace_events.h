// SPDX-License-Identifier: Apache-2.0
// The lives of chunks as Trace Event JSON, which common trace viewers open.
#pragma once

#include <fell/stream/lives.h>

#include <span>
#include <string>

namespace fell::exchange {

/// Threads are tracks; generating, meshing and uploading are spans of theirs; what happened to one chunk is joined by
/// flow arrows; what has no duration (released, retired, evicted, failed) is an instant.
///
/// Shape   `events` in the order of time, as LifeRecorder::all gives them. A beginning without its end (it is still
///         running, or the ring has lost it) is left out.
/// Cost    O(n).
/// Source  "Trace Event Format" (an open description of the JSON that trace viewers read): phases X, s, t, f, i, M.
std::string traceEvents(std::span<const LifeEvent> events);

} // namespace fell::exchange
