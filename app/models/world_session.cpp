// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/world_session.h>

#include <fell/demo/demo_folder.h>
#include <fell/input/temp_folder.h>

#include <fell/input/text_file.h>
#include <fell/measure/ledger.h>

#include <fell/terrain/columns.h>

#include <thread>

namespace fell::app {
namespace {

/// Does the change of a setup make the meshes void? A distance, a budget, a name, culling or a lens does not; how they
/// are uploaded or submitted does, since draw per block needs other meshes and each upload other buffers.
bool needOtherMeshes(const Setup& now, const Setup& before)
{
    Setup same = before;
    same.stream.distance = now.stream.distance;
    same.stream.metres = now.stream.metres;
    same.stream.memory = now.stream.memory; // the streamer is told: see Streamer::retune
    same.stream.workers = now.stream.workers;
    same.stream.order = now.stream.order;
    same.edit = now.edit;
    same.name = now.name;
    same.upload.budget = now.upload.budget;
    same.upload.meshes = now.upload.meshes;
    same.upload.time = now.upload.time;
    same.draw.budget = now.draw.budget;
    same.draw.fieldOfView = now.draw.fieldOfView; // the renderer is told: see setLook
    same.draw.fog = now.draw.fog;
    same.draw.seeThrough = now.draw.seeThrough;
    same.draw.filter = now.draw.filter;
    same.cull = now.cull;
    same.keep = now.keep;
    return !(same == now);
}

constexpr double kAnywhere = -1e6; // metres above the ground that the eye keeps: as deep as it is put

} // namespace

WorldSession::WorldSession(std::shared_ptr<const Terrain> terrain, const Setup& setup, QObject* parent)
    : QObject(parent)
    , eye(firstView(*terrain, setup))
    , m_terrain(std::move(terrain))
    , m_setups(setup)
{
    m_setups.inWorldOf(m_terrain->recipe.voxelMetres);
    connect(&m_setups, &SetupHistory::changed, this, &WorldSession::follow);
    connect(&m_setups, &SetupHistory::changed, this, &WorldSession::editedChanged);
    guard(m_setups);
    connect(&editor, &ToolHand::spread, this, [this](const std::vector<VoxelChange>& changes) {
        if (m_b && m_b->share.streamer)
            (void)m_b->share.streamer->edit({[changes](const ReadVoxel&) { return changes; }, false, true});
    });
    editor.begin(m_terrain->recipe.blocks);
    keeper.follow(m_changes);
    keeper.choose(setup.keep);
    keeper.residents = [this] { return m_share.streamer ? m_share.streamer->residents() : ResidentVoxels{}; };
    keeper.documents = [this] { return documents(); };
    connect(&m_setups, &SetupHistory::changed, this, [this](const Setup& now) { keeper.choose(now.keep); });
    connect(&keeper, &WorldKeeper::opened, this,
        [this](const std::shared_ptr<const Terrain>& opened, const std::shared_ptr<WorldChanges>& changes) {
            open(opened, changes);
        });
    start();
}

void WorldSession::guard(SetupHistory& setups)
{
    setups.mayChange = [this](const Setup& next) { return !mayChange || mayChange(next); };
    connect(&setups, &SetupHistory::refused, this, &WorldSession::editedChanged);
    connect(&setups, &SetupHistory::doesNotGoTogether, this, &WorldSession::setupRefused);
}

unsigned WorldSession::workers() const
{
    return setup().stream.workers > 0 ? static_cast<unsigned>(setup().stream.workers)
                                      : std::max(1u, std::thread::hardware_concurrency());
}

Eye WorldSession::firstView(const Terrain& terrain, const Setup& setup)
{
    constexpr double kShare = 0.3; // of the distance: ground that is farther below is hardly in the picture
    const double voxel = terrain.recipe.voxelMetres,
                 distance
        = setup.stream.metres > 0 ? setup.stream.metres : setup.stream.distance * setup.chunk.edge * voxel;
    if (const auto& view = terrain.recipe.view) {
        const double ground = groundHeight(
            terrain, static_cast<std::int64_t>(view->at[0] / voxel), static_cast<std::int64_t>(view->at[2] / voxel));
        const double below = view->at[1] - ground * voxel;
        if (terrain.recipe.pattern || below < kShare * distance)
            return eyeAt({view->at, view->yaw, view->pitch}, kAnywhere, terrain);
    }
    const auto route = findRoute("beck-to-summit", demoFolder() / "routes");
    if (route && !terrain.recipe.pattern)
        return eyeOn(route.value(), 0.06, terrain);
    return eyeAt({{0, 24, 40}, 0, -15}, 0, terrain);
}

void WorldSession::unmark()
{
    look.change([](FieldLook& to) {
        to.marked.reset();
        to.fieldOfView = 0;
        to.why.clear();
    });
}

void WorldSession::open(std::shared_ptr<const Terrain> terrain, std::shared_ptr<WorldChanges> changes)
{
    stepTrial.stop();
    unmark();
    look.change([](FieldLook& to) { to.frozen.reset(); });
    end(m_share); // what was on its way is of the old world
    if (m_b)
        end(m_b->share);
    dropWorldRoutes();
    m_ownRoutes.clear();
    m_terrain = std::move(terrain);
    m_changes = changes ? std::move(changes) : std::make_shared<WorldChanges>();
    m_setups.inWorldOf(m_terrain->recipe.voxelMetres);
    if (m_b)
        m_b->setups.inWorldOf(m_terrain->recipe.voxelMetres);
    editor.begin(m_terrain->recipe.blocks);
    m_isWalking = false; // until the ground is there
    eye = firstView(*m_terrain, this->setup());
    start();
    startB();
}

void WorldSession::showLook(std::shared_ptr<const Terrain> terrain)
{
    assert(differOnlyInLook(m_terrain->recipe.blocks, terrain->recipe.blocks));
    m_terrain = std::move(terrain);
    ++m_looks;
}

void WorldSession::showKinds(std::shared_ptr<const Terrain> terrain)
{
    assert(haveSameKinds(m_terrain->recipe.blocks, terrain->recipe.blocks));
    auto known = std::make_shared<KnownVoxels>(keeper.visited());
    m_terrain = std::move(terrain);
    editor.follow(m_terrain->recipe.blocks);
    start(std::move(known));
    startB();
}

void WorldSession::start(std::shared_ptr<KnownVoxels> known)
{
    if (m_paused)
        return;
    leaveStreamer(); // its threads end before new ones begin
    m_share = {std::make_shared<Streamer>(m_terrain, setup(), Streamer::BeforeJob{}, m_changes, std::move(known)),
        std::make_shared<EditArrivals>()};
    ++m_epoch;
    emit restarted();
}

/// Ends a streamer's threads, though a frame may still hold it.
void WorldSession::end(StreamerShare& share)
{
    if (share.streamer)
        share.streamer->stop();
    share = {};
}

/// What it has done already is taken over, what it has not begun is given up.
void WorldSession::leaveStreamer()
{
    if (!m_share.streamer)
        return;
    m_share.streamer->stop(); // what an edit under way has done by now is told, and can be undone
    const auto rest = m_share.streamer->take(SIZE_MAX); // after it no frame brings anything
    (void)noteArrivals();
    for (const StreamEvent& event : rest)
        if (event.kind == StreamEvent::Kind::Edited)
            editor.arrived(*event.edited);
    editor.giveUp();
    m_share = {};
}

bool WorldSession::noteArrivals()
{
    const auto outcomes
        = m_share.arrivals ? m_share.arrivals->take() : std::vector<std::shared_ptr<const EditOutcome>>{};
    for (const auto& outcome : outcomes)
        editor.arrived(*outcome);
    return !outcomes.empty();
}

void WorldSession::startB()
{
    if (!m_b || m_paused)
        return;
    end(m_b->share);
    m_b->share = {std::make_shared<Streamer>(m_terrain, m_b->setups.current(), Streamer::BeforeJob{}, m_changes),
        std::make_shared<EditArrivals>()};
    m_b->epoch = ++m_lastEpochB;
}

void WorldSession::compareWith(std::optional<Setup> b)
{
    m_editsB = false;
    if (m_b)
        end(m_b->share);
    m_b.reset();
    if (b) {
        m_b = std::make_unique<SecondSetup>(*b);
        m_b->setups.inWorldOf(m_terrain->recipe.voxelMetres);
        guard(m_b->setups);
        connect(&m_b->setups, &SetupHistory::changed, this, [this](const Setup& now, const Setup& before) {
            if (needOtherMeshes(now, before) || !m_b->share.streamer || !m_b->share.streamer->retune(now))
                startB();
            emit editedChanged();
        });
        startB();
    }
    emit editedChanged();
}

void WorldSession::edit(bool b)
{
    if (b == m_editsB || (b && !m_b))
        return;
    m_editsB = b;
    emit editedChanged();
}

void WorldSession::setPaused(bool paused)
{
    if (paused == m_paused)
        return;
    m_paused = paused;
    if (paused) {
        leaveStreamer();
        if (m_b)
            end(m_b->share);
    } else {
        start();
        startB();
    }
}

void WorldSession::follow(const Setup& now, const Setup& before)
{
    if (!needOtherMeshes(now, before) && (!m_share.streamer || m_share.streamer->retune(now)))
        emit distanceChanged(now.stream.distance);
    else if (!isPaused())
        start();
}

void WorldSession::advance(double seconds)
{
    m_reader.begin(m_share.streamer.get(), m_epoch);
    if (flight.keys.any())
        m_replay.reset();
    if (m_replay) {
        m_replay->at += seconds * flight.speed / std::max(1.0, m_replay->metres);
        eye = eyeOn(m_replay->route, m_replay->at, *m_terrain);
        if (m_replay->at >= 1)
            m_replay.reset();
    } else if (m_isWalking) {
        stepOnFoot(seconds);
    } else {
        eye = flight.step(eye, seconds, m_terrain->voxelsPerMetre);
    }
    editor.advance(seconds, m_share.streamer.get(), m_reader.reader());
    if (recorder)
        recorder->note(eye, seconds, *m_terrain);
    const Eye& viewer = look->frozen ? *look->frozen : eye; // what is held stays there
    if (m_share.streamer)
        m_share.streamer->moveTo(chunkOf(viewer.cell, setup().chunk.edge), sectorOf(viewer));
    if (m_b && m_b->share.streamer)
        m_b->share.streamer->moveTo(chunkOf(viewer.cell, m_b->setups.current().chunk.edge), sectorOf(viewer));
}

namespace {

/// A person of 1.8 m, in voxels of the world.
BodyShape personIn(const Terrain& terrain)
{
    const double perMetre = terrain.voxelsPerMetre;
    return {0.6 * perMetre, 1.8 * perMetre, 1.62 * perMetre, std::max(1.02, 0.6 * perMetre)};
}

} // namespace

void WorldSession::walk(bool on)
{
    m_isWalking = on;
    if (!on)
        return;
    constexpr int kHighest = 64; // voxels that it is lifted at most
    m_collisions = collisionRulesOf(editor.sideRules());
    m_body = bodyAt(eye, personIn(*m_terrain));
    m_reader.begin(m_share.streamer.get(), m_epoch);
    for (int i = 0; i < kHighest && isInside(m_body, personIn(*m_terrain), m_reader.reader(), m_collisions); ++i)
        ++m_body.cell.y;
    m_walkedTo = eye = eyeOf(m_body, personIn(*m_terrain), eye);
}

void WorldSession::stepOnFoot(double seconds)
{
    constexpr double kPace = 4.5, kFast = 2; // metres a second; while the fast key is held
    if (eye.cell != m_walkedTo.cell || eye.within != m_walkedTo.within)
        walk(true); // it was put elsewhere
    const FlightKeys& held = flight.keys;
    const double perMetre = m_terrain->voxelsPerMetre;
    WalkKeys keys;
    keys.forward = (held.forward ? 1 : 0) - (held.back ? 1 : 0);
    keys.right = (held.right ? 1 : 0) - (held.left ? 1 : 0);
    keys.up = held.up;
    keys.speed = kPace * perMetre * (held.fast ? kFast : 1);
    m_body = walked(m_body, personIn(*m_terrain), keys, eye.yaw, seconds, m_reader.reader(), m_collisions);
    m_walkedTo = eye = eyeOf(m_body, personIn(*m_terrain), eye);
}

bool WorldSession::useTool()
{
    return m_share.streamer && editor.use(*m_share.streamer);
}

bool WorldSession::undoEdit()
{
    return m_share.streamer && editor.undo(*m_share.streamer);
}

bool WorldSession::redoEdit()
{
    return m_share.streamer && editor.redo(*m_share.streamer);
}

void WorldSession::flyAlong(Route route)
{
    double metres = 0;
    for (std::size_t i = 1; i < route.points.size(); ++i) {
        const auto &a = route.points[i - 1].at, &b = route.points[i].at;
        metres += std::hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2]);
    }
    m_replay = Replay{std::move(route), 0, metres};
}

std::filesystem::path lastSetupFile(bool b)
{
    return homeLedger().parent_path() / (b ? "last-setup-b.json" : "last-setup.json");
}

WorldSession::~WorldSession()
{
    end(m_share);
    if (m_b)
        end(m_b->share);
    dropWorldRoutes();
}

std::vector<WorldFile::Text> WorldSession::documents() const
{
    std::vector<WorldFile::Text> out{{"setup", "A", toJson(setup())}};
    if (m_b)
        out.push_back({"setup", "B", toJson(setupB())});
    const auto add = [&out](const std::filesystem::path& folder, const QString& name) {
        if (const auto text = readFile(folder / (name.toStdString() + ".json")))
            out.push_back({"route", name.toStdString(), text.value()});
    };
    for (const QString& name : namesIn(worldRoutesFolder()))
        if (!m_ownRoutes.contains(name))
            add(worldRoutesFolder(), name);
    for (const QString& name : m_ownRoutes)
        add(routesFolder(), name);
    return out;
}

std::optional<Problem> WorldSession::take(const std::vector<WorldFile::Text>& documents)
{
    constexpr std::size_t kMaxRoutes = 200;
    dropWorldRoutes();
    m_ownRoutes.clear();
    std::size_t routes = 0;
    for (const WorldFile::Text& one : documents) {
        const std::string where = keeper.fileName().toStdString() + ", " + one.kind + " " + one.name;
        if (one.kind == "setup" && one.name == "A") {
            const auto kept = parseSetup(one.json, where);
            if (!kept)
                return kept.problem();
            m_setups.change(kept.value());
        } else if (one.kind == "route") {
            if (!isRouteName(QString::fromStdString(one.name)))
                return Problem{where, "", "is no name for a route"};
            if (++routes > kMaxRoutes)
                return Problem{where, "", "is one route too many: a world has at most 200"};
            if (const auto route = parseRoute(one.json, where); !route)
                return route.problem();
            if (auto problem = writeFile(worldRoutesFolder() / (one.name + ".json"), one.json))
                return problem;
        }
    }
    return std::nullopt;
}

std::optional<double> WorldSession::metresAboveGround() const
{
    if (m_terrain->recipe.pattern)
        return std::nullopt;
    const double ground = groundHeight(*m_terrain, eye.cell.x, eye.cell.z);
    return (static_cast<double>(eye.cell.y) + eye.within.y - ground) * m_terrain->recipe.voxelMetres;
}

} // namespace fell::app

#include "moc_world_session.cpp"
