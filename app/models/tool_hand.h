// SPDX-License-Identifier: GPL-3.0-or-later
// The tool in hand: what it would change, what it has changed, and how to take that back. Knows no window.
#pragma once

#include <fell/edit/history.h>
#include <fell/edit/pick.h>
#include <fell/edit/tools.h>
#include <fell/stream/streamer.h>

#include <QObject>
#include <QString>

#include <array>
#include <optional>
#include <vector>

namespace fell::app {

/// What an edit cost, as the rail shows it.
struct EditFigures {
    std::uint64_t edits = 0; // since the world was opened
    std::size_t voxels = 0; // changed by the last one
    int relit = 0, meshed = 0; // chunks
    double readyUs = 0; // from the click until the meshes were ready
    double pictureUs = 0; // from the click until the picture showed it; 0 while it is on its way
    std::size_t missing = 0; // voxels that were not resident
};

class ToolHand : public QObject {
    Q_OBJECT
public:
    static constexpr std::size_t kSlots = 12; // of the palette strip
    static constexpr double kFuse = 2; // seconds that a charge counts down

    explicit ToolHand(QObject* parent = nullptr);

    /// Another world: nothing to undo, and the palette is of its blocks.
    void begin(const BlockSet& blocks);
    /// The same kinds, of other shapes perhaps; what was done stays.
    void follow(const BlockSet& blocks) { m_rules = sideRulesOf(blocks); }

    /// The tool in hand; nothing: the pointer only looks.
    [[nodiscard]] std::optional<ToolKind> tool() const { return m_tool; }
    void take(std::optional<ToolKind> tool);
    [[nodiscard]] int radius() const { return m_radius; }
    void setRadius(int voxels);
    [[nodiscard]] const std::array<Material, kSlots>& palette() const { return m_palette; }
    [[nodiscard]] std::size_t slot() const { return m_slot; }
    void chooseSlot(std::size_t slot);
    /// The next slots, or with a negative number those before; after the last comes the first.
    void stepSlot(int by);
    void putInSlot(Material material); // the slot in use
    [[nodiscard]] Material material() const { return m_palette[m_slot]; }
    /// The kind goes into a slot that is chosen: one that has it, else the one in use.
    void pickUp(Material material);

    /// What the pointer is on; the view says so for each frame.
    std::optional<Picked> target;
    [[nodiscard]] const std::optional<VoxelPos>& boxFrom() const { return m_boxFrom; }
    void dropBox() { m_boxFrom.reset(); }
    [[nodiscard]] const SideRules& sideRules() const { return m_rules; }

    /// The tool is used on the target: asks `streamer` for the edit, or sets a charge, or a corner of a box. False
    /// where there is nothing to be done.
    bool use(Streamer& streamer);
    struct Charge {
        VoxelPos at;
        int radius = 0;
        std::uint64_t seed = 0;
        double left = 0; // seconds
    };
    [[nodiscard]] const std::vector<Charge>& charges() const { return m_charges; }
    struct Debris {
        VoxelPos from;
        std::array<float, 3> at{}, velocity{}; // voxels from the lowest corner of `from`, voxels a second
        Material material = kOpen;
        float left = 0; // seconds until it is gone
    };
    [[nodiscard]] const std::vector<Debris>& debris() const { return m_debris; }
    /// Counts charges down and lets debris fall on what `read` says is there.
    void advance(double seconds, Streamer* streamer, const ReadVoxel& read);

    bool undo(Streamer& streamer);
    bool redo(Streamer& streamer);
    [[nodiscard]] QString undoTitle() const; // empty: nothing to undo
    [[nodiscard]] QString redoTitle() const;
    [[nodiscard]] bool isBusy() const { return !m_asked.empty(); }

    /// The streamer is gone: what has not arrived never will.
    void giveUp();
    /// An edit has come, with its meshes, in a frame; and that frame is on the screen.
    void arrived(const EditOutcome& outcome);
    void pictured();
    [[nodiscard]] const EditFigures& figures() const { return m_figures; }

signals:
    void taken(); // another tool, or none
    void changed(); // tool, radius, palette, what can be undone, figures
    /// What another streamer of the same world must change too.
    void spread(const std::vector<fell::save::VoxelChange>& changes);

private:
    enum class Way { Do, Undo, Redo };
    struct Asked {
        std::uint64_t edit = 0;
        Way way = Way::Do;
        QString title;
        std::optional<ToolUse> use;
    };
    [[nodiscard]] bool hasNewOnItsWay() const;
    void ask(Streamer& streamer, const ToolUse& use);
    void askAgain(Streamer& streamer, std::vector<VoxelChange> changes, Way way);
    void throwDebris(const EditOutcome& outcome, const ToolUse& use);

    SideRules m_rules;
    std::optional<ToolKind> m_tool;
    int m_radius = 6;
    std::array<Material, kSlots> m_palette{};
    std::size_t m_slot = 0;
    std::optional<VoxelPos> m_boxFrom;
    std::uint64_t m_seed = 1;
    EditHistory m_history;
    std::vector<Asked> m_asked; // in order
    std::vector<Way> m_wishes; // to undo, once what was just done is known
    std::vector<Charge> m_charges;
    std::vector<Debris> m_debris;
    EditFigures m_figures;
    std::vector<std::chrono::steady_clock::time_point> m_waiting; // clicks whose picture is being drawn
};

} // namespace fell::app
