// SPDX-License-Identifier: GPL-3.0-or-later
// The form of one stage: its methods, its look and its numbers.
#include <fell/app/views/stage_bench.h>

#include <fell/app/views/cards.h>

#include <fell/app/views/edit_panel.h>

#include <fell/setup/stages.h>

#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QGridLayout>
#include <QPushButton>
#include <QRadioButton>
#include <QSpinBox>
#include <QVBoxLayout>

#include <nlohmann/json.hpp>

#include <algorithm>

namespace fell::app {
namespace {

/// Does the chosen scheme of levels not ask for this field?
bool isIdle(const SetupField& field, const Setup& setup)
{
    const std::string& scheme = setup.lod.scheme;
    return field.path.rfind("lod.", 0) == 0
        && (scheme == "off" || (field.path == "lod.detail" && scheme != "rings")
            || (field.path == "lod.error" && scheme != "error"));
}

/// The fields that belong to a stage's bench, next to the one that chooses its method.
std::vector<const SetupField*> numbersOf(const Stage& stage)
{
    std::vector<std::string> prefixes{stage.id + "."};
    if (stage.id == "edit")
        prefixes.emplace_back("keep.");
    if (stage.id == "levels")
        prefixes.emplace_back("lod.");
    if (stage.id == "generate") {
        prefixes.emplace_back("chunk.");
        prefixes.emplace_back("store.");
        prefixes.emplace_back("stream.");
    }
    std::vector<const SetupField*> out;
    for (const SetupField& field : setupFields())
        for (const auto& prefix : prefixes)
            if (field.path.rfind(prefix, 0) == 0 && field.path != stage.path && field.path != "stream.distance")
                out.push_back(&field);
    return out;
}

} // namespace

std::vector<std::string> StageBench::listedMethods(const Stage& stage) const
{
    const auto nameOf = [](const std::string& id) { return id.substr(0, id.find('@')); };
    const std::vector<StageMethod> all = stage.methods();
    std::vector<std::string> out;
    for (auto at = all.begin(); at != all.end(); ++at) {
        const bool isOld = std::any_of(
            at + 1, all.end(), [&](const StageMethod& later) { return nameOf(later.id) == nameOf(at->id); });
        const bool isUsed
            = m_session.setup().mesh.mesher == at->id || (m_session.hasB() && m_session.setupB().mesh.mesher == at->id);
        if (!isOld || isUsed)
            out.push_back(at->id);
    }
    return out;
}

void StageBench::addMethods(QVBoxLayout* column, const Stage& stage)
{
    const SetupField& field = *findField(stage.path);
    auto* group = new QButtonGroup(m_column->parentWidget());
    group->setParent(column->parentWidget());
    for (const StageMethod& method : stage.methods()) {
        if (std::find(m_listed.begin(), m_listed.end(), method.id) == m_listed.end())
            continue;
        const QString title = QString::fromStdString(method.title);
        QAbstractButton* button = nullptr;
        if (field.kind == SetupField::Kind::Choices) {
            button = new QCheckBox(title, column->parentWidget());
            connect(button, &QAbstractButton::toggled, this, [this, &field, id = method.id](bool on) {
                nlohmann::json steps = field.read(m_session.edited().current());
                if (on)
                    steps.push_back(id);
                else
                    steps.erase(std::remove(steps.begin(), steps.end(), id), steps.end());
                m_session.edited().set(field.path, steps);
            });
        } else {
            button = new QRadioButton(title, column->parentWidget());
            group->addButton(button);
            connect(button, &QAbstractButton::clicked, this,
                [this, &field, id = method.id] { m_session.edited().set(field.path, id); });
        }
        button->setToolTip(QString::fromStdString(method.note));
        button->setObjectName(QString::fromStdString(stage.path + "=" + method.id));
        auto* line = new QHBoxLayout;
        line->addWidget(button);
        QLabel* figures = nullptr;
        if (stage.id == "light") {
            figures = newLabel({}, "muted", column->parentWidget());
            figures->setWordWrap(false);
            figures->setObjectName(QString::fromStdString("measured=" + method.id));
            figures->setToolTip(
                tr("Flooding 4 x 4 x 4 chunks of this world from nothing on one thread; bytes a voxel."));
            line->addStretch(1);
            line->addWidget(figures);
        }
        column->addLayout(line);
        // All notes at once would not fit: the others' are their tooltips.
        QLabel* note = nullptr;
        if (stage.id != "light") {
            note = newLabel(QString::fromStdString(method.note), "muted", column->parentWidget());
            column->addWidget(note);
        }
        onSync([this, &field, button, figures, note, id = method.id] {
            const nlohmann::json chosen = field.read(m_session.edited().current());
            const QSignalBlocker blocker(button);
            const bool isChosen
                = chosen.is_array() ? std::find(chosen.begin(), chosen.end(), id) != chosen.end() : chosen == id;
            button->setChecked(isChosen);
            if (note)
                note->setVisible(isChosen);
            if (figures)
                figures->setText(measuredOf(id));
        });
    }
}

/// Meshers come from libraries too.
void StageBench::addLoading(QVBoxLayout* column)
{
    auto* load = new QPushButton(tr("Load method…"), column->parentWidget());
    load->setObjectName(QStringLiteral("loadMethod"));
    load->setToolTip(
        tr("Adds a mesher from a shared library. It is checked in a separate process first, and loaded again when "
           "its file changes."));
    connect(load, &QPushButton::clicked, this, &StageBench::methodWanted);
    column->addWidget(load);
}

void StageBench::addLook(QVBoxLayout* column)
{
    QWidget* card = column->parentWidget();
    auto* line = new QHBoxLayout;
    auto* paint = new QComboBox(card);
    paint->addItems({tr("textures"), tr("normals"), tr("quad sizes"), tr("detail"), tr("contour lines")});
    paint->setObjectName(QStringLiteral("look.paint"));
    paint->setToolTip(tr("What the surface shows. Quad sizes: dark blue is one voxel side, pale yellow a thousand. "
                         "Detail: a colour a level, "
                         "and red where a crack between two lets one see the inside. Contour lines: one each 10 m of "
                         "height, bold each 50 m. Light: dark blue is "
                         "0, pale yellow 15, with the level of the voxel before each side as a number."));
    connect(paint, &QComboBox::activated, this, [this](int index) {
        m_session.look.change([index](FieldLook& look) {
            constexpr int kLight = static_cast<int>(Paint::Light);
            look.paint = static_cast<Paint>(std::min(index, kLight));
            look.channel = std::max(0, index - kLight);
        });
    });
    auto* wire = new QCheckBox(tr("Wireframe"), card);
    wire->setObjectName(QStringLiteral("look.wireframe"));
    wire->setToolTip(tr("The triangles' edges on top. Costs a twentieth of the frame."));
    connect(wire, &QCheckBox::toggled, this,
        [this](bool on) { m_session.look.change([on](FieldLook& look) { look.wireframe = on; }); });
    const auto follow = [this, paint, wire] {
        const FieldLook& look = *m_session.look;
        const QSignalBlocker blocker(wire);
        paint->setCurrentIndex(static_cast<int>(look.paint) + (look.paint == Paint::Light ? look.channel : 0));
        wire->setChecked(look.wireframe);
    };
    const int surfaces = paint->count();
    onSync([this, paint, follow, surfaces] {
        const LightMode& mode = *findLightMode(m_session.edited().current().light.mode);
        while (paint->count() > surfaces)
            paint->removeItem(paint->count() - 1);
        for (int c = 0; c < mode.channels(); ++c)
            paint->addItem(QString::fromStdString(channelTitle(mode, c)));
        follow();
    });
    connect(&m_session.look, &ViewState::changed, paint, follow);
    line->addWidget(newLabel(tr("Show"), "plain", card));
    line->addWidget(paint);
    line->addWidget(wire);
    column->addSpacing(2);
    column->addLayout(line);
}

/// A control of a field, which follows it.
QWidget* StageBench::newNumber(const SetupField& field, QWidget* parent)
{
    if (!field.allowed.empty()) {
        auto* combo = new QComboBox(parent);
        for (const auto& id : field.allowed)
            combo->addItem(QString::fromStdString(id));
        connect(combo, &QComboBox::textActivated, this, [this, &field](const QString& text) {
            m_session.edited().set(field.path, valueFromText(field, text.toStdString()));
        });
        onSync([this, &field, combo] {
            const nlohmann::json value = field.read(m_session.edited().current());
            combo->setCurrentText(QString::fromStdString(value.is_string() ? value.get<std::string>() : value.dump()));
        });
        return combo;
    }
    // A number that is just being typed stays: it is not the control's value yet.
    const auto follow = [this, &field](auto* spin) {
        using Number = decltype(spin->value());
        spin->setKeyboardTracking(false);
        spin->setRange(static_cast<Number>(field.low), static_cast<Number>(field.high));
        connect(spin, &std::remove_pointer_t<decltype(spin)>::valueChanged, this,
            [this, &field](Number number) { m_session.edited().set(field.path, number); });
        onSync([this, &field, spin] {
            const QSignalBlocker blocker(spin);
            if (const auto value = field.read(m_session.edited().current()).template get<Number>();
                value != spin->value())
                spin->setValue(value);
        });
        return spin;
    };
    if (field.kind != SetupField::Kind::Number)
        return follow(new QSpinBox(parent));
    auto* spin = new QDoubleSpinBox(parent);
    spin->setDecimals(2); // before the range, which is rounded to them
    return follow(spin);
}

void StageBench::addNumbers(QVBoxLayout* column, const Stage& stage)
{
    const auto fields = numbersOf(stage);
    if (fields.empty())
        return;
    auto* grid = new QGridLayout;
    grid->setVerticalSpacing(3);
    int row = 0;
    for (const SetupField* field : fields) {
        QWidget* control = newNumber(*field, column->parentWidget());
        control->setToolTip(QString::fromStdString(field->note));
        control->setObjectName(QString::fromStdString(field->path));
        control->setFixedWidth(112);
        const QString title = QString::fromStdString(field->title);
        auto* label = newLabel(title.left(1).toUpper() + title.mid(1)
                + (field->unit.empty() ? QString() : tr(", %1").arg(QString::fromStdString(field->unit))),
            "plain", column->parentWidget());
        label->setToolTip(control->toolTip());
        grid->addWidget(label, row, 0);
        grid->addWidget(control, row++, 1, Qt::AlignRight);
        onSync([this, field, control, label] {
            const bool isShown = !isIdle(*field, m_session.edited().current());
            control->setVisible(isShown);
            label->setVisible(isShown);
        });
    }
    column->addSpacing(2);
    column->addLayout(grid);
}

} // namespace fell::app
