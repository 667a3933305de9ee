// SPDX-License-Identifier: GPL-3.0-or-later
// The form of one layer: its numbers, material, kind, warp and curve.
#include <fell/app/views/recipe_view.h>

#include <fell/app/views/cards.h>

#include <nlohmann/json.hpp>

#include <fell/app/views/curve_canvas.h>

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QScrollArea>
#include <QSlider>
#include <QToolButton>
#include <QVBoxLayout>

#include <cmath>
#include <map>

namespace fell::app {
namespace {

/// Where a slider of a number begins and ends: around what it is now, within what is allowed.
std::pair<double, double> sliderRange(const LayerNumber& number)
{
    if (number.high - number.low <= 16)
        return {number.low, number.high};
    const double reach = std::max({std::abs(number.value) * 2, 8.0, number.low > 0 ? number.low * 4 : 0.0});
    return {std::max(number.low, number.low >= 0 ? number.low : -reach), std::min(number.high, reach)};
}

} // namespace

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
    slider->setAccessibleName(label->text());
    spin->setAccessibleName(label->text());
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
    choice->setToolTip(tr("A block type of this world."));
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
    choice->setToolTip(tr("The kind of noise of this layer."));
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

} // namespace fell::app
