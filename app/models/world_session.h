// SPDX-License-Identifier: GPL-3.0-or-later
// The world that the field shows: its terrain, the setup in use, the streamer around the eye. Knows no window and no
// OpenGL.
#pragma once

#include <fell/app/models/flight.h>
#include <fell/app/models/resident_reader.h>
#include <fell/app/models/route_editor.h>
#include <fell/app/models/routes.h>
#include <fell/app/models/setup_history.h>
#include <fell/app/models/step_trial.h>
#include <fell/app/models/tool_hand.h>
#include <fell/app/models/view_state.h>
#include <fell/app/models/world_keeper.h>
#include <fell/demo/demo_folder.h>
#include <fell/edit/walk.h>
#include <fell/gpu/renderer.h>
#include <fell/measure/route.h>
#include <fell/stream/streamer.h>

#include <QObject>
#include <QStringList>

#include <memory>
#include <mutex>
#include <utility>
#include <vector>

namespace fell::app {

/// Outcomes of edits, from the frame that shows them first to the window. A class because two threads share it.
class EditArrivals {
public:
    void add(std::shared_ptr<const EditOutcome> outcome)
    {
        const std::scoped_lock lock(m_mutex);
        m_outcomes.push_back(std::move(outcome));
    }
    [[nodiscard]] std::vector<std::shared_ptr<const EditOutcome>> take()
    {
        const std::scoped_lock lock(m_mutex);
        return std::exchange(m_outcomes, {});
    }

private:
    std::mutex m_mutex;
    std::vector<std::shared_ptr<const EditOutcome>> m_outcomes;
};

/// A streamer as the render thread has it too. It may be stopped while a frame still takes from it.
struct StreamerShare {
    std::shared_ptr<Streamer> streamer; // null while paused
    std::shared_ptr<EditArrivals> arrivals;
};

class WorldSession : public QObject {
    Q_OBJECT
public:
    WorldSession(std::shared_ptr<const Terrain> terrain, const Setup& setup, QObject* parent = nullptr);

    [[nodiscard]] const Terrain& terrain() const { return *m_terrain; }
    [[nodiscard]] std::shared_ptr<const Terrain> sharedTerrain() const { return m_terrain; }
    [[nodiscard]] const Setup& setup() const { return m_setups.current(); }
    [[nodiscard]] SetupHistory& setups() { return m_setups; }
    [[nodiscard]] unsigned workers() const;

    /// A second setup on the same world, drawn next to the first; nothing takes it away.
    void compareWith(std::optional<Setup> b);
    [[nodiscard]] bool hasB() const { return m_b != nullptr; }
    /// Assert hasB().
    [[nodiscard]] const Setup& setupB() const { return m_b->setups.current(); }
    [[nodiscard]] SetupHistory& setupsB() { return m_b->setups; }
    [[nodiscard]] Streamer* streamerB() { return m_b ? m_b->share.streamer.get() : nullptr; }
    [[nodiscard]] StreamerShare shareB() const { return m_b ? m_b->share : StreamerShare{}; }
    [[nodiscard]] std::uint64_t epochB() const { return m_b ? m_b->epoch : 0; }
    /// The setup that the benches show and change: A, or B if it was chosen.
    void edit(bool b);
    [[nodiscard]] bool editsB() const { return m_editsB; }
    [[nodiscard]] SetupHistory& edited() { return m_editsB ? m_b->setups : m_setups; }

    /// Asked before the edited setup changes: false leaves it as it is.
    std::function<bool(const Setup& next)> mayChange;

    ViewState look;
    /// Back to the setup's lens, and nothing marked.
    void unmark();
    /// Draws the field's next frames of the edited setup with other cull steps.
    StepTrial stepTrial;
    /// The tool in hand; it changes the world of both setups.
    ToolHand editor;
    /// What was changed of the world.
    [[nodiscard]] const std::shared_ptr<WorldChanges>& changes() const { return m_changes; }
    /// The file that they are kept in.
    WorldKeeper keeper;
    /// The setups, the routes that came with the world and those that were saved while it was open; and back. Setup A
    /// is as it was left. Routes of the file are offered while the world is open, from a temporary folder: nothing goes
    /// into the user's own. Errors: the first that cannot be read.
    [[nodiscard]] std::vector<WorldFile::Text> documents() const;
    std::optional<Problem> take(const std::vector<WorldFile::Text>& documents);
    /// A route of the user's was saved: it belongs to the world that is open.
    void noteRoute(const QString& name) { m_ownRoutes << name; }
    ~WorldSession() override;
    bool useTool();
    bool undoEdit();
    bool redoEdit();

    /// Another world, seen from its beginning.
    /// `changes`: what was changed of it before; null: nothing.
    void open(std::shared_ptr<const Terrain> terrain, std::shared_ptr<WorldChanges> changes = nullptr);
    /// The same world in other colours and pictures, at once: asserts differOnlyInLook.
    void showLook(std::shared_ptr<const Terrain> terrain);
    /// The same ground of blocks that light or stand otherwise: voxels stay, everything is relit and remeshed. What
    /// was edited stays too. Asserts haveSameKinds.
    void showKinds(std::shared_ptr<const Terrain> terrain);
    [[nodiscard]] std::uint64_t looks() const { return m_looks; } // how often that was

    Eye eye;
    Flight flight;
    /// On one's feet in place of flying: gravity, jumps, steps and swimming. Where the eye is inside of something, it
    /// is lifted out first.
    void walk(bool on);
    [[nodiscard]] bool isWalking() const { return m_isWalking; }
    [[nodiscard]] const Body& body() const { return m_body; }
    /// Takes down where the eye flies; nothing while no route is recorded.
    std::optional<RouteRecorder> recorder;
    /// A route that the camera flies along automatically, at the flight's speed, until a key is pressed.
    struct Replay {
        Route route;
        double at = 0; // of the route
        double metres = 0; // its length
    };
    void flyAlong(Route route);
    /// The route that the plan shows and changes.
    RouteEditor routeEditor;
    [[nodiscard]] bool isFlyingAlong() const { return m_replay.has_value(); }
    /// Flies on for `seconds` and tells the streamer where the eye is.
    void advance(double seconds);
    /// Counts up whenever all meshes are void: another world, or a setup that needs other meshes.
    [[nodiscard]] std::uint64_t epoch() const { return m_epoch; }

    /// While paused there is no streamer: no thread works and nothing is resident.
    void setPaused(bool paused);
    [[nodiscard]] bool isPaused() const { return m_paused; }
    [[nodiscard]] Streamer* streamer() { return m_share.streamer.get(); }
    [[nodiscard]] StreamerShare share() const { return m_share; }
    /// Edits whose first frame was drawn come into the history. True if there were any.
    bool noteArrivals();

    /// Where the eye begins in a world.
    /// The view of the recipe where the setup's render distance shows the ground below it; else the begin of the demo
    /// route.
    static Eye firstView(const Terrain& terrain, const Setup& setup);
    /// Metres above the ground below the eye, or nothing where a world has no ground.
    [[nodiscard]] std::optional<double> metresAboveGround() const;

signals:
    void restarted();
    void distanceChanged(int chunks);
    /// There is a setup B, or none any more, or the other one is edited now, or the edited one changed.
    void editedChanged();
    /// A change of a setup was refused: its choices do not go together.
    void setupRefused(const QString& why);

private:
    /// Setup B with what belongs to it.
    struct SecondSetup {
        explicit SecondSetup(const Setup& setup)
            : setups(setup)
        {
        }
        SetupHistory setups;
        StreamerShare share;
        std::uint64_t epoch = 0;
    };
    void guard(SetupHistory& setups);
    void start(std::shared_ptr<KnownVoxels> known = nullptr);
    void startB();
    void leaveStreamer();
    static void end(StreamerShare& share);
    void follow(const Setup& now, const Setup& before);

    QStringList m_ownRoutes; // of the user's, saved while this world was open
    std::shared_ptr<const Terrain> m_terrain;
    std::uint64_t m_looks = 0;
    std::shared_ptr<WorldChanges> m_changes = std::make_shared<WorldChanges>();
    SetupHistory m_setups;
    StreamerShare m_share;
    std::uint64_t m_epoch = 0, m_lastEpochB = 0;
    std::unique_ptr<SecondSetup> m_b;
    void stepOnFoot(double seconds);
    bool m_isWalking = false;
    Body m_body;
    Eye m_walkedTo; // what the eye was when the body moved last: if it is elsewhere, it was set
    ResidentReader m_reader;
    CollisionRules m_collisions;
    bool m_editsB = false, m_paused = false;
    std::optional<Replay> m_replay;
};

/// Where the setup of the last session lies, of A or of B; there may be none.
std::filesystem::path lastSetupFile(bool b);

} // namespace fell::app
