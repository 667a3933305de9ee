// SPDX-License-Identifier: GPL-3.0-or-later
// How far this driver can show the world within the frame budget: a short measurement at the first start.
#pragma once

#include <fell/namespaces.h>

#include <optional>
#include <vector>

namespace fell::app {

/// Doubles the render distance until the median of some frames is over the budget, and takes the farthest that was
/// within it. Knows no window: it is told of frames, and says what to show next.
class DistanceFinder {
public:
    static constexpr int kFrames = 5; // of each distance, after one that is dropped
    static constexpr double kFirst = 128, kFarthest = 8192; // metres

    struct Found {
        double metres = 0;
        double frameMs = 0; // median there
        bool isOver = false; // even the first distance takes longer than the budget
    };

    /// budgetMs: what a frame may take.
    explicit DistanceFinder(double budgetMs)
        : m_budgetMs(budgetMs)
    {
    }

    /// The distance to show now; metres.
    [[nodiscard]] double metres() const { return m_metres; }
    /// A frame in which all chunks of that distance were there took so long. Returns true where the distance is another
    /// one now, or the search has ended.
    bool addFrame(double ms);
    /// No farther distance is allowed: what was within the budget is found.
    void end();
    [[nodiscard]] const std::optional<Found>& found() const { return m_found; }

private:
    double m_budgetMs, m_metres = kFirst;
    std::optional<Found> m_within;
    std::vector<double> m_frames;
    bool m_isWarm = false;
    std::optional<Found> m_found;
};

} // namespace fell::app
