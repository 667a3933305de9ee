// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/field_levels.h>

#include <algorithm>

namespace fell::app {

std::shared_ptr<const LightVolume> FieldLevels::update(
    const Streamer* streamer, const Setup& setup, VoxelPos eye, int wantedChannel)
{
    constexpr std::array<int, 3> kSize{64, 48, 64}; // voxels: numbers farther away cannot be read
    constexpr int kDrift = 8; // voxels
    constexpr qint64 kAgainMs = 400;
    const LightMode& mode = *findLightMode(setup.light.mode);
    if (!streamer || mode.channels() == 0) {
        m_levels.reset();
        return nullptr;
    }
    const int channel = std::clamp(wantedChannel, 0, mode.channels() - 1);
    const VoxelPos low = eye - VoxelPos{kSize[0] / 2, kSize[1] / 2, kSize[2] / 2};
    const std::uint64_t lit = streamer->counts().lit;
    if (m_levels && m_channel == channel && m_since.isValid()) {
        const VoxelPos moved = low - m_levels->low;
        const bool isNear = std::max({std::abs(moved.x), std::abs(moved.y), std::abs(moved.z)}) <= kDrift;
        if (isNear && ((m_levels->isWhole && m_relit == lit) || m_since.elapsed() < kAgainMs))
            return m_levels;
    }
    LightView view(*streamer, setup.chunk.edge);
    m_levels = std::make_shared<const LightVolume>(view.volume(low, kSize, channel));
    m_channel = channel;
    m_relit = lit;
    m_since.start();
    return m_levels;
}

} // namespace fell::app
