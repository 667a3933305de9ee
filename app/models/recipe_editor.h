// SPDX-License-Identifier: GPL-3.0-or-later
// A recipe while it is changed: its document with undo, and its map, section and costs, made on a separate thread.
#pragma once

#include <fell/app/models/document_history.h>
#include <fell/measure/recipe_trial.h>
#include <fell/terrain/recipe_map.h>

#include <QElapsedTimer>
#include <QObject>
#include <QString>

#include <condition_variable>
#include <mutex>
#include <optional>
#include <thread>

namespace fell::app {

/// What the map and the section show.
struct RecipePreview {
    TerrainMap map;
    TerrainSection section;
    std::vector<TerrainMap> seeds; // nine, on request: this seed and the next ones
    double ms = 0; // from the change until it was there
};

class RecipeEditor : public QObject {
    Q_OBJECT
public:
    static constexpr int kSheet = 9; // seeds of the contact sheet

    explicit RecipeEditor(QObject* parent = nullptr);
    ~RecipeEditor() override;

    /// Begins with a world's recipe; what was not kept of another is gone. A pattern has no layers to change.
    void begin(const Recipe& recipe);
    [[nodiscard]] const RecipeDocument& document() const { return m_history.current(); }
    [[nodiscard]] const Recipe& recipe() const { return *m_recipe; } // as it was read last
    [[nodiscard]] bool isPattern() const { return m_recipe && m_recipe->pattern.has_value(); }
    [[nodiscard]] bool isChanged() const { return m_history.isChanged(); } // since it was begun or kept
    /// Takes another document; the reader's sentence and no change if it is no recipe. Changes of the same thing within
    /// a second, e.g. one slider's, are one step of undo.
    std::optional<QString> change(const RecipeDocument& next, const QString& thing = {});
    [[nodiscard]] std::uint64_t seed() const { return m_recipe->seed; }
    void setSeed(std::uint64_t seed);
    [[nodiscard]] bool canUndo() const { return m_history.canUndo(); }
    [[nodiscard]] bool canRedo() const { return m_history.canRedo(); }
    void undo();
    void redo();
    /// Writes it; then it is unchanged. Errors: cannot be written.
    std::optional<Problem> save(const std::filesystem::path& file);

    /// What is to be seen. Each makes a new preview; the newest wins.
    void look(const MapSpec& map, const SectionSpec& section, bool seeds);
    [[nodiscard]] const MapSpec& mapSpec() const { return m_map; }
    [[nodiscard]] const SectionSpec& sectionSpec() const { return m_section; }
    [[nodiscard]] const RecipePreview& preview() const { return m_preview; }
    /// Of the recipe as it is, or nothing while they are worked out.
    [[nodiscard]] const std::optional<RecipeCosts>& costs() const { return m_costs; }

signals:
    void changed(); // the document
    void previewed();
    void costed();

private:
    struct Request {
        std::shared_ptr<const Recipe> recipe;
        RecipeDocument document;
        MapSpec map;
        SectionSpec section;
        bool seeds = false;
        QElapsedTimer since;
        bool isHurried = false; // another one came just before: half as fine first
    };
    void ask();
    void readAgain();
    void work(const std::stop_token& stop);
    void show(RecipePreview made);
    void cost(const Request& of, const std::stop_token& stop);
    [[nodiscard]] Outcome<Recipe> read(const RecipeDocument& document) const;

    DocumentHistory m_history;
    std::shared_ptr<const Recipe> m_recipe;
    MapSpec m_map;
    SectionSpec m_section;
    bool m_seeds = false;
    RecipePreview m_preview;
    std::optional<RecipeCosts> m_costs;

    std::mutex m_mutex; // of what follows
    std::condition_variable_any m_wake;
    std::optional<Request> m_request; // the newest
    std::stop_source m_newer; // stops what it makes void
    QElapsedTimer m_lastAsked;
    std::shared_ptr<const Recipe> m_costed; // the worker's: whose costs are known
    std::jthread m_thread; // last: ends first
};

} // namespace fell::app
