// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/block_book.h>
#include <fell/app/views/cards.h>

#include <nlohmann/json.hpp>

#include <fell/app/models/text.h>
#include <fell/app/views/row_delegate.h>
#include <fell/app/views/theme.h>

#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QHash>
#include <QInputDialog>
#include <QLabel>
#include <QListView>
#include <QPainter>
#include <QPushButton>
#include <QScopedValueRollback>
#include <QScrollArea>
#include <QSlider>
#include <QVBoxLayout>

#include <set>

namespace fell::app {
namespace {

QString matterText(const BlockKind& kind)
{
    return kind.matter == Matter::Liquid    ? QObject::tr("liquid")
        : kind.matter == Matter::SeeThrough ? QObject::tr("see-through")
        : kind.shape                        ? QFileInfo(QString::fromStdString(kind.shapeName)).completeBaseName()
                                            : QObject::tr("solid");
}

/// What a shape's model comes to; nothing for a cube.
QString shapeText(const BlockKind& kind)
{
    if (!kind.shape)
        return {};
    using Corner = std::array<float, 3>;
    std::set<Corner> corners;
    std::set<std::pair<Corner, Corner>> edges;
    for (const ShapeTriangle& one : kind.shape->triangles)
        for (std::size_t i = 0; i < 3; ++i) {
            const auto cornerOf = [&one](std::size_t c) -> Corner {
                return {one.corners[c % 3].x, one.corners[c % 3].y, one.corners[c % 3].z};
            };
            const Corner from = cornerOf(i), to = cornerOf(i + 1);
            corners.insert(from);
            edges.insert(std::minmax(from, to));
        }
    return QObject::tr("%1 triangles, %2 vertices, %3 edges.<br>")
        .arg(kind.shape->triangles.size())
        .arg(corners.size())
        .arg(edges.size());
}

bool isLamp(const BlockKind& kind)
{
    return kind.light.emission != std::array<std::uint8_t, 3>{};
}

QIcon iconOf(const BlockKind& kind)
{
    constexpr int kSize = 30;
    QPixmap pixmap(kSize, kSize);
    pixmap.fill(Qt::transparent);
    QPainter painter(&pixmap);
    painter.fillRect(0, 0, kSize, kSize / 2, colourOf(kind.top));
    painter.fillRect(0, kSize / 2, kSize, kSize / 2, colourOf(kind.side));
    if (isLamp(kind)) {
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(QPen(Qt::white, 1.5));
        painter.setBrush(QColor(kind.light.emission[0] * 17, kind.light.emission[1] * 17, kind.light.emission[2] * 17));
        painter.drawEllipse(QPointF(kSize - 8.0, 8.0), 5, 5);
    }
    return QIcon(pixmap);
}

} // namespace

BlockBook::BlockBook(WorldSession& session, QWidget* parent)
    : QWidget(parent)
    , m_session(session)
{
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(10, 10, 10, 10);
    row->setSpacing(10);
    row->addWidget(buildList());
    row->addWidget(buildKind(), 1);
    row->addWidget(buildCube());
    connect(&m_editor, &BlockEditor::changed, this, &BlockBook::refresh);
    constexpr int kRecountMs = 400;
    m_recount.setInterval(kRecountMs);
    connect(&m_recount, &QTimer::timeout, this, &BlockBook::countAnew);
    m_recount.start();
    // While a colour is dragged each picture of the field shows the newest, and no change waits for it.
    constexpr int kLookMs = 30;
    m_lookSoon.setSingleShot(true);
    m_lookSoon.setInterval(kLookMs);
    connect(&m_lookSoon, &QTimer::timeout, this, &BlockBook::showSoon);
    constexpr int kKindsMs = 300;
    m_kindsSoon.setSingleShot(true);
    m_kindsSoon.setInterval(kKindsMs);
    connect(&m_kindsSoon, &QTimer::timeout, this, &BlockBook::showKinds);
    connect(&m_editor, &BlockEditor::changed, this, [this] {
        if (!m_lookSoon.isActive()) // else a quick hand would put it off for ever
            m_lookSoon.start();
    });
    connect(&m_counter, &KindCounter::changed, this, &BlockBook::refreshCounts);
}

/// What is done with the kinds: one more, undo, the field, a file.
QLayout* BlockBook::buildTools(QWidget* card)
{
    auto* column = new QVBoxLayout;
    auto* tools = new QHBoxLayout;
    const auto button = [&](const QString& text, const char* name, const QString& tip) {
        auto* made = new QPushButton(text, card);
        made->setObjectName(QLatin1String(name));
        made->setToolTip(tip);
        return made;
    };
    auto* add = button(tr("Add one like it…"), "blockAdd", tr("A new kind that begins as a copy of the chosen one."));
    connect(add, &QPushButton::clicked, this, [this] {
        bool isNamed = false;
        const QString name
            = QInputDialog::getText(this, tr("A new kind"), tr("Its name, lower case with hyphens:"), QLineEdit::Normal,
                QString::fromStdString(m_editor.set().kinds[m_selected].name) + QStringLiteral("-2"), &isNamed);
        if (!isNamed)
            return;
        if (const auto wrong = m_editor.addLike(m_selected, name.trimmed().toStdString()))
            emit trouble(*wrong);
        else if (const auto made = findMaterial(m_editor.set(), name.trimmed().toStdString()))
            select(*made);
    });
    m_undo = button(tr("Undo"), "blockUndo", tr("Takes back the last change of a kind (Ctrl+Z)."));
    m_redo = button(tr("Redo"), "blockRedo", tr("Does it again."));
    connect(m_undo, &QPushButton::clicked, &m_editor, &BlockEditor::undo);
    connect(m_redo, &QPushButton::clicked, &m_editor, &BlockEditor::redo);
    tools->addWidget(add, 2);
    tools->addWidget(m_undo, 1);
    tools->addWidget(m_redo, 1);
    column->addLayout(tools);
    auto* last = new QHBoxLayout;
    auto* apply = button(tr("Show in the field"), "blockApply",
        tr("Regenerates, relights and remeshes the world with these block types. Edits stay, by block type name. "
           "Colours and textures are shown in the next frame without this button."));
    apply->setProperty("primary", true);
    connect(apply, &QPushButton::clicked, this, &BlockBook::showInField);
    auto* saveButton = button(tr("Save…"), "blockSave", tr("Saves a block set file, which recipes can name."));
    connect(saveButton, &QPushButton::clicked, this, [this] {
        const QString file = QFileDialog::getSaveFileName(
            this, tr("Save block set"), QStringLiteral("blocks.json"), tr("Block set (*.json)"));
        if (!file.isEmpty())
            save(file);
    });
    last->addWidget(apply, 2);
    last->addWidget(saveButton, 1);
    column->addLayout(last);
    return column;
}

QWidget* BlockBook::buildList()
{
    QFrame* card = newCard(this);
    card->setFixedWidth(340);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(12, 10, 12, 10);
    m_title = new QLabel(card);
    column->addWidget(m_title);
    m_list = newListView("blockList", tr("Block types"), m_rows, new RowDelegate, card);
    m_list->setSpacing(1);
    m_list->setToolTip(tr("All block types, with the number of loaded voxels. A dot marks a lamp."));
    connect(m_list->selectionModel(), &QItemSelectionModel::currentChanged, this, [this](const QModelIndex& row) {
        if (m_isFilling || !row.isValid())
            return;
        m_selected = static_cast<Material>(row.data(RowList::Key).toInt());
        rebuildKind();
    });
    column->addWidget(m_list, 1);
    column->addLayout(buildTools(card));
    m_effect = new QLabel(card);
    m_effect->setObjectName(QStringLiteral("blockEffect"));
    m_effect->setWordWrap(true);
    column->addWidget(m_effect);
    return card;
}

QWidget* BlockBook::buildKind()
{
    QFrame* card = newCard(this);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(14, 10, 6, 10);
    m_name = new QLabel(card);
    m_name->setObjectName(QStringLiteral("blockName"));
    column->addWidget(m_name);
    m_findings = new QLabel(card);
    m_findings->setObjectName(QStringLiteral("blockFindings"));
    m_findings->setWordWrap(true);
    column->addWidget(m_findings);
    m_form = new QScrollArea(card);
    m_form->setObjectName(QStringLiteral("numbersScroll"));
    m_form->setFrameShape(QFrame::NoFrame);
    m_form->setWidgetResizable(true);
    column->addWidget(m_form, 1);
    return card;
}

QWidget* BlockBook::buildCube()
{
    QFrame* card = newCard(this);
    card->setFixedWidth(330);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(12, 10, 12, 10);
    m_cube = new BlockCube(card);
    column->addWidget(m_cube, 3);
    connect(m_cube, &BlockCube::dropped, this, [this](const QString& file, Side side) {
        if (QImage(file).isNull())
            return emit trouble(tr("%1 is no picture that can be read").arg(file));
        change(std::string("/textures/") + (side == Side::Up ? "top" : "side"), file.toStdString());
    });
    auto* line = new QHBoxLayout;
    line->addWidget(new QLabel(tr("Sun"), card));
    m_sun = new QSlider(Qt::Horizontal, card);
    m_sun->setObjectName(QStringLiteral("blockSun"));
    m_sun->setAccessibleName(tr("Height of the sun"));
    m_sun->setRange(-12, 90);
    m_sun->setValue(40);
    m_sun->setToolTip(tr("Height of the sun over this block. A lamp shows its light at night."));
    connect(m_sun, &QSlider::valueChanged, this, [this](int degrees) { m_cube->setSun(degrees); });
    line->addWidget(m_sun, 1);
    column->addLayout(line);
    m_count = new QLabel(card);
    m_count->setObjectName(QStringLiteral("blockCount"));
    m_count->setWordWrap(true);
    column->addWidget(m_count);
    column->addStretch(1);
    return card;
}

void BlockBook::follow()
{
    if (m_shown != m_session.sharedTerrain()) {
        m_shown = m_session.sharedTerrain();
        m_selected = 1;
        m_isMadeAnew = false;
        m_took.clear();
        m_editor.begin(m_shown->recipe.blocks);
    }
    m_counted = {};
    countAnew();
}

/// Once what is resident is another than what was counted, and nothing more comes.
void BlockBook::countAnew()
{
    Streamer* streamer = m_session.streamer();
    if (m_isMadeAnew && streamer
        && streamer->settled()) { // the field is there again: it takes chunks only while it is shown
        const StreamCounts made = streamer->counts();
        m_took = tr("%1 chunks regenerated, %2 kept their voxels; %3 relit and %4 remeshed, %5 ms of work.")
                     .arg(countText(made.generated - made.known), countText(made.known), countText(made.lit),
                         countText(made.meshed))
                     .arg(static_cast<double>(made.generateNs + made.lightNs + made.meshNs) / 1e6, 0, 'f', 0);
        m_isMadeAnew = false;
        sayEffect();
        emit note(m_took);
    }
    if (!isVisible() || !streamer || m_counter.isRunning())
        return;
    const StreamCounts counts = streamer->counts();
    const std::array<std::uint64_t, 3> now{m_session.epoch() + 1, counts.generated + counts.retired, counts.meshed};
    if (!counts.settled || now == m_counted)
        return;
    if (auto residents = streamer->residents()) { // else a worker keeps the books: the next time
        m_counted = now;
        m_counter.start(std::move(*residents), m_shown->recipe.blocks.kinds.size());
    }
}

void BlockBook::refresh()
{
    const QScopedValueRollback filling(m_isFilling, true);
    const auto& kinds = m_editor.set().kinds;
    m_selected = static_cast<Material>(std::clamp<std::size_t>(m_selected, 1, kinds.size() - 1));
    m_title->setText(
        tr("<b>%1 block types</b>%2").arg(kinds.size() - 1).arg(m_editor.isChanged() ? tr(" · changed") : QString()));
    sayEffect();
    m_undo->setEnabled(m_editor.canUndo());
    m_redo->setEnabled(m_editor.canRedo());
    refreshCounts();
    rebuildKind();
    m_list->scrollTo(m_list->currentIndex());
}

void BlockBook::refreshCounts()
{
    const QScopedValueRollback filling(m_isFilling, true);
    const auto& kinds = m_editor.set().kinds;
    const auto& counts = m_counter.counts();
    // The counts are of the world's numbers.
    // A turned type is named after its own with the angle behind it, e.g. "slope-90".
    QHash<QString, std::uint64_t> byName;
    const auto& world = m_shown->recipe.blocks.kinds;
    for (std::size_t w = 0; w < world.size() && w < counts.size(); ++w) {
        const std::string& name = world[w].name;
        byName[QString::fromStdString(world[w].turn == 0 ? name : name.substr(0, name.rfind('-')))] += counts[w];
    }
    const auto countOf
        = [&](std::size_t m) -> std::uint64_t { return byName.value(QString::fromStdString(kinds[m].name)); };
    std::vector<ListRow> rows;
    for (std::size_t m = 1; m < kinds.size(); ++m) {
        if (kinds[m].turn != 0)
            continue; // its unturned block represents it
        const QString warned = m_editor.findingsOf(static_cast<Material>(m)).isEmpty() ? QString() : tr(" · see note");
        const std::uint64_t count = countOf(m);
        ListRow row;
        row.key = QString::number(m);
        row.icon = iconOf(kinds[m]);
        row.text = QString::fromStdString(kinds[m].name);
        row.detail = tr("%1 · %2%3")
                         .arg(matterText(kinds[m]),
                             counts.empty()  ? tr("counting …")
                                 : count > 0 ? tr("%1 voxels here").arg(countText(count))
                                             : tr("none here"),
                             warned);
        rows.push_back(std::move(row));
    }
    m_rows.set(std::move(rows));
    makeCurrent(*m_list, QString::number(m_selected));
    const std::uint64_t count = countOf(m_selected);
    m_count->setText(shapeText(kinds[m_selected])
        + (counts.empty()   ? tr("Counting what is resident …")
                : count > 0 ? tr("<b>%1</b> voxels of it are resident now.").arg(countText(count))
                            : tr("None of it is resident now.")));
}

void BlockBook::select(Material material)
{
    m_selected = material;
    refresh();
}

bool BlockBook::save(const QString& file)
{
    if (const auto problem = m_editor.save(file.toStdString())) {
        emit trouble(QString::fromStdString(sentence(*problem)));
        return false;
    }
    emit note(tr("Saved %1").arg(file));
    return true;
}

void BlockBook::refreshTheme()
{
    if (m_shown)
        refresh();
    m_cube->update();
}

} // namespace fell::app

#include "moc_block_book.cpp"
