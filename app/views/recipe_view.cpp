// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/recipe_view.h"
#include "views/cards.h"

#include <nlohmann/json.hpp>

#include "models/text.h"
#include "views/curve_canvas.h"
#include "views/theme.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QSlider>
#include <QStyledItemDelegate>
#include <QToolButton>
#include <QVBoxLayout>

#include <cmath>
#include <map>

namespace fell {
namespace {

constexpr int kPointerRole = Qt::UserRole, kWhatRole = Qt::UserRole + 1, kShareRole = Qt::UserRole + 2,
              kMostRole = Qt::UserRole + 3; // the most that a cost can be that was not told apart from 0
constexpr int kLayerHigh = 40, kGroupHigh = 24, kCheckWide = 30, kBarWide = 54, kShareWide = 54;
constexpr int kFollowMs = 400;

QString groupTitle(const std::string& group)
{
    return group == "ground"   ? QObject::tr("Height of the ground")
        : group == "landforms" ? QObject::tr("Landforms, in order")
        : group == "overhangs" ? QObject::tr("Density")
        : group == "caves"     ? QObject::tr("Caves")
        : group == "water"     ? QObject::tr("Water")
        : group == "strata"    ? QObject::tr("Materials, the first that fits")
                               : QObject::tr("What stands about");
}

QString costText(const QString& layer, const LayerCost& cost)
{
    const auto percent = [](double share) { return QString::number(std::max(0.0, share) * 100, 'f', 1); };
    return cost.isKnown()
        ? QObject::tr("%1: %2 ns a column; %3 to %4 % of the whole (95 % interval)")
              .arg(layer, figureText(cost.columnNs), percent(cost.low), percent(cost.high))
        : QObject::tr("%1: less than %2 % of the whole, too little to tell from 0").arg(layer, percent(cost.high));
}

/// A layer as a plate: on or off, its name, what it is, its share of the cost.
class LayerDelegate : public QStyledItemDelegate {
public:
    using QStyledItemDelegate::QStyledItemDelegate;

    QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override
    {
        return {option.rect.width(), index.data(kPointerRole).toString().isEmpty() ? kGroupHigh : kLayerHigh};
    }

    void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override
    {
        const Theme& theme = currentTheme();
        const QRect at = option.rect;
        painter->save();
        painter->setRenderHint(QPainter::Antialiasing);
        if (index.data(kPointerRole).toString().isEmpty()) {
            painter->setFont(uiFont(11, true));
            painter->setPen(theme.muted);
            painter->drawText(at.adjusted(4, 4, 0, 0), Qt::AlignVCenter, index.data().toString());
            painter->restore();
            return;
        }
        const QRectF plate = QRectF(at).adjusted(1, 1.5, -1, -1.5);
        const bool isSelected = option.state & QStyle::State_Selected;
        painter->setPen(QPen(isSelected ? theme.selection : theme.line, isSelected ? 1.6 : 1));
        painter->setBrush(theme.panel);
        painter->drawRoundedRect(plate, 4, 4);
        const bool isOn = index.data(Qt::CheckStateRole).toInt() == Qt::Checked;
        const QRectF box(plate.left() + 9, plate.center().y() - 6.5, 13, 13);
        painter->setPen(QPen(theme.muted, 1.2));
        painter->drawRoundedRect(box, 2.5, 2.5);
        if (isOn) {
            painter->setPen(QPen(theme.ink, 1.8));
            painter->drawPolyline(QPolygonF{
                box.topLeft() + QPointF(3, 7), box.topLeft() + QPointF(5.5, 9.5), box.topLeft() + QPointF(10, 3.5)});
        }
        painter->setOpacity(isOn ? 1 : 0.5);
        const double right = plate.right() - kShareWide - kBarWide - 8;
        const QRectF words(
            plate.left() + kCheckWide, plate.top(), right - plate.left() - kCheckWide - 6, plate.height());
        painter->setFont(uiFont(12, true));
        painter->setPen(theme.ink);
        painter->drawText(words.adjusted(0, 3, 0, -plate.height() / 2 + 2), Qt::AlignVCenter,
            painter->fontMetrics().elidedText(
                index.data().toString(), Qt::ElideRight, static_cast<int>(words.width())));
        painter->setFont(uiFont(11));
        painter->setPen(theme.muted);
        painter->drawText(words.adjusted(0, plate.height() / 2 - 1, 0, -2), Qt::AlignVCenter,
            painter->fontMetrics().elidedText(
                index.data(kWhatRole).toString(), Qt::ElideRight, static_cast<int>(words.width())));
        const QVariant share = index.data(kShareRole), most = index.data(kMostRole);
        const QRectF bar(right, plate.center().y() - 3, kBarWide, 6);
        painter->setPen(Qt::NoPen);
        painter->setBrush(theme.track);
        painter->drawRoundedRect(bar, 3, 3);
        if (share.isValid() && !most.isValid()) {
            painter->setBrush(theme.muted);
            painter->drawRoundedRect(
                QRectF(bar.left(), bar.top(), std::max(2.0, bar.width() * std::min(1.0, share.toDouble())), 6), 3, 3);
        }
        painter->setFont(uiFont(12));
        painter->setPen(most.isValid() ? theme.muted : theme.ink);
        const QString text = most.isValid() ? QStringLiteral("< %1 %").arg(
                                 std::max(0.1, most.toDouble() * 100), 0, 'f', most.toDouble() < 0.0995 ? 1 : 0)
            : share.isValid()
            ? QStringLiteral("%1 %").arg(share.toDouble() * 100, 0, 'f', share.toDouble() < 0.0995 ? 1 : 0)
            : isOn ? QStringLiteral("…")
                   : QStringLiteral("off");
        painter->drawText(QRectF(bar.right() + 4, plate.top(), kShareWide - 6, plate.height()),
            Qt::AlignRight | Qt::AlignVCenter, text);
        painter->restore();
    }

    bool editorEvent(
        QEvent* event, QAbstractItemModel* model, const QStyleOptionViewItem& option, const QModelIndex& index) override
    {
        if (event->type() != QEvent::MouseButtonRelease || !(index.flags() & Qt::ItemIsUserCheckable)
            || static_cast<QMouseEvent*>(event)->position().x() > option.rect.left() + kCheckWide)
            return false;
        return model->setData(index,
            index.data(Qt::CheckStateRole).toInt() == Qt::Checked ? Qt::Unchecked : Qt::Checked, Qt::CheckStateRole);
    }
};

QToolButton* smallButton(const QString& text, const char* name, const QString& tip, QWidget* parent)
{
    auto* button = new QToolButton(parent);
    button->setText(text);
    button->setObjectName(QLatin1String(name));
    button->setToolTip(tip);
    button->setProperty("slim", true);
    return button;
}

QLabel* mutedLabel(const QString& text, QWidget* parent)
{
    auto* label = new QLabel(text, parent);
    label->setProperty("muted", true);
    return label;
}

/// Where a slider of a number begins and ends: round what it is now, within what is allowed.
std::pair<double, double> sliderRange(const LayerNumber& number)
{
    if (number.high - number.low <= 16)
        return {number.low, number.high};
    const double reach = std::max({std::abs(number.value) * 2, 8.0, number.low > 0 ? number.low * 4 : 0.0});
    return {std::max(number.low, number.low >= 0 ? number.low : -reach), std::min(number.high, reach)};
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
                            .arg(std::lround(preview.map.least))
                            .arg(std::lround(preview.map.most))
                            .arg(std::lround(preview.ms)));
    });
}

QWidget* RecipeView::buildLayers()
{
    QFrame* card = newCard(this);
    card->setFixedWidth(340);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(12, 10, 12, 10);
    column->setSpacing(6);
    auto* head = new QHBoxLayout;
    m_title = new QLabel(card);
    head->addWidget(m_title, 1);
    head->addWidget(mutedLabel(tr("seed"), card));
    m_seed = new QLineEdit(card);
    m_seed->setObjectName(QStringLiteral("recipeSeed"));
    m_seed->setFixedWidth(84);
    m_seed->setToolTip(tr("Every noise and everything that stands about goes by it; it costs nothing."));
    connect(m_seed, &QLineEdit::editingFinished, this, [this] {
        bool isNumber = false;
        const qulonglong seed = m_seed->text().trimmed().toULongLong(&isNumber);
        if (isNumber)
            m_editor.setSeed(seed);
        else
            emit trouble(
                tr("“%1” is no seed: a whole number from 0 to 18446744073709551615 is wanted").arg(m_seed->text()));
        m_seed->setText(QString::number(m_editor.seed()));
    });
    auto* before = smallButton(QStringLiteral("‹"), "seedBefore", tr("The seed before."), card);
    auto* after = smallButton(QStringLiteral("›"), "seedAfter", tr("The next seed."), card);
    connect(before, &QToolButton::clicked, this, [this] { m_editor.setSeed(m_editor.seed() - 1); });
    connect(after, &QToolButton::clicked, this, [this] { m_editor.setSeed(m_editor.seed() + 1); });
    head->addWidget(before);
    head->addWidget(m_seed);
    head->addWidget(after);
    column->addLayout(head);
    m_sum = mutedLabel({}, card);
    m_sum->setToolTip(
        tr("The time of generating a column of voxels, ground to treetops, on one thread; a share is what "
           "is saved by leaving the layer out."));
    column->addWidget(m_sum);
    m_list = new QListWidget(card);
    m_list->setObjectName(QStringLiteral("recipeLayers"));
    m_list->setItemDelegate(new LayerDelegate(m_list));
    m_list->setFrameShape(QFrame::NoFrame);
    m_list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_list->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    m_list->setToolTip(tr("The layers in the order in which they are worked out. The box switches one off: its cost is "
                          "gone, and all others look as before."));
    connect(m_list, &QListWidget::currentItemChanged, this, [this](QListWidgetItem* item) {
        if (m_isFilling || !item)
            return;
        m_selected = item->data(kPointerRole).toString();
        rebuildNumbers();
    });
    connect(m_list, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        if (m_isFilling)
            return;
        const std::string pointer = item->data(kPointerRole).toString().toStdString();
        m_selected = QString::fromStdString(pointer);
        const bool off = item->checkState() != Qt::Checked;
        QMetaObject::invokeMethod(
            this, [this, pointer, off] { change(withLayerOff(m_editor.document(), pointer, off)); },
            Qt::QueuedConnection);
    });
    column->addWidget(m_list, 1);
    auto* tools = new QHBoxLayout;
    tools->setSpacing(4);
    m_up = smallButton(tr("Up"), "layerUp", tr("Works it out earlier."), card);
    m_down = smallButton(tr("Down"), "layerDown", tr("Works it out later."), card);
    m_twice = smallButton(
        tr("Twice"), "layerTwice", tr("Another one like it, with noise of its own: doubles its cost."), card);
    m_remove = smallButton(tr("Remove"), "layerRemove", tr("Takes it out; undo brings it back."), card);
    m_add = smallButton(tr("Add …"), "layerAdd", tr("What a layer costs stands beside it a moment later."), card);
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
    column->addLayout(tools);
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
    column->addLayout(last);
    auto* field = new QHBoxLayout;
    m_apply = new QPushButton(tr("Show in the field"), card);
    m_apply->setObjectName(QStringLiteral("recipeApply"));
    m_apply->setProperty("primary", true);
    m_apply->setToolTip(tr("Makes the world anew from this recipe; the eye stays where it is."));
    connect(m_apply, &QPushButton::clicked, this, &RecipeView::showInField);
    m_follow = new QCheckBox(tr("after each change"), card);
    m_follow->setObjectName(QStringLiteral("recipeFollow"));
    m_follow->setToolTip(tr("The field follows a moment behind each change: the whole world is made again."));
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
        auto* button = smallButton(QString::fromUtf8(choice.title), (std::string("look=") + choice.id).c_str(),
            QString::fromUtf8(choice.note), card);
        button->setProperty("slim", false);
        button->setProperty("view", true);
        button->setCheckable(true);
        button->setChecked(choice.look == MapLook::Relief);
        group->addButton(button);
        connect(button, &QToolButton::clicked, this, [this, look = choice.look] { m_map->setLook(look); });
        head->addWidget(button);
    }
    m_sheet = smallButton(tr("Nine seeds"), "nineSeeds",
        tr("This seed and the next eight beside each other: click one to take it."), card);
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
    const int scrolled = m_list->verticalScrollBar()->value();
    m_list->clear();
    std::string group;
    for (const RecipeLayer& layer : m_layers) {
        if (layer.group != group) {
            group = layer.group;
            auto* head = new QListWidgetItem(groupTitle(group), m_list);
            head->setFlags(Qt::NoItemFlags);
        }
        auto* item = new QListWidgetItem(QString::fromStdString(layer.title), m_list);
        item->setData(kPointerRole, QString::fromStdString(layer.pointer));
        item->setData(kWhatRole, QString::fromStdString(layer.title == layer.what ? layer.group : layer.what));
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
        item->setCheckState(layer.isOff ? Qt::Unchecked : Qt::Checked);
        if (m_selected == item->data(kPointerRole).toString())
            m_list->setCurrentItem(item);
    }
    m_list->verticalScrollBar()->setValue(scrolled);
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
    std::size_t at = 0;
    for (int i = 0; i < m_list->count(); ++i) {
        QListWidgetItem* item = m_list->item(i);
        if (item->data(kPointerRole).toString().isEmpty())
            continue;
        const bool isKnown = costs && at < costs->layers.size() && item->checkState() == Qt::Checked;
        item->setData(kShareRole, isKnown ? QVariant(costs->layers[at].share) : QVariant());
        item->setData(
            kMostRole, isKnown && !costs->layers[at].isKnown() ? QVariant(costs->layers[at].high) : QVariant());
        item->setToolTip(isKnown ? costText(item->text(), costs->layers[at]) : item->text());
        ++at;
    }
    m_list->viewport()->update();
}

void RecipeView::rebuildNumbers()
{
    const auto layer = std::find_if(m_layers.begin(), m_layers.end(),
        [this](const RecipeLayer& one) { return m_selected == QString::fromStdString(one.pointer); });
    const bool isLayer = layer != m_layers.end();
    m_up->setEnabled(isLayer && layer->isListed);
    m_down->setEnabled(isLayer && layer->isListed);
    m_twice->setEnabled(isLayer && layer->isListed);
    m_remove->setEnabled(isLayer);
    // A slider that is dragged keeps its widget: only its own number changes.
    if (m_numbers->widget() && m_numbers->widget()->property("pointer").toString() == m_selected
        && m_numbers->widget()->property("busy").toBool())
        return;
    auto* all = new QWidget;
    all->setObjectName(QStringLiteral("numbersPage"));
    all->setProperty("pointer", m_selected);
    auto* column = new QVBoxLayout(all);
    column->setContentsMargins(0, 2, 6, 2);
    column->setSpacing(4);
    if (!isLayer) {
        m_numbersTitle->setText(tr("<b>The ground</b>"));
        for (const LayerNumber& number : numbersOf(m_editor.document(), ""))
            addNumber(column, number);
        auto* hint = mutedLabel(m_editor.isPattern() ? QString() : tr("Choose a layer to change its numbers."), all);
        column->addWidget(hint);
    } else {
        m_numbersTitle->setText(tr("<b>%1</b>").arg(QString::fromStdString(layer->what).toHtmlEscaped()));
        auto* name = new QLineEdit(QString::fromStdString(layer->title), all);
        name->setObjectName(QStringLiteral("layerName"));
        name->setCursorPosition(0);
        name->setToolTip(tr("What the layer is called, here and in its file."));
        connect(name, &QLineEdit::editingFinished, this, [this, name, pointer = layer->pointer, was = layer->title] {
            if (name->text().toStdString() != was)
                change(withLayerNamed(m_editor.document(), pointer, name->text().toStdString()));
        });
        column->addWidget(name);
        if (!kindsOf(layer->pointer).empty())
            addKind(column, layer->pointer);
        if (mayBeShaped(layer->pointer))
            addCurve(column, layer->pointer);
        for (const LayerMaterial& material : materialsOf(m_editor.document(), layer->pointer))
            addMaterial(column, material);
        for (const LayerNumber& number : numbersOf(m_editor.document(), layer->pointer))
            addNumber(column, number);
        if (mayBeShaped(layer->pointer))
            addWarp(column, layer->pointer);
    }
    column->addStretch(1);
    if (QWidget* before = m_numbers->takeWidget())
        before->deleteLater(); // one of its controls may be in the middle of its signal
    m_numbers->setWidget(all);
}

void RecipeView::addNumber(QVBoxLayout* column, const LayerNumber& number)
{
    constexpr int kSteps = 400;
    QWidget* all = column->parentWidget();
    auto* row = new QHBoxLayout;
    const QString title = QString::fromStdString(number.title);
    auto* label = new QLabel(title.left(1).toUpper() + title.mid(1), all);
    label->setFixedWidth(104);
    label->setToolTip(label->text());
    auto* slider = new QSlider(Qt::Horizontal, all);
    const auto [low, high] = sliderRange(number);
    slider->setRange(0, kSteps);
    slider->setObjectName(QStringLiteral("slide=") + QString::fromStdString(number.pointer));
    auto* spin = new QDoubleSpinBox(all);
    spin->setObjectName(QStringLiteral("number=") + QString::fromStdString(number.pointer));
    spin->setDecimals(number.step >= 1    ? 0
            : std::abs(number.value) < 10 ? 3
                                          : 1); // before the range, which is rounded to them
    spin->setRange(number.low, number.high);
    spin->setSingleStep(number.step > 0 ? number.step : std::max(0.01, std::abs(number.value) / 20));
    spin->setSuffix(number.unit.empty() ? QString() : QStringLiteral(" ") + QString::fromStdString(number.unit));
    spin->setKeyboardTracking(false);
    spin->setFixedWidth(92);
    spin->setValue(number.value);
    const QString tip = tr("From %1 to %2. Map and section follow at once; the cost of the layer a moment later.")
                            .arg(number.low)
                            .arg(number.high);
    spin->setToolTip(tip);
    slider->setToolTip(tip);
    const auto toSlider = [low = low, high = high](double value) {
        return static_cast<int>(std::lround((value - low) / std::max(1e-9, high - low) * kSteps));
    };
    slider->setValue(toSlider(number.value));
    const auto apply = [this, all, number](double value) {
        all->setProperty("busy", true); // what follows must not take the slider from under the pointer
        const nlohmann::json json
            = number.step >= 1 ? nlohmann::json(static_cast<std::int64_t>(std::lround(value))) : nlohmann::json(value);
        change(withValue(m_editor.document(), number.pointer, json), QString::fromStdString(number.pointer));
        all->setProperty("busy", false);
    };
    connect(slider, &QSlider::valueChanged, this, [=, low = low, high = high](int step) {
        double value = low + (high - low) * step / kSteps;
        if (number.step > 0)
            value = std::round(value / number.step) * number.step;
        value = std::clamp(value, number.low, number.high);
        const QSignalBlocker quiet(spin);
        spin->setValue(value);
        apply(spin->value());
    });
    connect(spin, &QDoubleSpinBox::valueChanged, this, [=](double value) {
        const QSignalBlocker quiet(slider);
        slider->setValue(toSlider(value));
        apply(value);
    });
    row->addWidget(label);
    row->addWidget(slider, 1);
    row->addWidget(spin);
    column->addLayout(row);
}

void RecipeView::addMaterial(QVBoxLayout* column, const LayerMaterial& material)
{
    QWidget* all = column->parentWidget();
    auto* row = new QHBoxLayout;
    const QString title = QString::fromStdString(material.title);
    auto* label = new QLabel(title.left(1).toUpper() + title.mid(1), all);
    label->setFixedWidth(104);
    auto* choice = new QComboBox(all);
    choice->setObjectName(QStringLiteral("material=") + QString::fromStdString(material.pointer));
    choice->setToolTip(tr("A kind of block of this world."));
    const auto& kinds = m_editor.recipe().blocks.kinds;
    for (std::size_t m = 1; m < kinds.size(); ++m) {
        QPixmap look(14, 14);
        look.fill(QColor(kinds[m].top.r, kinds[m].top.g, kinds[m].top.b));
        choice->addItem(QIcon(look), QString::fromStdString(kinds[m].name));
    }
    choice->setCurrentText(QString::fromStdString(material.value));
    connect(choice, &QComboBox::textActivated, this, [this, pointer = material.pointer](const QString& name) {
        change(withValue(m_editor.document(), pointer, name.toStdString()));
    });
    row->addWidget(label);
    row->addWidget(choice, 1);
    column->addLayout(row);
}

void RecipeView::addKind(QVBoxLayout* column, const std::string& pointer)
{
    static const std::map<std::string, QString> kTitles{{"noise", tr("Noise")}, {"billow", tr("Billow: folded up")},
        {"ridged", tr("Ridged: folded, upside down")}, {"least", tr("Least of two noises")},
        {"greatest", tr("Greatest of two noises")}, {"worn", tr("Worn: smoother where steep")}};
    QWidget* all = column->parentWidget();
    auto* row = new QHBoxLayout;
    auto* label = new QLabel(tr("Kind"), all);
    label->setFixedWidth(104);
    auto* choice = new QComboBox(all);
    choice->setObjectName(QStringLiteral("layerKind"));
    choice->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon); // no wider than the numbers below
    choice->setToolTip(tr("How the layer's noise is made; all else stays."));
    const std::string now = m_editor.document().at(RecipeDocument::json_pointer(pointer + "/kind")).get<std::string>();
    for (const char* kind : kindsOf(pointer)) {
        choice->addItem(kTitles.at(kind), QString::fromLatin1(kind));
        if (now == kind)
            choice->setCurrentIndex(choice->count() - 1);
    }
    connect(choice, &QComboBox::activated, this, [this, choice, pointer](int i) {
        change(withKind(m_editor.document(), pointer, choice->itemData(i).toString().toStdString()));
    });
    row->addWidget(label);
    row->addWidget(choice, 1);
    column->addLayout(row);
}

void RecipeView::addWarp(QVBoxLayout* column, const std::string& pointer)
{
    QWidget* all = column->parentWidget();
    auto* warped = new QCheckBox(tr("Warped by another noise"), all);
    warped->setObjectName(QStringLiteral("layerWarped"));
    warped->setToolTip(
        tr("The noise is read from where another moves each column to: valleys wind, crests swirl. Warped "
           "noise is sampled column by column, which costs more."));
    warped->setChecked(m_editor.document().contains(RecipeDocument::json_pointer(pointer + "/warp")));
    connect(warped, &QCheckBox::clicked, this,
        [this, pointer](bool on) { change(withWarp(m_editor.document(), pointer, on)); });
    column->addWidget(warped);
}

void RecipeView::addCurve(QVBoxLayout* column, const std::string& pointer)
{
    QWidget* all = column->parentWidget();
    auto* curve = new CurveCanvas(curveOf(m_editor.document(), pointer), all);
    curve->setObjectName(QStringLiteral("layerCurve"));
    connect(curve, &CurveCanvas::changed, this, [this, all, pointer](const std::vector<CurvePoint>& points) {
        all->setProperty("busy", true); // the canvas stays under the pointer
        change(withCurve(m_editor.document(), pointer, points), QString::fromStdString(pointer + "/curve"));
        all->setProperty("busy", false);
    });
    column->addWidget(curve);
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
    for (int i = 0; i < m_list->count(); ++i)
        if (m_list->item(i)->data(kPointerRole).toString() == pointer)
            m_list->setCurrentItem(m_list->item(i));
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

} // namespace fell
