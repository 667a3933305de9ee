// SPDX-License-Identifier: GPL-3.0-or-later
// The world that the field shows: its terrain, the setup in use, the streamer round the eye. Knows no window and no
// OpenGL.
#pragma once

#include "measure/route.h"
#include "models/flight.h"
#include "models/setup_history.h"
#include "stream/streamer.h"

#include <QObject>

#include <memory>

namespace fell {

class WorldSession : public QObject {
    Q_OBJECT
public:
    WorldSession(std::shared_ptr<const Terrain> terrain, const Setup& setup, QObject* parent = nullptr);

    [[nodiscard]] const Terrain& terrain() const { return *m_terrain; }
    [[nodiscard]] std::shared_ptr<const Terrain> sharedTerrain() const { return m_terrain; }
    [[nodiscard]] const Setup& setup() const { return m_setups.current(); }
    [[nodiscard]] SetupHistory& setups() { return m_setups; }
    [[nodiscard]] unsigned workers() const;

    /// Another world, seen from its beginning.
    void open(std::shared_ptr<const Terrain> terrain);

    Eye eye;
    Flight flight;
    /// Flies on for `seconds` and tells the streamer where the eye is.
    void advance(double seconds);
    /// Counts up whenever all meshes are void: another world, or a setup that needs other meshes.
    [[nodiscard]] std::uint64_t epoch() const { return m_epoch; }

    /// While paused there is no streamer: no thread works and nothing is resident.
    void setPaused(bool paused);
    [[nodiscard]] bool isPaused() const { return !m_streamer; }
    [[nodiscard]] Streamer* streamer() { return m_streamer.get(); }

    /// Where the eye begins in a world.
    static Eye firstView(const Terrain& terrain);
    /// Metres above the ground below the eye, or nothing where a world has no ground.
    [[nodiscard]] std::optional<double> metresAboveGround() const;

signals:
    void restarted();
    void distanceChanged(int chunks);

private:
    void start();
    void follow(const Setup& now, const Setup& before);

    std::shared_ptr<const Terrain> m_terrain;
    SetupHistory m_setups;
    std::unique_ptr<Streamer> m_streamer;
    std::uint64_t m_epoch = 0;
};

/// The folder of the demo worlds, setups and routes.
std::filesystem::path demoFolder();

} // namespace fell
