// SPDX-License-Identifier: GPL-3.0-or-later
// A block set while it is changed: its document with undo, what to beware of, and how often each kind is there.
#pragma once

#include <fell/app/models/background_task.h>
#include <fell/app/models/document_history.h>
#include <fell/blocks/block_set.h>
#include <fell/save/changes.h>
#include <fell/save/world_file.h>
#include <fell/terrain/terrain.h>

#include <QObject>
#include <QStringList>

#include <optional>

namespace fell::app {

class BlockEditor : public QObject {
    Q_OBJECT
public:
    using QObject::QObject;

    /// Begins with a world's set; what was not kept of another is gone.
    void begin(const BlockSet& set);
    [[nodiscard]] const BlockSet& set() const { return m_set; } // as it was read last
    [[nodiscard]] const nlohmann::ordered_json& document() const { return m_history.current(); }
    /// The place of a kind in the document's list: turned kinds are their block's.
    [[nodiscard]] std::optional<std::size_t> entryOf(Material material) const;
    /// Changes one value of a kind's entry, e.g. "/light/opacity"; null takes it out. The reader's sentence and no
    /// change if it is not allowed.
    std::optional<QString> change(Material material, const std::string& pointer, const nlohmann::json& value);
    /// One more, like this one, under another name.
    std::optional<QString> addLike(Material material, const std::string& name);
    [[nodiscard]] bool isChanged() const { return m_history.isChanged(); }
    [[nodiscard]] bool canUndo() const { return m_history.canUndo(); }
    [[nodiscard]] bool canRedo() const { return m_history.canRedo(); }
    void undo();
    void redo();
    /// Writes it as JSON, and next to it, in "textures", the pictures that lie elsewhere as PNG. Models stay where they
    /// are and are named from there. Errors: cannot be written.
    std::optional<Problem> save(const std::filesystem::path& file);
    /// What to beware of in a kind: sentences, most often none.
    [[nodiscard]] QStringList findingsOf(Material material) const;

signals:
    void changed();

private:
    std::optional<Problem> bring(
        nlohmann::ordered_json& texture, const std::filesystem::path& folder, bool isBeside) const;
    std::optional<QString> take(const nlohmann::ordered_json& next, const QString& thing);
    [[nodiscard]] Outcome<BlockSet> read(const nlohmann::ordered_json& document) const;

    DocumentHistory m_history;
    BlockSet m_set;
};

/// Counts the voxels of each kind, in the background.
class KindCounter : public BackgroundTask {
    Q_OBJECT
public:
    using BackgroundTask::BackgroundTask;
    void start(ResidentVoxels residents, std::size_t kinds);
    [[nodiscard]] const std::vector<std::uint64_t>& counts() const { return m_counts; }

private:
    std::vector<std::uint64_t> m_counts;
};

/// The same world of another block set: recipe and changes go by the names of kinds. Errors: a name that the recipe
/// wants is gone. What was changed to a kind that is gone is open air.
struct OtherBlocks {
    std::shared_ptr<const Terrain> terrain;
    std::shared_ptr<WorldChanges> changes;
    std::uint64_t lost = 0; // voxels that were built of kinds that are gone
    std::vector<std::string> gone; // those kinds
};
/// The terrain alone, which is all that another colour needs. Cost: reading the recipe; voxels are not copied.
Outcome<std::shared_ptr<const Terrain>> terrainWith(const Terrain& terrain, const BlockSet& blocks);
Outcome<OtherBlocks> withBlocks(const Terrain& terrain, const WorldChanges& changes, const BlockSet& blocks);

} // namespace fell::app
