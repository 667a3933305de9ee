// SPDX-License-Identifier: GPL-3.0-or-later
// The recipe of the world: its layers with what they cost, the numbers of one, a map and a section that follow.
#pragma once

#include <fell/app/models/recipe_editor.h>
#include <fell/app/models/row_list.h>
#include <fell/app/models/world_session.h>
#include <fell/app/views/map_canvas.h>

#include <QTimer>
#include <QWidget>

class QCheckBox;
class QComboBox;
class QLabel;
class QLayout;
class QLineEdit;
class QListView;
class QPushButton;
class QScrollArea;
class QToolButton;
class QVBoxLayout;

namespace fell::app {

class RecipeView : public QWidget {
    Q_OBJECT
public:
    explicit RecipeView(WorldSession& session, QWidget* parent = nullptr);

    /// Takes the world's recipe if it is another than the one that is changed here.
    void follow();
    [[nodiscard]] RecipeEditor& editor() { return m_editor; }
    [[nodiscard]] MapCanvas& map() { return *m_map; }
    void select(const QString& pointer);
    [[nodiscard]] const QString& selected() const { return m_selected; }
    void undo() { m_editor.undo(); }
    void redo() { m_editor.redo(); }
    bool save(const QString& file);
    void refreshTheme();

signals:
    void trouble(const QString& sentence);
    void note(const QString& sentence);
    /// The field should show this world from where the eye is.
    void worldWanted(std::shared_ptr<const fell::terrain::Terrain> terrain);

private:
    QWidget* buildLayers();
    void buildList(QWidget* card);
    QLayout* buildHead(QWidget* card); // name and seed
    QLayout* buildTools(QWidget* card); // what is done with a layer
    QLayout* buildFile(QWidget* card); // undo, redo, save
    QWidget* buildNumbers();
    QWidget* buildMap();
    QWidget* buildSection();
    void refresh();
    void refreshCosts();
    void rebuildNumbers();
    void addNumber(QVBoxLayout* column, const LayerNumber& number);
    void addMaterial(QVBoxLayout* column, const LayerMaterial& material);
    void addKind(QVBoxLayout* column, const std::string& pointer);
    void addCurve(QVBoxLayout* column, const std::string& pointer);
    void addWarp(QVBoxLayout* column, const std::string& pointer);
    void fillAddMenu();
    /// Applies a change, and says what is wrong with it.
    void change(const RecipeDocument& next, const QString& thing = {});
    void changeTo(const std::pair<RecipeDocument, std::string>& next);
    void showInField();

    WorldSession& m_session;
    RecipeEditor m_editor;
    QString m_selected; // the pointer of a layer
    std::shared_ptr<const Terrain> m_shown; // the world that the recipe was taken from, or made
    std::vector<RecipeLayer> m_layers;
    bool m_isFilling = false;
    QTimer m_later; // the field follows a moment behind

    RowList m_rows; // keys: JSON pointers of layers
    QListView* m_list = nullptr;
    MapCanvas* m_map = nullptr;
    SectionCanvas* m_section = nullptr;
    QLabel *m_title = nullptr, *m_sum = nullptr, *m_time = nullptr, *m_empty = nullptr, *m_numbersTitle = nullptr;
    QLineEdit *m_seed = nullptr, *m_name = nullptr;
    QPushButton *m_undoButton = nullptr, *m_redoButton = nullptr, *m_apply = nullptr;
    QToolButton *m_up = nullptr, *m_down = nullptr, *m_twice = nullptr, *m_remove = nullptr, *m_add = nullptr,
                *m_sheet = nullptr;
    QCheckBox* m_follow = nullptr;
    QComboBox* m_across = nullptr;
    QScrollArea* m_numbers = nullptr;
};

} // namespace fell::app
