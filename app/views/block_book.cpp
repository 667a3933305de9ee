// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/block_book.h"
#include "views/cards.h"

#include <nlohmann/json.hpp>

#include "models/text.h"
#include "views/theme.h"

#include <QColorDialog>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QHash>
#include <QInputDialog>
#include <QLabel>
#include <QListWidget>
#include <QMessageBox>
#include <QMimeData>
#include <QPainter>
#include <QPushButton>
#include <QScopedValueRollback>
#include <QScrollArea>
#include <QSlider>
#include <QSpinBox>
#include <QVBoxLayout>

#include <cmath>
#include <set>

namespace fell {
namespace {

constexpr int kMaterialRole = Qt::UserRole;
constexpr std::array<const char*, 3> kSideKeys{"top", "side", "bottom"};

QColor colourOf(Rgb colour)
{
    return {colour.r, colour.g, colour.b};
}

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
    return kind.light.gives != std::array<std::uint8_t, 3>{};
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
        painter.setBrush(QColor(kind.light.gives[0] * 17, kind.light.gives[1] * 17, kind.light.gives[2] * 17));
        painter.drawEllipse(QPointF(kSize - 8.0, 8.0), 5, 5);
    }
    return QIcon(pixmap);
}

} // namespace

BlockCube::BlockCube(QWidget* parent)
    : QWidget(parent)
{
    setObjectName(QStringLiteral("blockCube"));
    setMinimumSize(240, 240);
    setAcceptDrops(true);
    setToolTip(
        tr("Drop a picture (PNG) on a side: it becomes the texture of that side. Textures cost the same whatever "
           "they show."));
}

void BlockCube::show(const BlockKind& kind, const std::filesystem::path& folder)
{
    m_kind = kind;
    for (std::size_t i = 0; i < 3; ++i)
        m_textures[i] = kind.textures[i].empty() ? QImage()
                                                 : QImage(QString::fromStdString((folder / kind.textures[i]).string()))
                                                       .convertToFormat(QImage::Format_RGB32);
    update();
}

void BlockCube::setSun(double degrees)
{
    m_sun = degrees;
    update();
}

/// Where a corner of the voxel is seen, from above the corner that is highest on x and z.
QPointF BlockCube::onScreen(const glm::vec3& at) const
{
    const double size = std::min(width(), height()) * 0.4;
    const QPointF foot(width() / 2.0, height() / 2.0 + size * 0.95); // of the corner in front
    const double x = at.x - 1.0, y = at.y, z = at.z - 1.0;
    return foot + QPointF((x - z) * 0.866 * size, (x + z) * 0.5 * size - y * size);
}

QPolygonF BlockCube::cornersOf(int side) const
{
    const auto at = [this](float x, float y, float z) { return onScreen({x, y, z}); };
    return side == 0 ? QPolygonF{at(0, 1, 1), at(1, 1, 1), at(1, 1, 0), at(0, 1, 0)}
        : side == 1  ? QPolygonF{at(0, 0, 1), at(1, 0, 1), at(1, 1, 1), at(0, 1, 1)}
                     : QPolygonF{at(1, 0, 1), at(1, 0, 0), at(1, 1, 0), at(1, 1, 1)};
}

double BlockCube::litOf(const glm::vec3& normal) const
{
    const double up = std::sin(m_sun * 3.14159265 / 180), along = std::cos(m_sun * 3.14159265 / 180);
    const double day = std::clamp(up * 3 + 0.35, 0.0, 1.0); // a little light is left at dusk
    const double sun = std::max(0.0, normal.y * up + (0.8 * normal.x + 0.3 * normal.z) * along);
    const double own = *std::max_element(m_kind.light.gives.begin(), m_kind.light.gives.end()) / 15.0;
    const double shape
        = 0.82 + 0.18 * std::clamp(0.6 * normal.y + 0.4 * normal.x, 0.0, 1.0); // edges are seen in any light
    return std::max((0.4 + 0.6 * sun) * day, own) * shape;
}

void BlockCube::paintEvent(QPaintEvent* /*event*/)
{
    QPainter painter(this);
    const Theme& theme = currentTheme();
    const double day = std::clamp(std::sin(m_sun * 3.14159265 / 180) * 3 + 0.35, 0.0, 1.0);
    const QColor sky = theme.dark ? QColor(44, 54, 60) : QColor(226, 234, 237);
    painter.fillRect(rect(), sky.darker(100 + static_cast<int>(160 * (1 - day))));
    painter.setRenderHint(QPainter::Antialiasing);
    if (m_kind.shape)
        paintShape(painter);
    else
        paintCube(painter);
}

void BlockCube::paintCube(QPainter& painter)
{
    const std::array<glm::vec3, 3> normals{glm::vec3{0, 1, 0}, {0, 0, 1}, {1, 0, 0}};
    for (int side = 0; side < 3; ++side) {
        const QPolygonF corners = cornersOf(side);
        const QImage& texture = m_textures[side == 0 ? 0 : 1];
        constexpr int kPlain = 8;
        QImage image = texture.isNull() ? QImage(kPlain, kPlain, QImage::Format_RGB32) : texture;
        if (texture.isNull())
            image.fill(colourOf(side == 0 ? m_kind.top : m_kind.side));
        const double w = image.width(), h = image.height();
        QTransform to;
        if (!QTransform::quadToQuad(QPolygonF{{0, h}, {w, h}, {w, 0}, {0, 0}}, corners, to))
            continue;
        painter.save();
        painter.setOpacity(m_kind.matter == Matter::Solid ? 1 : 0.35 + 0.65 * m_kind.opacity);
        painter.setTransform(to, true);
        painter.drawImage(QPointF(0, 0), image);
        painter.restore();
        painter.setPen(Qt::NoPen);
        const double dark = 1 - litOf(normals[static_cast<std::size_t>(side)]);
        painter.setBrush(QColor(10, 14, 24, static_cast<int>(225 * std::clamp(dark, 0.0, 1.0))));
        painter.drawPolygon(corners);
    }
}

/// Triangle by triangle from the back.
void BlockCube::paintShape(QPainter& painter)
{
    std::vector<const ShapeTriangle*> seen;
    for (const ShapeTriangle& one : m_kind.shape->triangles)
        if (one.normal.x + one.normal.y + one.normal.z > 0)
            seen.push_back(&one);
    const auto near = [](const ShapeTriangle* one) {
        float sum = 0;
        for (const glm::vec3& corner : one->corners)
            sum += corner.x + corner.y + corner.z;
        return sum;
    };
    std::sort(seen.begin(), seen.end(),
        [&near](const ShapeTriangle* a, const ShapeTriangle* b) { return near(a) < near(b); });
    for (const ShapeTriangle* one : seen) {
        const Rgb own = one->colour ? *one->colour : one->normal.y > 0.7F ? m_kind.top : m_kind.side;
        const double lit = std::clamp(litOf(one->normal), 0.12, 1.0);
        const QColor colour(
            static_cast<int>(own.r * lit), static_cast<int>(own.g * lit), static_cast<int>(own.b * lit));
        painter.setBrush(colour);
        painter.setPen(QPen(colour, 0.6)); // no seams between them
        painter.drawPolygon(QPolygonF{onScreen(one->corners[0]), onScreen(one->corners[1]), onScreen(one->corners[2])});
    }
}

void BlockCube::dragEnterEvent(QDragEnterEvent* event)
{
    if (event->mimeData()->hasUrls())
        event->acceptProposedAction();
}

void BlockCube::dropEvent(QDropEvent* event)
{
    const QString file = event->mimeData()->urls().value(0).toLocalFile();
    const bool isTop = cornersOf(0).containsPoint(event->position(), Qt::OddEvenFill);
    emit dropped(file, isTop ? Side::Up : Side::South);
}

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

QWidget* BlockBook::buildList()
{
    QFrame* card = newCard(this);
    card->setFixedWidth(340);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(12, 10, 12, 10);
    m_title = new QLabel(card);
    column->addWidget(m_title);
    m_list = new QListWidget(card);
    m_list->setObjectName(QStringLiteral("blockList"));
    m_list->setIconSize({30, 30});
    m_list->setSpacing(1);
    m_list->setFrameShape(QFrame::NoFrame);
    m_list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_list->setToolTip(tr("Every kind of block, with how many voxels of it are resident. A dot marks a lamp."));
    connect(m_list, &QListWidget::currentItemChanged, this, [this](QListWidgetItem* item) {
        if (m_isFilling || !item)
            return;
        m_selected = static_cast<Material>(item->data(kMaterialRole).toInt());
        rebuildKind();
    });
    column->addWidget(m_list, 1);
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
        tr("The world is made, lit and meshed anew with these kinds; what was built stays, by the names of its kinds. "
           "Colours and pictures need no more than the next frame, and are shown by themselves."));
    apply->setProperty("primary", true);
    connect(apply, &QPushButton::clicked, this, &BlockBook::showInField);
    auto* saveButton = button(tr("Save…"), "blockSave", tr("As a block set file, which recipes name."));
    connect(saveButton, &QPushButton::clicked, this, [this] {
        const QString file = QFileDialog::getSaveFileName(
            this, tr("Save block set"), QStringLiteral("blocks.json"), tr("Block set (*.json)"));
        if (!file.isEmpty())
            save(file);
    });
    last->addWidget(apply, 2);
    last->addWidget(saveButton, 1);
    column->addLayout(last);
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
    m_sun->setRange(-12, 90);
    m_sun->setValue(40);
    m_sun->setToolTip(tr("How high the sun stands over this block; a lamp shows its own light at night."));
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
        m_took = tr("%1 chunks made anew, %2 kept their voxels; %3 lit and %4 meshed, %5 ms of work.")
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
    m_title->setText(tr("<b>%1 kinds of block</b>%2")
                         .arg(kinds.size() - 1)
                         .arg(m_editor.isChanged() ? tr(" · changed") : QString()));
    m_list->clear();
    for (std::size_t m = 1; m < kinds.size(); ++m) {
        if (kinds[m].turn != 0)
            continue; // its block stands for it
        auto* item = new QListWidgetItem(iconOf(kinds[m]), {}, m_list);
        item->setData(kMaterialRole, static_cast<int>(m));
        if (m == m_selected)
            m_list->setCurrentItem(item);
    }
    sayEffect();
    m_undo->setEnabled(m_editor.canUndo());
    m_redo->setEnabled(m_editor.canRedo());
    refreshCounts();
    rebuildKind();
    m_list->scrollToItem(m_list->currentItem());
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
    for (int i = 0; i < m_list->count(); ++i) {
        QListWidgetItem* item = m_list->item(i);
        const auto m = static_cast<std::size_t>(item->data(kMaterialRole).toInt());
        const QString warned = m_editor.findingsOf(static_cast<Material>(m)).isEmpty() ? QString() : tr(" · see note");
        const std::uint64_t count = countOf(m);
        item->setText(tr("%1\n%2 · %3%4")
                          .arg(QString::fromStdString(kinds[m].name), matterText(kinds[m]),
                              counts.empty()  ? tr("counting …")
                                  : count > 0 ? tr("%1 voxels here").arg(countText(count))
                                              : tr("none here"),
                              warned));
    }
    const std::uint64_t count = countOf(m_selected);
    m_count->setText(shapeText(kinds[m_selected])
        + (counts.empty()   ? tr("Counting what is resident …")
                : count > 0 ? tr("<b>%1</b> voxels of it are resident now.").arg(countText(count))
                            : tr("None of it is resident now.")));
}

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
    matter->setToolTip(
        tr("Solid hides what is behind it. See-through and liquid are meshes of their own, drawn last."));
    connect(matter, &QComboBox::textActivated, this,
        [this](const QString& text) { change("/matter", text.toStdString()); });
    form->addRow(tr("Matter"), matter);
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
        opacity->setToolTip(tr("How much of what is behind it the picture loses; it costs nothing."));
        connect(opacity, &QDoubleSpinBox::valueChanged, this, [this](double value) { change("/opacity", value); });
        form->addRow(tr("Hides"), opacity);
    }
    column->addLayout(form);
}

/// Opacity, tint and gives: levels of 0 to 15.
void BlockBook::addLight(QVBoxLayout* column, const BlockKind& kind)
{
    constexpr int kMost = 15;
    QWidget* all = column->parentWidget();
    column->addWidget(new QLabel(tr("<b>What it does to light</b>, levels of 0 to 15"), all));
    auto* form = new QFormLayout;
    const auto level = [&](int value, const QString& name, const QString& tip) {
        auto* spin = new QSpinBox(all);
        spin->setObjectName(name);
        spin->setRange(0, kMost);
        spin->setValue(value);
        spin->setToolTip(tip);
        spin->setKeyboardTracking(false);
        return spin;
    };
    auto* opacity = level(kind.light.opacity, QStringLiteral("blockLightOpacity"),
        tr("Levels that it takes from light that enters, beside the one of every step; 15 takes all."));
    connect(opacity, &QSpinBox::valueChanged, this, [this](int value) { change("/light/opacity", value); });
    form->addRow(tr("Takes"), opacity);
    const auto three = [&](const QString& title, const char* key, std::array<int, 3> values, const QString& tip) {
        auto* row = new QHBoxLayout;
        const std::array<QString, 3> channels{tr("red"), tr("green"), tr("blue")};
        for (std::size_t c = 0; c < 3; ++c) {
            auto* spin = level(values[c], QStringLiteral("block-%1-%2").arg(QLatin1String(key)).arg(c), tip);
            spin->setPrefix(channels[c] + QLatin1Char(' '));
            connect(spin, &QSpinBox::valueChanged, this, [this, key, c](int value) { changeLevel(key, c, value); });
            row->addWidget(spin);
        }
        form->addRow(title, row);
    };
    three(tr("More of"), "tint", kind.light.tint, tr("Levels taken more from a colour: amber glass takes blue."));
    three(tr("Gives"), "gives", {kind.light.gives[0], kind.light.gives[1], kind.light.gives[2]},
        tr("The level of light that it is a lamp of; each lamp is flooded as far as its level."));
    column->addLayout(form);
}

void BlockBook::changeLevel(const char* key, std::size_t channel, int level)
{
    const BlockLight& light = m_editor.set().kinds[m_selected].light;
    nlohmann::json values = nlohmann::json::array();
    for (std::size_t c = 0; c < 3; ++c)
        values.push_back(std::string_view(key) == "tint" ? light.tint[c] : static_cast<int>(light.gives[c]));
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
    column->addWidget(new QLabel(tr("<b>Textures</b>, pictures beside the block set or dropped on the cube"), all));
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

void BlockBook::select(Material material)
{
    m_selected = material;
    refresh();
}

void BlockBook::showInField()
{
    const auto other = withBlocks(m_session.terrain(), *m_session.changes(), m_editor.set());
    if (!other)
        return emit trouble(QString::fromStdString(sentence(other.problem())));
    if (other.value().lost > 0 && !mayLose(other.value()))
        return;
    m_shown = other.value().terrain;
    m_isMadeAnew = true;
    emit worldWanted(other.value().terrain, other.value().changes);
    sayEffect();
}

/// Voxels that were built of kinds that are gone would be open air: asks.
bool BlockBook::mayLose(const OtherBlocks& other)
{
    QStringList kinds;
    for (const std::string& name : other.gone)
        kinds << QString::fromStdString(name);
    QMessageBox box(
        QMessageBox::NoIcon, tr("Remove built voxels?"), tr("Remove built voxels?"), QMessageBox::NoButton, this);
    box.setInformativeText(tr("%1 voxels were built of %2, which is no block of this set any more. They become air.")
                               .arg(countText(other.lost), kinds.join(tr(", "))));
    box.setObjectName(QStringLiteral("lostVoxelsQuestion"));
    QAbstractButton* remove = box.addButton(tr("Remove them"), QMessageBox::DestructiveRole);
    remove->setObjectName(QStringLiteral("confirm"));
    QPushButton* keep = box.addButton(tr("Keep the world"), QMessageBox::RejectRole);
    keep->setObjectName(QStringLiteral("decline"));
    box.setDefaultButton(keep);
    box.exec();
    return box.clickedButton() == remove;
}

/// The world with the kinds as they are now; null and a sentence where it cannot be.
std::shared_ptr<const Terrain> BlockBook::withEditedBlocks()
{
    auto other = terrainWith(m_session.terrain(), m_editor.set());
    if (other)
        return other.take();
    emit trouble(QString::fromStdString(sentence(other.problem())));
    return nullptr;
}

/// Has the field take on what it can: colours and pictures with the next frame, light and shapes as soon as the hand
/// rests. Kinds that come, go, or are of another matter change the ground itself and wait until they are asked for.
void BlockBook::showSoon()
{
    const BlockSet& there = m_session.terrain().recipe.blocks;
    if (m_shown != m_session.sharedTerrain() || there.text == m_editor.set().text)
        return;
    if (differOnlyInLook(there, m_editor.set()))
        showLook();
    else if (haveSameKinds(there, m_editor.set()))
        m_kindsSoon.start(); // again, while changes go on
}

void BlockBook::showLook()
{
    auto other = withEditedBlocks();
    if (!other)
        return;
    m_shown = std::move(other);
    m_took = tr("Shown with the next frame: nothing was lit or meshed again.");
    emit lookWanted(m_shown);
    sayEffect();
}

void BlockBook::showKinds()
{
    const BlockSet& there = m_session.terrain().recipe.blocks;
    if (m_shown != m_session.sharedTerrain() || there.text == m_editor.set().text
        || !haveSameKinds(there, m_editor.set()))
        return;
    auto other = withEditedBlocks();
    if (!other)
        return;
    m_shown = std::move(other);
    m_isMadeAnew = true;
    emit kindsWanted(m_shown);
    sayEffect();
}

/// What the field would have to do for the kinds as they are now, or has done.
void BlockBook::sayEffect()
{
    const BlockSet& there = m_session.terrain().recipe.blocks;
    if (!differOnlyInLook(there, m_editor.set()))
        m_effect->setText(haveSameKinds(there, m_editor.set())
                ? tr("In the field in a moment: light and meshes are made anew for it, voxels are not.")
                : tr("Not in the field yet: every chunk must be made, lit and meshed anew for it."));
    else if (m_isMadeAnew)
        m_effect->setText(tr("The field takes it on as soon as it is shown (F2)."));
    else
        m_effect->setText(m_took);
    m_effect->setVisible(!m_effect->text().isEmpty());
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

} // namespace fell
