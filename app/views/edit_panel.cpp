// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/edit_panel.h>

#include <fell/app/views/cards.h>

#include <fell/app/models/text.h>
#include <fell/app/views/theme.h>

#include <QComboBox>
#include <QCompleter>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPainter>
#include <QPushButton>
#include <QSlider>
#include <QToolButton>
#include <QVBoxLayout>

namespace fell::app {
namespace {

QString capital(const QString& text)
{
    return text.left(1).toUpper() + text.mid(1);
}

/// A block as a small square: its top, and its side below.
QIcon iconOf(const BlockKind& kind, bool isOpen)
{
    constexpr int kSize = 22;
    QPixmap pixmap(kSize, kSize);
    pixmap.fill(Qt::transparent);
    QPainter painter(&pixmap);
    if (isOpen) {
        painter.setPen(QPen(currentTheme().muted, 1, Qt::DashLine));
        painter.drawRect(1, 1, kSize - 3, kSize - 3);
    } else {
        painter.fillRect(0, 0, kSize, kSize / 2, QColor(kind.top.r, kind.top.g, kind.top.b));
        painter.fillRect(0, kSize / 2, kSize, kSize / 2, QColor(kind.side.r, kind.side.g, kind.side.b));
    }
    return QIcon(pixmap);
}

/// Short enough for a button.
QString shortTitle(ToolKind kind)
{
    switch (kind) {
    case ToolKind::Place:
        return QObject::tr("Place");
    case ToolKind::Remove:
        return QObject::tr("Remove");
    case ToolKind::Box:
        return QObject::tr("Box");
    case ToolKind::Ball:
        return QObject::tr("Ball");
    case ToolKind::Raise:
        return QObject::tr("Raise");
    case ToolKind::Lower:
        return QObject::tr("Lower");
    case ToolKind::Smooth:
        return QObject::tr("Smooth");
    case ToolKind::Paint:
        return QObject::tr("Paint");
    case ToolKind::Blast:
        return QObject::tr("Blast");
    }
    return {};
}

} // namespace

QKeySequence keyOf(ToolKind kind)
{
    switch (kind) {
    case ToolKind::Place:
        return Qt::Key_C;
    case ToolKind::Remove:
        return Qt::Key_X;
    case ToolKind::Box:
        return Qt::Key_V;
    case ToolKind::Ball:
        return Qt::Key_B;
    case ToolKind::Raise:
        return Qt::Key_G;
    case ToolKind::Lower:
        return Qt::Key_H;
    case ToolKind::Smooth:
        return Qt::Key_N;
    case ToolKind::Paint:
        return Qt::Key_P;
    case ToolKind::Blast:
        return Qt::Key_T;
    }
    return {};
}

EditPanel::EditPanel(WorldSession& session, QWidget* parent)
    : QWidget(parent)
    , m_session(session)
{
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 4, 0, 0);
    column->setSpacing(5);
    addTools(column);
    addRadius(column);
    addPalette(column);
    addUndo(column);
    m_figures = new QLabel(this);
    m_figures->setObjectName(QStringLiteral("editFigures"));
    m_figures->setWordWrap(true);
    m_figures->setToolTip(
        tr("From the click until the frame that shows the change was finished; before that, until the "
           "meshes were ready to be uploaded."));
    column->addWidget(m_figures);
    m_kept = newLabel({}, "muted", this);
    m_kept->setObjectName(QStringLiteral("editKept"));
    column->addWidget(m_kept);
    connect(&m_session.editor, &ToolHand::changed, this, &EditPanel::refresh);
    connect(&m_session.keeper, &WorldKeeper::changed, this, &EditPanel::refresh);
    refresh();
}

void EditPanel::addTools(QVBoxLayout* column)
{
    auto* grid = new QGridLayout;
    grid->setSpacing(3);
    int at = 0;
    for (const Tool& tool : tools()) {
        auto* button = new QToolButton(this);
        button->setText(tr("%1  %2").arg(shortTitle(tool.kind), keyOf(tool.kind).toString()));
        button->setCheckable(true);
        button->setObjectName(QStringLiteral("tool=%1").arg(QLatin1String(tool.id)));
        button->setToolTip(tr("%1 (%2). %3")
                               .arg(capital(QString::fromUtf8(tool.title)), keyOf(tool.kind).toString(),
                                   QString::fromUtf8(tool.note)));
        button->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
        button->setProperty("slim", true);
        connect(button, &QToolButton::clicked, this,
            [this, kind = tool.kind](bool on) { m_session.editor.take(on ? std::optional(kind) : std::nullopt); });
        grid->addWidget(button, at / 3, at % 3);
        m_tools.push_back(button);
        ++at;
    }
    column->addLayout(grid);
}

void EditPanel::addRadius(QVBoxLayout* column)
{
    auto* line = new QHBoxLayout;
    m_radiusText = new QLabel(this);
    m_radiusText->setMinimumWidth(96);
    m_radius = new QSlider(Qt::Horizontal, this);
    m_radius->setRange(1, kLargestRadius);
    m_radius->setObjectName(QStringLiteral("editRadius"));
    m_radius->setToolTip(tr("How far ball, raise, lower, smooth, paint and blast reach, voxels ([ and ]). What an edit "
                            "costs grows with its cube."));
    connect(m_radius, &QSlider::valueChanged, this, [this](int voxels) { m_session.editor.setRadius(voxels); });
    line->addWidget(m_radiusText);
    line->addWidget(m_radius);
    column->addLayout(line);
}

void EditPanel::addPalette(QVBoxLayout* column)
{
    auto* line = new QHBoxLayout;
    line->setSpacing(1);
    for (std::size_t i = 0; i < ToolHand::kSlots; ++i) {
        auto* button = new QToolButton(this);
        button->setCheckable(true);
        button->setIconSize({22, 22});
        button->setObjectName(QStringLiteral("slot=%1").arg(i + 1));
        button->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
        button->setProperty("slim", true);
        connect(button, &QToolButton::clicked, this, [this, i] { m_session.editor.chooseSlot(i); });
        line->addWidget(button);
        m_slots.push_back(button);
    }
    column->addLayout(line);
    m_kind = new QComboBox(this);
    m_kind->setObjectName(QStringLiteral("editKind"));
    m_kind->setToolTip(
        tr("The block type of the chosen place: type a part of its name. In the field, Shift and click picks the "
           "one under the pointer, Shift and wheel goes along the palette. Air digs a box or a ball."));
    m_kind->setEditable(true);
    m_kind->setInsertPolicy(QComboBox::NoInsert);
    m_kind->completer()->setCompletionMode(QCompleter::PopupCompletion);
    m_kind->completer()->setFilterMode(Qt::MatchContains);
    connect(m_kind, &QComboBox::activated, this,
        [this](int index) { m_session.editor.putInSlot(static_cast<Material>(index)); });
    // A text that is no block type's name changes nothing.
    connect(m_kind->lineEdit(), &QLineEdit::editingFinished, this, [this] {
        m_kind->lineEdit()->setModified(false);
        m_kind->setEditText(m_kind->itemText(m_session.editor.material()));
    });
    column->addWidget(m_kind);
}

void EditPanel::fillKinds()
{
    if (m_kindsOf == m_session.sharedTerrain())
        return;
    m_kindsOf = m_session.sharedTerrain();
    const auto& kinds = m_kindsOf->recipe.blocks.kinds;
    m_kind->clear();
    m_kind->addItem(iconOf(kinds[0], true), tr("air"));
    for (std::size_t m = 1; m < kinds.size(); ++m)
        m_kind->addItem(iconOf(kinds[m], false), QString::fromStdString(kinds[m].name));
}

void EditPanel::addUndo(QVBoxLayout* column)
{
    auto* line = new QHBoxLayout;
    m_undo = new QPushButton(tr("Undo"), this);
    m_undo->setObjectName(QStringLiteral("undoEdit"));
    m_redo = new QPushButton(tr("Redo"), this);
    m_redo->setObjectName(QStringLiteral("redoEdit"));
    connect(m_undo, &QPushButton::clicked, this, [this] { m_session.undoEdit(); });
    connect(m_redo, &QPushButton::clicked, this, [this] { m_session.redoEdit(); });
    m_save = new QPushButton(tr("Save"), this);
    m_save->setObjectName(QStringLiteral("saveWorld"));
    m_save->setToolTip(tr("Saves the recipe and all edits to a world file (Ctrl+S). Autosave then saves "
                          "later edits."));
    connect(m_save, &QPushButton::clicked, this, &EditPanel::saveWanted);
    line->addWidget(m_undo);
    line->addWidget(m_redo);
    line->addWidget(m_save);
    column->addLayout(line);
}

void EditPanel::refresh()
{
    fillKinds();
    const ToolHand& editor = m_session.editor;
    const auto all = tools();
    for (std::size_t i = 0; i < m_tools.size(); ++i)
        m_tools[i]->setChecked(editor.tool() == all[i].kind);
    m_radiusText->setText(tr("Radius %1").arg(editor.radius()));
    m_radius->setValue(editor.radius());
    const auto& kinds = m_session.terrain().recipe.blocks.kinds;
    for (std::size_t i = 0; i < m_slots.size(); ++i) {
        const Material material = editor.palette()[i];
        m_slots[i]->setIcon(iconOf(kinds[material], material == kOpen));
        m_slots[i]->setChecked(editor.slot() == i);
        m_slots[i]->setToolTip(material == kOpen ? tr("air") : QString::fromStdString(kinds[material].name));
    }
    if (!m_kind->lineEdit()->isModified()) // what is being typed stays
        m_kind->setCurrentIndex(editor.material());
    const QString undo = editor.undoTitle(), redo = editor.redoTitle();
    m_undo->setEnabled(!undo.isEmpty());
    m_undo->setToolTip(undo.isEmpty() ? tr("Nothing has been changed.") : tr("Takes back: %1 (Ctrl+Z).").arg(undo));
    m_redo->setEnabled(!redo.isEmpty());
    m_redo->setToolTip(redo.isEmpty() ? tr("Nothing was taken back.") : tr("Does again: %1 (Ctrl+Shift+Z).").arg(redo));
    const EditFigures& figures = editor.figures();
    if (figures.edits == 0) {
        m_figures->setText(tr("Select a tool and click in the field. The cost is shown here."));
    } else {
        const QString picture = figures.pictureUs > 0 ? tr("%1 ms").arg(figureText(figures.pictureUs / 1000)) : tr("…");
        m_figures->setText(
            tr("<table cellspacing='0' width='100%'><tr><td>Last edit, voxels</td><td align='right'>%1</td></tr>"
               "<tr><td>Chunks relit</td><td align='right'>%2</td></tr>"
               "<tr><td>Chunks remeshed</td><td align='right'>%3</td></tr>"
               "<tr><td>Click to meshes ready</td><td align='right'>%4 ms</td></tr>"
               "<tr><td>Click to frame</td><td align='right'>%5</td></tr></table>")
                .arg(countText(figures.voxels))
                .arg(figures.relit)
                .arg(figures.meshed)
                .arg(figureText(figures.readyUs / 1000), picture));
    }
    m_save->setEnabled(m_session.keeper.unsaved() > 0 && !m_session.keeper.isSaving());
    const std::size_t chunks = m_session.changes()->chunks();
    m_kept->setText(chunks == 0
            ? QString()
            : tr("Changed so far: %1 voxels in %2 chunks; %3")
                  .arg(countText(m_session.changes()->voxels()), countText(chunks), m_session.keeper.state()));
}

} // namespace fell::app

#include "moc_edit_panel.cpp"
