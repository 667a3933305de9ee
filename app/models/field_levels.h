// SPDX-License-Identifier: GPL-3.0-or-later
// The levels of light near the eye, for the overlay that shows them as numbers.
#pragma once

#include <fell/app/models/world_session.h>

#include <QElapsedTimer>

namespace fell::app {

/// A class because it remembers what it looked up: a box has 200,000 voxels.
class FieldLevels {
public:
    /// Again when the eye has moved on, and now and then while some are still to come. Null without light.
    std::shared_ptr<const LightVolume> update(
        const Streamer* streamer, const Setup& setup, VoxelPos eye, int wantedChannel);
    void clear() { m_levels.reset(); }
    [[nodiscard]] const LightVolume* levels() const { return m_levels.get(); }
    [[nodiscard]] int channel() const { return m_channel; } // whose they are

private:
    std::shared_ptr<const LightVolume> m_levels;
    int m_channel = 0;
    std::uint64_t m_relit = 0; // meshes that had come when they were looked up
    QElapsedTimer m_since;
};

} // namespace fell::app
