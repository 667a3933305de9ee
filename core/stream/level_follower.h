// SPDX-License-Identifier: Apache-2.0
// Which levels of detail are needed around the camera, and which of them are visible.
#pragma once

#include <fell/stream/stream_world.h>

#include <chrono>
#include <memory>

namespace fell::stream {

/// A class because selection and cover follow each other: what is shown never names a chunk without a mesh. Does
/// nothing where the setup has no levels. All functions: any worker, with the resident set's lock held.
class LevelFollower {
public:
    /// `world` outlives it.
    LevelFollower(StreamWorld& world, const LodChoices& choices);

    /// The viewer is elsewhere; distance in chunks, pixels a radian in the middle of the picture. Meshes that must go
    /// are appended to `retired`.
    void follow(ChunkPos viewer, int distance, double pixels, std::vector<ChunkPos>& retired);
    /// A mesh is there that was not.
    void meshed() { m_isStale = m_selection != nullptr; }
    /// Tells the drawing side what is shown from now on, behind the meshes that it needs; from time to time while work
    /// goes on, and where nothing is left to do.
    void send(bool isIdle);
    /// Is the chunk shown, or would be once it is meshed? Those that give way to finer ones are not, nor neighbours
    /// that are only read.
    [[nodiscard]] bool shows(ChunkPos chunk) const
    {
        return !m_selection || (m_selection->contains(chunk) && !m_selection->isSplit(chunk));
    }

private:
    void sendNow();

    StreamWorld& m_world;
    LodChoices m_choices;
    std::shared_ptr<const LodSelection> m_selection;
    std::shared_ptr<const LodCover> m_sent;
    bool m_isStale = false;
    std::chrono::steady_clock::time_point m_sentAt;
};

} // namespace fell::stream
