// SPDX-License-Identifier: GPL-3.0-or-later
#include "models/world_session.h"

#include "terrain/columns.h"

#include <thread>

namespace fell {

std::filesystem::path demoFolder()
{
    return FELL_DEMO_DIR;
}

WorldSession::WorldSession(std::shared_ptr<const Terrain> terrain, const Setup& setup, QObject* parent)
    : QObject(parent)
    , eye(firstView(*terrain))
    , m_terrain(std::move(terrain))
    , m_setups(setup)
{
    connect(&m_setups, &SetupHistory::changed, this, &WorldSession::follow);
    start();
}

unsigned WorldSession::workers() const
{
    return setup().stream.workers > 0 ? static_cast<unsigned>(setup().stream.workers)
                                      : std::max(1u, std::thread::hardware_concurrency());
}

Eye WorldSession::firstView(const Terrain& terrain)
{
    const auto route = findRoute("beck-to-summit", demoFolder() / "routes");
    if (route && !terrain.recipe.pattern)
        return eyeOn(route.value(), 0.06, terrain);
    return eyeAt({{0, 24, 40}, 0, -15}, 0, terrain);
}

void WorldSession::open(std::shared_ptr<const Terrain> terrain)
{
    m_streamer.reset();
    m_terrain = std::move(terrain);
    eye = firstView(*m_terrain);
    start();
}

void WorldSession::start()
{
    m_streamer.reset(); // its threads end before new ones begin
    m_streamer = std::make_unique<Streamer>(m_terrain, setup());
    ++m_epoch;
    emit restarted();
}

void WorldSession::setPaused(bool paused)
{
    if (paused == isPaused())
        return;
    if (paused)
        m_streamer.reset();
    else
        start();
}

void WorldSession::follow(const Setup& now, const Setup& before)
{
    Setup sameMeshes = before;
    sameMeshes.stream.distance = now.stream.distance;
    sameMeshes.name = now.name;
    sameMeshes.upload = now.upload;
    sameMeshes.draw = now.draw;
    if (sameMeshes == now) {
        if (m_streamer)
            m_streamer->setDistance(now.stream.distance);
        emit distanceChanged(now.stream.distance);
    } else if (!isPaused()) {
        start();
    }
}

void WorldSession::advance(double seconds)
{
    eye = flight.step(eye, seconds, m_terrain->voxelsPerMetre);
    if (m_streamer)
        m_streamer->moveTo(chunkOf(eye.cell, setup().chunk.edge));
}

std::optional<double> WorldSession::metresAboveGround() const
{
    if (m_terrain->recipe.pattern)
        return std::nullopt;
    const double ground = groundHeight(*m_terrain, eye.cell.x, eye.cell.z);
    return (static_cast<double>(eye.cell.y) + eye.within.y - ground) * m_terrain->recipe.voxelMetres;
}

} // namespace fell
