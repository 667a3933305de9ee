// SPDX-License-Identifier: GPL-3.0-or-later
// The plan next to the field: the chunks from above and from the south, the life of one of them, and where its mesh
// lies.
#pragma once

#include <fell/app/models/chunk_story.h>
#include <fell/app/models/world_session.h>
#include <fell/app/render/frame_request.h>
#include <fell/app/views/arena_canvas.h>
#include <fell/app/views/plan_canvas.h>

#include <QCheckBox>
#include <QLabel>
#include <QPushButton>
#include <QTimer>

class QComboBox;

namespace fell::app {

class FieldView;

class PlanPanel : public QWidget {
    Q_OBJECT
public:
    PlanPanel(WorldSession& session, FieldView& field, QWidget* parent = nullptr);

    /// Shows the life of one chunk until another is chosen; nothing: of the chunk under the pointer or the viewer's.
    void choose(std::optional<ChunkPos> chunk);
    [[nodiscard]] const ChunkStory& story() const { return m_story; }
    [[nodiscard]] PlanCanvas& above() { return *m_above; }
    [[nodiscard]] PlanCanvas& side() { return *m_side; }
    /// Lists the routes to choose from again.
    void listRoutes();
    [[nodiscard]] ArenaCanvas& arena() { return *m_arena; }

signals:
    void recordingWanted();
    void routeKept(); // "Save route…" was pressed

private:
    QWidget* buildKey();
    QWidget* buildRouteRow();
    void placeRoute(PlanLook& look, const PlanCanvas* canvas, ChunkPos viewer) const;
    QWidget* buildCard();
    void refresh();
    void showFound();
    void tell(ChunkPos chunk, const Found& found);
    [[nodiscard]] ChunkPos shownChunk() const;

    WorldSession& m_session;
    FieldView& m_field;
    PlanCanvas *m_above, *m_side;
    ArenaCanvas* m_arena = nullptr;
    QComboBox* m_route = nullptr;
    class QPushButton *m_undoRoute = nullptr, *m_saveRoute = nullptr;
    QCheckBox *m_numbers = nullptr, *m_octree = nullptr;
    QLabel *m_title = nullptr, *m_why = nullptr, *m_figures = nullptr, *m_life = nullptr, *m_arenaText = nullptr;
    std::optional<ChunkPos> m_chosen;
    ChunkStory m_story;
    QTimer m_timer;
};

} // namespace fell::app
