// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/cards.h>
#include <fell/app/views/recipe_view.h>

#include <nlohmann/json.hpp>

#include <fell/app/models/text.h>
#include <fell/app/views/curve_canvas.h>
#include <fell/app/views/layer_delegate.h>
#include <fell/app/views/row_delegate.h>

#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListView>
#include <QMenu>
#include <QPushButton>
#include <QScopedValueRollback>
#include <QScrollArea>
#include <QScrollBar>
#include <QToolButton>
#include <QVBoxLayout>

#include <cmath>

namespace fell::app {
namespace {

constexpr int kFollowMs = 400;

QString groupTitle(const std::string& group)
{
    return group == "ground"   ? QObject::tr("Height of the ground")
        : group == "landforms" ? QObject::tr("Landforms, in order")
        : group == "overhangs" ? QObject::tr("Density")
        : group == "caves"     ? QObject::tr("Caves")
        : group == "water"     ? QObject::tr("Water")
        : group == "strata"    ? QObject::tr("Materials, the first that fits")
                               : QObject::tr("Scatter");
}

QString costText(const QString& layer, const LayerCost& cost)
{
    const auto percent = [](double share) { return QString::number(std::max(0.0, share) * 100, 'f', 1); };
    return cost.isKnown()
        ? QObject::tr("%1: %2 ns a column; %3 to %4 % of the whole (95 % interval)")
              .arg(layer, figureText(cost.columnNs), percent(cost.low), percent(cost.high))
        : QObject::tr("%1: less than %2 % of the whole, too little to tell from 0").arg(layer, percent(cost.high));
}

} // namespace

RecipeView::RecipeView(WorldSession& session, QWidget* parent)
    : QWidget(parent)
    , m_session(session)
{
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(10, 10, 10, 10);
    row->setSpacing(10);
    auto* left = new QVBoxLayout;
    left->setSpacing(10);
    left->addWidget(buildLayers(), 5);
    left->addWidget(buildNumbers(), 4);
    auto* right = new QVBoxLayout;
    right->setSpacing(10);
    right->addWidget(buildMap(), 5);
    right->addWidget(buildSection(), 2);
    row->addLayout(left);
    row->addLayout(right, 1);
    m_later.setSingleShot(true);
    m_later.setInterval(kFollowMs);
    connect(&m_later, &QTimer::timeout, this, &RecipeView::showInField);
    connect(&m_editor, &RecipeEditor::changed, this, [this] {
        refresh();
        if (m_follow->isChecked() && m_editor.isChanged())
            m_later.start();
    });
    connect(&m_editor, &RecipeEditor::costed, this, &RecipeView::refreshCosts);
    connect(&m_editor, &RecipeEditor::previewed, this, [this] {
        const RecipePreview& preview = m_editor.preview();
        m_time->setText(tr("ground %1 to %2 m · %3 ms")
                            .arg(std::lround(preview.map.min))
                            .arg(std::lround(preview.map.max))
                            .arg(std::lround(preview.ms)));
    });
}

/// The list of layers: chosen, and switched on and off.
void RecipeView::buildList(QWidget* card)
{
    m_list = newListView("recipeLayers", tr("Layers"), m_rows, new LayerDelegate, card);
    m_list->setToolTip(tr("The layers in the order in which they are worked out. The box switches one off: its cost is "
                          "gone, and all others look as before."));
    connect(m_list->selectionModel(), &QItemSelectionModel::currentChanged, this, [this](const QModelIndex& row) {
        if (m_isFilling || !row.isValid())
            return;
        m_selected = row.data(RowList::Key).toString();
        rebuildNumbers();
    });
    connect(&m_rows, &RowList::switched, this, [this](const QString& pointer, bool isOn) {
        m_selected = pointer;
        // Later: the rows change, and the list is still in its click.
        QMetaObject::invokeMethod(
            this, [this, pointer, isOn] { change(withLayerOff(m_editor.document(), pointer.toStdString(), !isOn)); },
            Qt::QueuedConnection);
    });
}

QLayout* RecipeView::buildHead(QWidget* card)
{
    auto* head = new QHBoxLayout;
    m_title = new QLabel(card);
    head->addWidget(m_title, 1);
    head->addWidget(mutedLabel(tr("seed"), card));
    m_seed = new QLineEdit(card);
    m_seed->setObjectName(QStringLiteral("recipeSeed"));
    m_seed->setAccessibleName(tr("Seed"));
    m_seed->setFixedWidth(84);
    m_seed->setToolTip(tr("Changes all noise and all scatter. No extra cost."));
    connect(m_seed, &QLineEdit::editingFinished, this, [this] {
        bool isNumber = false;
        const qulonglong seed = m_seed->text().trimmed().toULongLong(&isNumber);
        if (isNumber)
            m_editor.setSeed(seed);
        else
            emit trouble(
                tr("“%1” is no seed: a whole number from 0 to 18446744073709551615 is expected").arg(m_seed->text()));
        m_seed->setText(QString::number(m_editor.seed()));
    });
    auto* before = slimButton(QStringLiteral("‹"), "seedBefore", tr("The seed before."), card);
    auto* after = slimButton(QStringLiteral("›"), "seedAfter", tr("The next seed."), card);
    connect(before, &QToolButton::clicked, this, [this] { m_editor.setSeed(m_editor.seed() - 1); });
    connect(after, &QToolButton::clicked, this, [this] { m_editor.setSeed(m_editor.seed() + 1); });
    head->addWidget(before);
    head->addWidget(m_seed);
    head->addWidget(after);
    return head;
}

QLayout* RecipeView::buildTools(QWidget* card)
{
    auto* tools = new QHBoxLayout;
    tools->setSpacing(4);
    m_up = slimButton(tr("Up"), "layerUp", tr("Computes the layer earlier."), card);
    m_down = slimButton(tr("Down"), "layerDown", tr("Computes the layer later."), card);
    m_twice = slimButton(
        tr("Duplicate"), "layerTwice", tr("Duplicates the layer with different noise. Doubles its cost."), card);
    m_remove = slimButton(tr("Remove"), "layerRemove", tr("Deletes the layer. Undo restores it."), card);
    m_add = slimButton(tr("Add …"), "layerAdd", tr("Adds a layer. Its cost is shown next to it a moment later."), card);
    m_add->setPopupMode(QToolButton::InstantPopup);
    connect(m_up, &QToolButton::clicked, this,
        [this] { changeTo(withLayerMoved(m_editor.document(), m_selected.toStdString(), -1)); });
    connect(m_down, &QToolButton::clicked, this,
        [this] { changeTo(withLayerMoved(m_editor.document(), m_selected.toStdString(), 1)); });
    connect(m_twice, &QToolButton::clicked, this,
        [this] { changeTo(withLayerTwice(m_editor.document(), m_selected.toStdString())); });
    connect(m_remove, &QToolButton::clicked, this, [this] {
        const RecipeDocument rest = withoutLayer(m_editor.document(), m_selected.toStdString());
        m_selected.clear();
        change(rest);
    });
    for (QToolButton* button : {m_add, m_twice, m_remove, m_up, m_down}) {
        button->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
        tools->addWidget(button, 1);
    }
    return tools;
}

QLayout* RecipeView::buildFile(QWidget* card)
{
    auto* last = new QHBoxLayout;
    m_undoButton = new QPushButton(tr("Undo"), card);
    m_undoButton->setObjectName(QStringLiteral("recipeUndo"));
    m_redoButton = new QPushButton(tr("Redo"), card);
    m_redoButton->setObjectName(QStringLiteral("recipeRedo"));
    auto* saveButton = new QPushButton(tr("Save…"), card);
    saveButton->setObjectName(QStringLiteral("recipeSave"));
    saveButton->setToolTip(tr("As a recipe file, which opens again as a world."));
    connect(m_undoButton, &QPushButton::clicked, &m_editor, &RecipeEditor::undo);
    connect(m_redoButton, &QPushButton::clicked, &m_editor, &RecipeEditor::redo);
    connect(saveButton, &QPushButton::clicked, this, [this] {
        const QString file = QFileDialog::getSaveFileName(this, tr("Save recipe"),
            QString::fromStdString(m_editor.recipe().name).toLower().replace(QLatin1Char(' '), QLatin1Char('-'))
                + QStringLiteral(".json"),
            tr("Recipe (*.json)"));
        if (!file.isEmpty())
            save(file);
    });
    last->addWidget(m_undoButton);
    last->addWidget(m_redoButton);
    last->addWidget(saveButton);
    return last;
}

QWidget* RecipeView::buildLayers()
{
    QFrame* card = newCard(this);
    card->setFixedWidth(340);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(12, 10, 12, 10);
    column->setSpacing(6);
    column->addLayout(buildHead(card));
    m_sum = mutedLabel({}, card);
    m_sum->setToolTip(
        tr("The time of generating a column of voxels, ground to treetops, on one thread; a share is what "
           "is saved by leaving the layer out."));
    column->addWidget(m_sum);
    buildList(card);
    column->addWidget(m_list, 1);
    column->addLayout(buildTools(card));
    column->addLayout(buildFile(card));
    auto* field = new QHBoxLayout;
    m_apply = new QPushButton(tr("Show in the field"), card);
    m_apply->setObjectName(QStringLiteral("recipeApply"));
    m_apply->setProperty("primary", true);
    m_apply->setToolTip(tr("Regenerates the world from this recipe. The camera stays where it is."));
    connect(m_apply, &QPushButton::clicked, this, &RecipeView::showInField);
    m_follow = new QCheckBox(tr("after each change"), card);
    m_follow->setObjectName(QStringLiteral("recipeFollow"));
    m_follow->setToolTip(tr("Regenerates the whole world after each change."));
    field->addWidget(m_apply, 1);
    field->addWidget(m_follow);
    column->addLayout(field);
    return card;
}

QWidget* RecipeView::buildNumbers()
{
    QFrame* card = newCard(this);
    card->setFixedWidth(340);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(12, 10, 6, 8);
    column->setSpacing(4);
    m_numbersTitle = new QLabel(card);
    column->addWidget(m_numbersTitle);
    m_numbers = new QScrollArea(card);
    m_numbers->setObjectName(QStringLiteral("numbersScroll"));
    m_numbers->setFrameShape(QFrame::NoFrame);
    m_numbers->setWidgetResizable(true);
    m_numbers->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    column->addWidget(m_numbers, 1);
    return card;
}

QWidget* RecipeView::buildMap()
{
    QFrame* card = newCard(this);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(10, 8, 10, 10);
    auto* head = new QHBoxLayout;
    auto* group = new QButtonGroup(card);
    for (const MapLookChoice& choice : mapLooks()) {
        auto* button = slimButton(QString::fromUtf8(choice.title), (std::string("look=") + choice.id).c_str(),
            QString::fromUtf8(choice.note), card);
        button->setProperty("slim", false);
        button->setProperty("view", true);
        button->setCheckable(true);
        button->setChecked(choice.look == MapLook::Relief);
        group->addButton(button);
        connect(button, &QToolButton::clicked, this, [this, look = choice.look] { m_map->setLook(look); });
        head->addWidget(button);
    }
    m_sheet = slimButton(
        tr("Nine seeds"), "nineSeeds", tr("Shows this seed and the next eight. Click one to use it."), card);
    m_sheet->setProperty("slim", false);
    m_sheet->setProperty("view", true);
    m_sheet->setCheckable(true);
    connect(m_sheet, &QToolButton::toggled, this, [this](bool on) { m_map->showSeeds(on); });
    head->addSpacing(14);
    head->addWidget(m_sheet);
    head->addStretch(1);
    m_time = mutedLabel({}, card);
    m_time->setObjectName(QStringLiteral("recipeTime"));
    m_time->setToolTip(tr("From the change until map and section were there."));
    head->addWidget(m_time);
    m_across = new QComboBox(card);
    m_across->setObjectName(QStringLiteral("recipeAcross"));
    m_across->setToolTip(tr("How much of the ground the map shows; the wheel does the same."));
    for (const int metres : {256, 512, 1024, 2048, 4096, 8192, 16384})
        m_across->addItem(metres < 1000 ? tr("%1 m").arg(metres) : tr("%1 km").arg(metres / 1024), metres);
    m_across->setCurrentIndex(3);
    connect(m_across, &QComboBox::activated, this, [this] { m_map->setAcross(m_across->currentData().toDouble()); });
    head->addWidget(m_across);
    column->addLayout(head);
    m_map = new MapCanvas(m_editor, card);
    connect(m_map, &MapCanvas::seedChosen, this, [this](std::uint64_t seed) {
        m_sheet->setChecked(false);
        m_editor.setSeed(seed);
    });
    column->addWidget(m_map, 1);
    m_empty
        = new QLabel(tr("This world is a pattern to measure with: it has no layers. Open Corrowdale, or a recipe with "
                        "a height, to work on its ground."),
            card);
    m_empty->setWordWrap(true);
    m_empty->setAlignment(Qt::AlignCenter);
    column->addWidget(m_empty, 1);
    return card;
}

QWidget* RecipeView::buildSection()
{
    QFrame* card = newCard(this);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(10, 8, 10, 10);
    auto* head = new QHBoxLayout;
    head->addWidget(new QLabel(tr("<b>Section along the line</b>"), card));
    head->addStretch(1);
    head->addWidget(mutedLabel(tr("materials, caves and the water level; from the left end of the line"), card));
    column->addLayout(head);
    m_section = new SectionCanvas(m_editor, card);
    column->addWidget(m_section, 1);
    return card;
}

void RecipeView::follow()
{
    if (m_shown != m_session.sharedTerrain()) {
        m_shown = m_session.sharedTerrain();
        m_selected.clear();
        m_editor.begin(m_shown->recipe);
        fillAddMenu();
    }
    m_map->ask();
}

void RecipeView::refresh()
{
    const QScopedValueRollback filling(m_isFilling, true);
    m_layers = layersOf(m_editor.document());
    m_title->setText(tr("<b>%1</b>%2")
                         .arg(QString::fromStdString(m_editor.recipe().name).toHtmlEscaped(),
                             m_editor.isChanged() ? tr(" · changed") : QString()));
    m_seed->setText(QString::number(m_editor.seed()));
    m_undoButton->setEnabled(m_editor.canUndo());
    m_redoButton->setEnabled(m_editor.canRedo());
    const bool isPattern = m_editor.isPattern();
    m_map->setVisible(!isPattern);
    m_empty->setVisible(isPattern);
    m_add->setEnabled(!isPattern);
    refreshCosts();
    rebuildNumbers();
}

void RecipeView::refreshCosts()
{
    const QScopedValueRollback filling(m_isFilling, true);
    const auto& costs = m_editor.costs();
    m_sum->setText(m_editor.isPattern() ? QString()
            : costs
            ? tr("%1 layers · %2 µs a column of voxels").arg(m_layers.size()).arg(figureText(costs->columnNs / 1000))
            : tr("%1 layers · measuring what each costs …").arg(m_layers.size()));
    std::vector<ListRow> rows;
    std::string group;
    for (std::size_t at = 0; at < m_layers.size(); ++at) {
        const RecipeLayer& layer = m_layers[at];
        if (layer.group != group) {
            group = layer.group;
            rows.emplace_back().text = groupTitle(group);
        }
        ListRow& row = rows.emplace_back();
        row.key = QString::fromStdString(layer.pointer);
        row.text = row.toolTip = QString::fromStdString(layer.title);
        row.detail = QString::fromStdString(layer.title == layer.what ? layer.group : layer.what);
        row.isOn = !layer.isOff;
        if (!costs || at >= costs->layers.size() || layer.isOff)
            continue;
        const LayerCost& cost = costs->layers[at];
        row.share = cost.share;
        if (!cost.isKnown())
            row.maxShare = cost.high;
        row.toolTip = costText(row.text, cost);
    }
    m_rows.set(std::move(rows));
    makeCurrent(*m_list, m_selected);
}

void RecipeView::fillAddMenu()
{
    auto* menu = new QMenu(m_add);
    const auto& kinds = m_editor.recipe().blocks.kinds;
    const std::string material = kinds.size() > 1 ? kinds[1].name : "";
    for (const LayerTemplate& one : layerTemplates())
        menu->addAction(tr(one.title), this, [this, &one, material] {
            const std::string list = one.list;
            const bool isOnce = list == "/overhangs" || list == "/caves" || list == "/water";
            if (isOnce && m_editor.document().contains(list.substr(1)))
                return emit trouble(
                    tr("There is one already: %1. Change its numbers, or switch it on.").arg(tr(one.title)));
            changeTo(withLayerAdded(m_editor.document(), one, material));
        });
    delete m_add->menu();
    m_add->setMenu(menu);
}

void RecipeView::select(const QString& pointer)
{
    m_selected = pointer;
    makeCurrent(*m_list, pointer);
    rebuildNumbers();
}

void RecipeView::change(const RecipeDocument& next, const QString& thing)
{
    if (const auto wrong = m_editor.change(next, thing)) {
        emit trouble(*wrong);
        QMetaObject::invokeMethod(this, &RecipeView::refresh, Qt::QueuedConnection); // not inside the control's signal
    }
}

void RecipeView::changeTo(const std::pair<RecipeDocument, std::string>& next)
{
    m_selected = QString::fromStdString(next.second);
    change(next.first);
}

void RecipeView::showInField()
{
    m_shown = makeTerrain(m_editor.recipe());
    emit worldWanted(m_shown);
    if (m_session.sharedTerrain() != m_shown) // it was refused: what is here stays, and is not taken for the world's
        m_shown = m_session.sharedTerrain();
}

bool RecipeView::save(const QString& file)
{
    if (const auto problem = m_editor.save(file.toStdString())) {
        emit trouble(QString::fromStdString(sentence(*problem)));
        return false;
    }
    emit note(tr("Saved %1").arg(file));
    return true;
}

void RecipeView::refreshTheme()
{
    if (m_shown)
        refresh();
    m_map->update();
    m_section->update();
}

} // namespace fell::app

#include "moc_recipe_view.cpp"
