// SPDX-License-Identifier: GPL-3.0-or-later
// The last frames, where their time went, and which of them were hitches.
#pragma once

#include <fell/measure/statistics.h>

#include <QString>

#include <deque>

namespace fell::app {

struct FrameRecord {
    std::uint64_t number = 0;
    double uploadMs = 0, cullMs = 0, drawMs = 0,
           otherMs = 0; // the render thread's time; draw until the picture was finished, other: reading it back, and
                        // comparing it with the other setup's
    std::uint64_t meshesUploaded = 0, bytesUploaded = 0, released = 0;
    [[nodiscard]] double totalMs() const { return uploadMs + cullMs + drawMs + otherMs; }
};

/// The last kKept frames. Oldest first.
class FrameHistory {
public:
    static constexpr std::size_t kKept = 240;

    void add(const FrameRecord& frame);
    void clear() { m_frames.clear(); }
    [[nodiscard]] const std::deque<FrameRecord>& frames() const { return m_frames; }
    [[nodiscard]] Percentiles percentiles() const; // of totalMs
    /// Frames of more than twice the median.
    [[nodiscard]] std::size_t hitches() const;
    [[nodiscard]] bool isHitch(const FrameRecord& frame) const;
    /// The part of a frame that took most above its own median, and what it did: "upload took 13.0 ms in place of 0.20:
    /// 41 meshes, 6.2 MiB".
    [[nodiscard]] QString causeOf(const FrameRecord& frame) const;
    /// Null where none of the frames was one.
    [[nodiscard]] const FrameRecord* lastHitch() const;

private:
    std::deque<FrameRecord> m_frames;
};

/// What happened in a frame, as two short lines: its time, and the stage that took most of it with the reason.
QString storyOf(const FrameRecord& frame);

} // namespace fell::app
