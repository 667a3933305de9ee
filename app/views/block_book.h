// SPDX-License-Identifier: GPL-3.0-or-later
// The block book: every kind of block of the world, how it looks, what it does to light, and how much of it is there.
#pragma once

#include <fell/app/models/block_editor.h>
#include <fell/app/models/row_list.h>
#include <fell/app/models/world_session.h>
#include <fell/app/views/block_cube.h>

#include <QTimer>
#include <QWidget>

class QLabel;
class QLayout;
class QListView;
class QPushButton;
class QScrollArea;
class QSlider;
class QVBoxLayout;

namespace fell::app {

class BlockBook : public QWidget {
    Q_OBJECT
public:
    explicit BlockBook(WorldSession& session, QWidget* parent = nullptr);

    /// Takes the world's set if it is another than the one that is changed here, and counts again.
    void follow();
    [[nodiscard]] BlockEditor& editor() { return m_editor; }
    void select(Material material);
    [[nodiscard]] Material selected() const { return m_selected; }
    bool save(const QString& file);
    void refreshTheme();

signals:
    void trouble(const QString& sentence);
    void note(const QString& sentence);
    /// The field should show this world, with these changes, from where the eye is.
    void worldWanted(std::shared_ptr<const fell::terrain::Terrain> terrain,
        const std::shared_ptr<fell::save::WorldChanges>& changes);
    /// The field should show this world, which differs from the one that is there in colours and pictures alone.
    void lookWanted(std::shared_ptr<const fell::terrain::Terrain> terrain);
    /// The field should show this world, whose blocks light or stand otherwise than those that are there.
    void kindsWanted(std::shared_ptr<const fell::terrain::Terrain> terrain);

private:
    QWidget* buildList();
    QLayout* buildTools(QWidget* card);
    QWidget* buildKind();
    QWidget* buildCube();
    void refresh();
    void refreshCounts();
    void countAnew();
    void rebuildKind();
    void addColours(QVBoxLayout* column, const BlockKind& kind);
    void addTextures(QVBoxLayout* column, const BlockKind& kind);
    void addMatter(QVBoxLayout* column, const BlockKind& kind);
    void addLight(QVBoxLayout* column, const BlockKind& kind);
    void change(const std::string& pointer, const nlohmann::json& value);
    void changeLevel(const char* key, std::size_t channel, int level);
    void showInField();
    bool mayLose(const OtherBlocks& other);
    void showSoon();
    void showLook();
    void showKinds();
    [[nodiscard]] std::shared_ptr<const Terrain> withEditedBlocks();
    void sayEffect();

    WorldSession& m_session;
    BlockEditor m_editor;
    KindCounter m_counter;
    Material m_selected = 1;
    std::shared_ptr<const Terrain> m_shown; // the world that the set was taken from, or made
    bool m_isFilling = false;
    QTimer m_recount, m_lookSoon, m_kindsSoon;
    bool m_isMadeAnew = false; // the world or its meshes, until what that took has been said
    QString m_took; // to rebuild them
    std::array<std::uint64_t, 3> m_counted{}; // what the streamer had done by then

    RowList m_rows; // keys: materials
    QListView* m_list = nullptr;
    BlockCube* m_cube = nullptr;
    QLabel *m_title = nullptr, *m_name = nullptr, *m_count = nullptr, *m_findings = nullptr, *m_effect = nullptr;
    QScrollArea* m_form = nullptr;
    QSlider* m_sun = nullptr;
    QPushButton *m_undo = nullptr, *m_redo = nullptr;
};

} // namespace fell::app
