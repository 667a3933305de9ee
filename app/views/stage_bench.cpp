// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/stage_bench.h"

#include "models/text.h"
#include "setup/stages.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFrame>
#include <QGridLayout>
#include <QRadioButton>
#include <QSpinBox>
#include <QVBoxLayout>

#include <nlohmann/json.hpp>

#include <algorithm>

namespace fell {
namespace {

constexpr int kWidth = 292, kFarthestSlider = 24; // chunks: farther is typed, or varied in a transect

QFrame* newCard(QWidget* parent)
{
    auto* card = new QFrame(parent);
    card->setProperty("card", true);
    return card;
}

QLabel* newLabel(const QString& text, const char* look, QWidget* parent)
{
    auto* label = new QLabel(text, parent);
    label->setProperty(look, true);
    label->setWordWrap(true);
    return label;
}

/// The fields that belong to a stage's bench, beside the one that chooses its method.
std::vector<const SetupField*> numbersOf(const Stage& stage)
{
    std::vector<std::string> prefixes{stage.id + "."};
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

StageBench::StageBench(WorldSession& session, QWidget* parent)
    : QWidget(parent)
    , m_session(session)
    , m_column(new QVBoxLayout(this))
{
    setFixedWidth(kWidth);
    m_column->setContentsMargins(10, 10, 10, 10);
    m_column->setSpacing(10);
    buildReach(m_column);
    m_column->addStretch(1);
    connect(&session, &WorldSession::editedChanged, this, [this] {
        syncReach();
        // A control must not be deleted inside its own signal.
        QMetaObject::invokeMethod(this, &StageBench::rebuildStage, Qt::QueuedConnection);
    });
    rebuildStage();
}

void StageBench::buildReach(QVBoxLayout* column)
{
    QFrame* card = newCard(this);
    auto* box = new QVBoxLayout(card);
    box->setSpacing(6);
    auto* head = new QHBoxLayout;
    head->addWidget(newLabel(tr("Render distance"), "title", card));
    m_distanceText = new QLabel(card);
    m_distanceText->setAlignment(Qt::AlignRight);
    m_distanceText->setObjectName(QStringLiteral("distanceText"));
    head->addWidget(m_distanceText);
    box->addLayout(head);
    m_distance = new QSlider(Qt::Horizontal, card);
    m_distance->setObjectName(QStringLiteral("distance"));
    m_distance->setRange(1, kFarthestSlider);
    m_distance->setToolTip(tr("How many chunks round you are there. Their number grows with its cube, what is seen of "
                              "them with its square."));
    box->addWidget(m_distance);
    m_resident = newLabel({}, "muted", card);
    m_resident->setObjectName(QStringLiteral("resident"));
    box->addWidget(m_resident);
    column->addWidget(card);
    connect(m_distance, &QSlider::valueChanged, this,
        [this](int chunks) { m_session.edited().set("stream.distance", chunks); });
    syncReach();
}

void StageBench::syncReach()
{
    const QSignalBlocker blocker(m_distance);
    const Setup& setup = m_session.edited().current();
    m_distance->setValue(setup.stream.distance);
    const double metres = setup.stream.distance * setup.chunk.edge * m_session.terrain().recipe.voxelMetres;
    m_distanceText->setText(tr("<b>%1</b> chunks · %2 m").arg(setup.stream.distance).arg(qRound(metres)));
}

void StageBench::show(const StreamCounts& counts, const FrameReport& frame)
{
    const QString state = counts.full ? tr("memory full")
        : counts.settled              ? tr("all there")
                         : tr("filling, %1 to go").arg(countText(counts.toGenerate + counts.toMesh + counts.toUpload));
    m_resident->setText(tr("%1 chunks, %2 with a mesh · %3\n%4 voxels · %5 graphics")
                            .arg(countText(counts.resident), countText(frame.residentChunks), state,
                                bytesText(counts.voxelBytes), bytesText(frame.gpuBytes)));
}

void StageBench::openStage(const QString& id)
{
    m_stage = id;
    rebuildStage();
}

void StageBench::rebuildStage()
{
    delete m_stageCard;
    const auto& all = stages();
    const auto stage = std::find_if(
        all.begin(), all.end(), [this](const Stage& s) { return QString::fromStdString(s.id) == m_stage; });
    QFrame* card = newCard(this);
    auto* box = new QVBoxLayout(card);
    box->setSpacing(7);
    const QString side = !m_session.hasB() ? QString() : m_session.editsB() ? tr("B · ") : tr("A · ");
    box->addWidget(newLabel(
        tr("<b>%1%2</b> — %3").arg(side, QString::fromStdString(stage->title), QString::fromStdString(stage->note)),
        "plain", card));
    addMethods(box, *stage);
    addNumbers(box, *stage);
    if (stage->id == "mesh" || stage->id == "draw")
        addLook(box);
    m_stageCard = card;
    m_column->insertWidget(1, card);
}

void StageBench::addMethods(QVBoxLayout* column, const Stage& stage)
{
    const SetupField& field = *findField(stage.path);
    const nlohmann::json chosen = field.read(m_session.edited().current());
    auto* group = new QButtonGroup(m_column->parentWidget());
    group->setParent(column->parentWidget());
    for (const StageMethod& method : stage.methods) {
        const QString title = QString::fromStdString(method.title);
        QAbstractButton* button = nullptr;
        if (field.kind == SetupField::Kind::Choices) {
            button = new QCheckBox(title, column->parentWidget());
            button->setChecked(std::find(chosen.begin(), chosen.end(), method.id) != chosen.end());
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
            button->setChecked(chosen == method.id);
            group->addButton(button);
            connect(button, &QAbstractButton::clicked, this,
                [this, &field, id = method.id] { m_session.edited().set(field.path, id); });
        }
        button->setToolTip(QString::fromStdString(method.note));
        button->setObjectName(QString::fromStdString(stage.path + "=" + method.id));
        column->addWidget(button);
        // All notes at once would not fit: the others' are their tooltips.
        if (button->isChecked())
            column->addWidget(newLabel(QString::fromStdString(method.note), "muted", column->parentWidget()));
    }
}

void StageBench::addLook(QVBoxLayout* column)
{
    QWidget* card = column->parentWidget();
    auto* line = new QHBoxLayout;
    auto* paint = new QComboBox(card);
    paint->addItems({tr("textures"), tr("normals"), tr("quad sizes")});
    paint->setCurrentIndex(static_cast<int>(m_session.look.paint));
    paint->setObjectName(QStringLiteral("look.paint"));
    paint->setToolTip(
        tr("What the surface shows: dark blue is a quad of one voxel side, pale yellow one of a thousand."));
    connect(
        paint, &QComboBox::activated, this, [this](int index) { m_session.look.paint = static_cast<Paint>(index); });
    auto* wire = new QCheckBox(tr("Wireframe"), card);
    wire->setChecked(m_session.look.wireframe);
    wire->setObjectName(QStringLiteral("look.wireframe"));
    wire->setToolTip(tr("The triangles' edges on top. Costs a twentieth of the frame."));
    connect(wire, &QCheckBox::toggled, this, [this](bool on) { m_session.look.wireframe = on; });
    line->addWidget(newLabel(tr("Show"), "plain", card));
    line->addWidget(paint);
    line->addWidget(wire);
    column->addSpacing(2);
    column->addLayout(line);
}

void StageBench::addNumbers(QVBoxLayout* column, const Stage& stage)
{
    const auto fields = numbersOf(stage);
    if (fields.empty())
        return;
    auto* grid = new QGridLayout;
    grid->setVerticalSpacing(6);
    int row = 0;
    for (const SetupField* field : fields) {
        const nlohmann::json value = field->read(m_session.edited().current());
        QWidget* control = nullptr;
        if (!field->allowed.empty()) {
            auto* combo = new QComboBox(column->parentWidget());
            for (const auto& id : field->allowed)
                combo->addItem(QString::fromStdString(id));
            combo->setCurrentText(QString::fromStdString(value.is_string() ? value.get<std::string>() : value.dump()));
            connect(combo, &QComboBox::textActivated, this, [this, field](const QString& text) {
                m_session.edited().set(field->path, valueFromText(*field, text.toStdString()));
            });
            control = combo;
        } else if (field->kind == SetupField::Kind::Number) {
            auto* spin = new QDoubleSpinBox(column->parentWidget());
            spin->setRange(field->low, field->high);
            spin->setDecimals(1);
            spin->setKeyboardTracking(false);
            spin->setValue(value.get<double>());
            connect(spin, &QDoubleSpinBox::valueChanged, this,
                [this, field](double number) { m_session.edited().set(field->path, number); });
            control = spin;
        } else {
            auto* spin = new QSpinBox(column->parentWidget());
            spin->setRange(static_cast<int>(field->low), static_cast<int>(field->high));
            spin->setKeyboardTracking(false);
            spin->setValue(value.get<int>());
            connect(spin, &QSpinBox::valueChanged, this,
                [this, field](int number) { m_session.edited().set(field->path, number); });
            control = spin;
        }
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
    }
    column->addSpacing(4);
    column->addLayout(grid);
}

} // namespace fell
