// SPDX-License-Identifier: GPL-3.0-or-later
// The form of one block type: its opacity, light, colours and textures.
#include <fell/app/views/block_book.h>

#include <fell/app/views/cards.h>

#include <nlohmann/json.hpp>

#include <fell/app/views/theme.h>

#include <QColorDialog>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QSpinBox>
#include <QVBoxLayout>

#include <cmath>

namespace fell::app {
namespace {

constexpr std::array<const char*, 3> kSideKeys{"top", "side", "bottom"};

} // namespace

void BlockBook::rebuildKind()
{
    const BlockKind& kind = m_editor.set().kinds[m_selected];
    m_cube->show(kind, m_editor.set().folder);
    m_name->setText(tr("<b>%1</b> · number %2").arg(QString::fromStdString(kind.name)).arg(m_selected));
    const QStringList findings = m_editor.findingsOf(m_selected);
    m_findings->setText(findings.join(QLatin1Char('\n')));
    m_findings->setStyleSheet(QStringLiteral("color: %1").arg(currentTheme().over.name()));
    m_findings->setVisible(!findings.isEmpty());
    if (m_form->widget() && m_form->widget()->property("busy").toBool())
        return; // a control that is in use stays
    auto* all = new QWidget;
    all->setObjectName(QStringLiteral("numbersPage"));
    auto* column = new QVBoxLayout(all);
    column->setContentsMargins(0, 4, 8, 4);
    column->setSpacing(8);
    addMatter(column, kind);
    addLight(column, kind);
    addColours(column, kind);
    addTextures(column, kind);
    column->addStretch(1);
    m_form->setWidget(all);
    refreshCounts();
}

void BlockBook::change(const std::string& pointer, const nlohmann::json& value)
{
    if (m_form->widget())
        m_form->widget()->setProperty("busy", true);
    const auto wrong = m_editor.change(m_selected, pointer, value);
    if (m_form->widget())
        m_form->widget()->setProperty("busy", false);
    if (wrong) {
        emit trouble(*wrong);
        QMetaObject::invokeMethod(this, &BlockBook::refresh, Qt::QueuedConnection);
    }
}

void BlockBook::addMatter(QVBoxLayout* column, const BlockKind& kind)
{
    QWidget* all = column->parentWidget();
    column->addWidget(new QLabel(tr("<b>What it is</b>"), all));
    auto* form = new QFormLayout;
    auto* matter = new QComboBox(all);
    matter->setObjectName(QStringLiteral("blockMatter"));
    matter->addItems({QStringLiteral("solid"), QStringLiteral("see-through"), QStringLiteral("liquid")});
    matter->setCurrentIndex(static_cast<int>(kind.matter));
    matter->setToolTip(tr("Solid hides what is behind it. Transparent and liquid are separate meshes, drawn last."));
    connect(matter, &QComboBox::textActivated, this,
        [this](const QString& text) { change("/matter", text.toStdString()); });
    form->addRow(tr("Opacity class"), matter);
    auto* shape = new QComboBox(all);
    shape->setObjectName(QStringLiteral("blockShape"));
    shape->addItems({QStringLiteral("cube"), QStringLiteral("half"), QStringLiteral("slope")});
    if (shape->findText(QString::fromStdString(kind.shapeName)) < 0)
        shape->addItem(QString::fromStdString(kind.shapeName));
    shape->setCurrentText(QString::fromStdString(kind.shapeName));
    shape->setToolTip(tr("Full cubes are merged to large quads; every other shape is drawn triangle by triangle."));
    connect(shape, &QComboBox::textActivated, this, [this](const QString& text) {
        if (text == QLatin1String("cube"))
            change("/shape", nullptr);
        else
            change("/shape", text.toStdString());
    });
    form->addRow(tr("Shape"), shape);
    if (kind.matter != Matter::Solid) {
        auto* opacity = new QDoubleSpinBox(all);
        opacity->setObjectName(QStringLiteral("blockOpacity"));
        opacity->setRange(0, 1);
        opacity->setSingleStep(0.05);
        opacity->setValue(kind.opacity);
        opacity->setToolTip(tr("How much it hides of what is behind it. No cost."));
        connect(opacity, &QDoubleSpinBox::valueChanged, this, [this](double value) { change("/opacity", value); });
        form->addRow(tr("Hides"), opacity);
    }
    column->addLayout(form);
}

/// Opacity, tint and emission: light values of 0 to 15.
void BlockBook::addLight(QVBoxLayout* column, const BlockKind& kind)
{
    constexpr int kMax = 15;
    QWidget* all = column->parentWidget();
    column->addWidget(new QLabel(tr("<b>Light</b>, values of 0 to 15"), all));
    auto* form = new QFormLayout;
    const auto level = [&](int value, const QString& name, const QString& tip) {
        auto* spin = new QSpinBox(all);
        spin->setObjectName(name);
        spin->setRange(0, kMax);
        spin->setValue(value);
        spin->setToolTip(tip);
        spin->setKeyboardTracking(false);
        return spin;
    };
    auto* opacity = level(kind.light.opacity, QStringLiteral("blockLightOpacity"),
        tr("Light that it absorbs per voxel, in addition to 1 per step. 15 absorbs all."));
    connect(opacity, &QSpinBox::valueChanged, this, [this](int value) { change("/light/opacity", value); });
    form->addRow(tr("Absorbs"), opacity);
    const auto three = [&](const QString& title, const char* key, std::array<int, 3> values, const QString& tip) {
        auto* row = new QHBoxLayout;
        const std::array<QString, 3> channels{tr("red"), tr("green"), tr("blue")};
        for (std::size_t c = 0; c < 3; ++c) {
            auto* spin = level(values[c], QStringLiteral("block-%1-%2").arg(QLatin1String(key)).arg(c), tip);
            spin->setPrefix(channels[c] + QLatin1Char(' '));
            spin->setAccessibleName(title + QLatin1Char(' ') + channels[c]);
            connect(spin, &QSpinBox::valueChanged, this, [this, key, c](int value) { changeLevel(key, c, value); });
            row->addWidget(spin);
        }
        form->addRow(title, row);
    };
    three(tr("Absorbs more"), "tint", kind.light.tint,
        tr("What it absorbs in addition, by colour. Amber glass absorbs blue."));
    three(tr("Emits"), "gives", {kind.light.emission[0], kind.light.emission[1], kind.light.emission[2]},
        tr("The light that it emits. It spreads as many voxels as its value."));
    column->addLayout(form);
}

void BlockBook::changeLevel(const char* key, std::size_t channel, int level)
{
    const BlockLight& light = m_editor.set().kinds[m_selected].light;
    nlohmann::json values = nlohmann::json::array();
    for (std::size_t c = 0; c < 3; ++c)
        values.push_back(std::string_view(key) == "tint" ? light.tint[c] : static_cast<int>(light.emission[c]));
    values[channel] = level;
    change(std::string("/light/") + key, values);
}

void BlockBook::addColours(QVBoxLayout* column, const BlockKind& kind)
{
    QWidget* all = column->parentWidget();
    column->addWidget(new QLabel(tr("<b>Colours</b>, where there is no texture and from afar"), all));
    auto* row = new QHBoxLayout;
    const std::array<Rgb, 3> colours{kind.top, kind.side, kind.bottom};
    for (std::size_t i = 0; i < 3; ++i) {
        auto* button = new QPushButton(tr(kSideKeys[i]), all);
        button->setObjectName(QStringLiteral("blockColour=%1").arg(QLatin1String(kSideKeys[i])));
        QPixmap look(18, 18);
        look.fill(colourOf(colours[i]));
        button->setIcon(QIcon(look));
        button->setToolTip(tr("The colour of its %1.").arg(tr(kSideKeys[i])));
        connect(button, &QPushButton::clicked, this, [this, key = kSideKeys[i], now = colours[i]] {
            const QColor colour = QColorDialog::getColor(colourOf(now), this, tr("Colour"));
            if (!colour.isValid())
                return;
            change(std::string("/") + key, colour.name().toUpper().toStdString());
            rebuildKind();
        });
        row->addWidget(button);
    }
    column->addLayout(row);
    auto* form = new QFormLayout;
    auto* grain = new QDoubleSpinBox(all);
    grain->setObjectName(QStringLiteral("blockGrain"));
    grain->setRange(0, 0.5);
    grain->setSingleStep(0.02);
    grain->setValue(kind.grain);
    grain->setToolTip(tr("How much the brightness varies from voxel to voxel; it costs nothing."));
    connect(grain, &QDoubleSpinBox::valueChanged, this,
        [this](double value) { change("/grain", std::round(value * 100) / 100); });
    form->addRow(tr("Grain"), grain);
    column->addLayout(form);
}

void BlockBook::addTextures(QVBoxLayout* column, const BlockKind& kind)
{
    QWidget* all = column->parentWidget();
    column->addWidget(new QLabel(tr("<b>Textures</b>, PNG files next to the block set, or dropped on the cube"), all));
    auto* form = new QFormLayout;
    for (std::size_t i = 0; i < 3; ++i) {
        const QString file = QString::fromStdString(kind.textures[i]);
        auto* button = new QPushButton(file.isEmpty() ? tr("none: its colour") : QFileInfo(file).fileName(), all);
        button->setObjectName(QStringLiteral("blockTexture=%1").arg(QLatin1String(kSideKeys[i])));
        button->setToolTip(tr("Chooses a picture (PNG)."));
        connect(button, &QPushButton::clicked, this, [this, key = kSideKeys[i]] {
            const QString chosen = QFileDialog::getOpenFileName(
                this, tr("Texture"), QString::fromStdString(m_editor.set().folder.string()), tr("Picture (*.png)"));
            if (chosen.isEmpty())
                return;
            const nlohmann::json name = chosen.toStdString();
            // The reader wants one for the sides before one for the top or the bottom alone.
            if (m_editor.set().kinds[m_selected].textures[1].empty())
                change("/textures/side", name);
            change(std::string("/textures/") + key, name);
            rebuildKind();
        });
        form->addRow(tr(kSideKeys[i]), button);
    }
    column->addLayout(form);
}

} // namespace fell::app
