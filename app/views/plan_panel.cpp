// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/plan_panel.h>

#include <fell/app/models/text.h>
#include <fell/app/views/field_view.h>
#include <fell/app/views/theme.h>

#include <QComboBox>
#include <QGridLayout>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

namespace fell::app {
namespace {

constexpr int kWidth = 668, kCard = 296, kPlanRefreshMs = 120;
constexpr std::size_t kLines = 9; // of a life

/// One entry of the key: a square as on the plan, and what it says.
class KeyEntry : public QWidget {
public:
    KeyEntry(ChunkProgress stage, const QString& text, QWidget* parent)
        : QWidget(parent)
        , m_stage(stage)
        , m_text(text)
    {
        setFixedHeight(16);
        setMinimumWidth(20 + QFontMetrics(uiFont(11)).horizontalAdvance(text));
    }

protected:
    void paintEvent(QPaintEvent*) override
    {
        QPainter painter(this);
        const QRectF box(0, 2, 12, 12);
        PlanCanvas::paintKey(painter, box, m_stage);
        painter.setPen(currentTheme().line);
        painter.drawRect(box);
        painter.setPen(currentTheme().muted);
        painter.setFont(uiFont(11));
        painter.drawText(18, 12, m_text);
    }

private:
    ChunkProgress m_stage;
    QString m_text;
};

QString row(const QStringList& cells)
{
    QString out = QStringLiteral("<tr>");
    for (const QString& cell : cells)
        out += QStringLiteral("<td style='padding-right:7px; white-space:nowrap'>%1</td>").arg(cell.toHtmlEscaped());
    return out + QStringLiteral("</tr>");
}

} // namespace

PlanPanel::PlanPanel(WorldSession& session, FieldView& field, QWidget* parent)
    : QWidget(parent)
    , m_session(session)
    , m_field(field)
    , m_above(new PlanCanvas(PlanCanvas::From::Above, this))
    , m_side(new PlanCanvas(PlanCanvas::From::Side, this))
{
    setFixedWidth(kWidth);
    auto* line = new QHBoxLayout(this);
    line->setContentsMargins(8, 8, 8, 8);
    line->setSpacing(8);
    auto* plans = new QVBoxLayout;
    plans->setSpacing(6);
    m_above->setObjectName(QStringLiteral("planAbove"));
    m_side->setObjectName(QStringLiteral("planSide"));
    plans->addWidget(m_above, 3);
    plans->addWidget(m_side, 2);
    plans->addWidget(buildKey());
    plans->addWidget(buildRouteRow());
    line->addLayout(plans, 1);
    line->addWidget(buildCard());
    for (PlanCanvas* canvas : {m_above, m_side}) {
        connect(canvas, &PlanCanvas::routePointGrabbed, &session.routeEditor, &RouteEditor::grab);
        connect(canvas, &PlanCanvas::routePointRemoved, &session.routeEditor,
            [&session](int point) { session.routeEditor.remove(static_cast<std::size_t>(point)); });
        connect(canvas, &PlanCanvas::routePointAdded, &session.routeEditor,
            [&session](int after, double part) { session.routeEditor.add(static_cast<std::size_t>(after), part); });
        connect(canvas, &PlanCanvas::routePointDragged, this, [this, canvas](int point, double right, double down) {
            const double chunk = m_session.setup().chunk.edge * m_session.terrain().recipe.voxelMetres;
            m_session.routeEditor.move(static_cast<std::size_t>(point),
                canvas == m_above ? std::array{right * chunk, 0.0, down * chunk}
                                  : std::array{right * chunk, -down * chunk, 0.0});
        });
        connect(canvas, &PlanCanvas::clicked, this, [this](ChunkPos chunk) { choose(chunk); });
        connect(canvas, &PlanCanvas::viewerDragged, this, [this, canvas](double right, double down) {
            const double edge = m_session.setup().chunk.edge;
            m_session.eye = moved(m_session.eye,
                canvas == m_above ? glm::dvec3(right * edge, 0, down * edge)
                                  : glm::dvec3(right * edge, -down * edge, 0));
        });
    }
    connect(&session.routeEditor, &RouteEditor::changed, this, [this] {
        m_undoRoute->setEnabled(m_session.routeEditor.isChanged());
        m_saveRoute->setEnabled(m_session.routeEditor.route().has_value());
        const auto& shown = m_session.routeEditor.route();
        m_route->setCurrentIndex(shown ? std::max(0, m_route->findText(QString::fromStdString(shown->name))) : 0);
        refresh();
    });
    if (m_field.window())
        connect(m_field.window(), &FieldWindow::lookedUp, this, &PlanPanel::showFound);
    m_timer.setInterval(kPlanRefreshMs);
    connect(&m_timer, &QTimer::timeout, this, [this] {
        if (isVisible())
            refresh();
    });
    m_timer.start();
}

QWidget* PlanPanel::buildKey()
{
    auto* key = new QWidget(this);
    auto* grid = new QGridLayout(key);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(4);
    grid->setVerticalSpacing(1);
    const std::pair<ChunkProgress, QString> entries[]{{ChunkProgress::Wanted, tr("to generate")},
        {ChunkProgress::Generating, tr("being generated")}, {ChunkProgress::Waiting, tr("waits for neighbours")},
        {ChunkProgress::Ready, tr("ready to mesh")}, {ChunkProgress::Meshing, tr("being meshed")},
        {ChunkProgress::Meshed, tr("has a mesh")}, {ChunkProgress::Bare, tr("nothing to see")},
        {ChunkProgress::Kept, tr("kept beyond")}, {ChunkProgress::Failed, tr("failed")}};
    int at = 0;
    for (const auto& [stage, text] : entries) {
        grid->addWidget(new KeyEntry(stage, text, key), at / 3, at % 3);
        ++at;
    }
    return key;
}

QWidget* PlanPanel::buildRouteRow()
{
    auto* all = new QWidget(this);
    auto* row = new QHBoxLayout(all);
    row->setContentsMargins(0, 2, 0, 0);
    row->addWidget(new QLabel(tr("Route"), all));
    m_route = new QComboBox(all);
    m_route->setObjectName(QStringLiteral("planRoute"));
    m_route->setToolTip(
        tr("Shows a route on both plans. Drag its points; double-click the way for a new one; right-click "
           "a point to take it away. From above it moves over the map, from the south also up and down."));
    row->addWidget(m_route, 1);
    m_undoRoute = new QPushButton(tr("Undo"), all);
    m_undoRoute->setObjectName(QStringLiteral("undoRoute"));
    m_undoRoute->setToolTip(tr("Takes back the last change of the route."));
    m_saveRoute = new QPushButton(tr("Save route…"), all);
    m_saveRoute->setObjectName(QStringLiteral("saveRoute"));
    m_saveRoute->setToolTip(tr("Saves the route. The next transect uses it."));
    row->addWidget(m_undoRoute);
    row->addWidget(m_saveRoute);
    m_undoRoute->setEnabled(false);
    m_saveRoute->setEnabled(false);
    listRoutes();
    connect(m_route, &QComboBox::activated, this, [this](int index) {
        auto route = index > 0 ? routeNamed(m_route->currentText().toStdString()) : Outcome<Route>(Problem{});
        m_session.routeEditor.open(route ? std::optional(route.take()) : std::nullopt);
    });
    connect(m_undoRoute, &QPushButton::clicked, &m_session.routeEditor, &RouteEditor::undo);
    connect(m_saveRoute, &QPushButton::clicked, this, &PlanPanel::routeKept);
    return all;
}

void PlanPanel::listRoutes()
{
    const QString now = m_route->currentText();
    m_route->clear();
    m_route->addItem(tr("none shown"));
    m_route->addItems(routeNames());
    m_route->setCurrentText(now);
}

void PlanPanel::placeRoute(PlanLook& look, const PlanCanvas* canvas, ChunkPos viewer) const
{
    const std::optional<Route>& route = m_session.routeEditor.route();
    if (!route)
        return;
    look.route.clear();
    look.curve.clear();
    const double chunk = m_session.setup().chunk.edge * m_session.terrain().recipe.voxelMetres;
    const auto placeOf = [&](const RoutePoint& point) {
        const double right = point.at[0] / chunk - static_cast<double>(viewer.x) - 0.5;
        return canvas == m_above ? QPointF(right, point.at[2] / chunk - static_cast<double>(viewer.z) - 0.5)
                                 : QPointF(right, static_cast<double>(viewer.y) + 0.5 - point.at[1] / chunk);
    };
    for (const RoutePoint& point : route->points)
        look.route.push_back(placeOf(point));
    const std::size_t pieces = (route->points.size() - 1) * PlanLook::kCurvePieces;
    for (std::size_t i = 0; i <= pieces; ++i)
        look.curve.push_back(placeOf(pointOn(*route, static_cast<double>(i) / static_cast<double>(pieces))));
}

QWidget* PlanPanel::buildCard()
{
    auto* card = new QFrame(this);
    card->setProperty("card", true);
    card->setFixedWidth(kCard);
    auto* box = new QVBoxLayout(card);
    box->setSpacing(5);
    const auto label = [&](const char* look) {
        auto* made = new QLabel(card);
        made->setProperty(look, true);
        made->setWordWrap(true);
        made->setAlignment(Qt::AlignTop | Qt::AlignLeft);
        box->addWidget(made);
        return made;
    };
    m_title = label("title");
    m_title->setObjectName(QStringLiteral("storyTitle"));
    m_why = label("plain");
    m_why->setObjectName(QStringLiteral("storyWhy"));
    m_why->setMinimumHeight(50);
    m_figures = label("muted");
    m_life = label("plain");
    m_life->setObjectName(QStringLiteral("storyLife"));
    m_life->setTextFormat(Qt::RichText);
    box->addStretch(1);
    m_arenaText = label("muted");
    m_arenaText->setObjectName(QStringLiteral("arenaText"));
    m_arena = new ArenaCanvas(card);
    m_arena->setFixedHeight(84);
    box->addWidget(m_arena);
    connect(m_arena, &ArenaCanvas::clicked, this, [this](ChunkPos chunk) { choose(chunk); });
    m_numbers = new QCheckBox(tr("Numbers: the order of work"), card);
    m_numbers->setObjectName(QStringLiteral("planNumbers"));
    m_numbers->setToolTip(tr("Shows the order of work on each chunk, if the squares are large enough."));
    box->addWidget(m_numbers);
    m_octree = new QCheckBox(tr("Octree, empty places dashed"), card);
    m_octree->setObjectName(QStringLiteral("planOctree"));
    m_octree->setToolTip(tr("The nodes and leaves of the world octree that culling walks down."));
    box->addWidget(m_octree);
    auto* record = new QPushButton(tr("Save recording…"), card);
    record->setObjectName(QStringLiteral("saveRecording"));
    record->setToolTip(
        tr("The lives of all chunks as Trace Event JSON: threads are tracks, a chunk's life is a flow."));
    connect(record, &QPushButton::clicked, this, &PlanPanel::recordingWanted);
    box->addWidget(record);
    return card;
}

void PlanPanel::choose(std::optional<ChunkPos> chunk)
{
    m_chosen = chunk;
    refresh();
}

ChunkPos PlanPanel::shownChunk() const
{
    const bool isByKeys = m_above->hasFocus() || m_side->hasFocus() || m_arena->hasFocus();
    if (!(isByKeys && m_chosen) && m_field.window() && m_field.window()->pointed())
        return m_field.window()->pointed()->chunk;
    return m_chosen ? *m_chosen : chunkOf(m_session.eye.cell, m_session.setup().chunk.edge);
}

void PlanPanel::refresh()
{
    Streamer* streamer = m_session.streamer();
    if (!streamer)
        return;
    const Setup& setup = m_session.setup();
    const ChunkPos chunk = shownChunk();
    PlanLook look;
    look.eye = m_session.eye;
    look.edge = setup.chunk.edge;
    look.fieldOfView = setup.draw.fieldOfView;
    look.aspect = static_cast<double>(m_field.width()) / std::max(1, m_field.height());
    look.numbers = m_numbers->isChecked();
    look.chosen = chunk;
    FieldWindow* window = m_field.window();
    if (m_octree->isChecked() && window)
        look.octree = window->found().cells;
    const auto plan = streamer->plan();
    for (PlanCanvas* canvas : {m_above, m_side}) {
        if (plan)
            placeRoute(look, canvas, plan->viewer);
        canvas->show(plan, look);
    }
    if (window)
        window->lookUp(chunk, m_octree->isChecked()); // what it finds is told by showFound
    else
        tell(chunk, {});
}

/// What the renderer has of the chunk and of its memory, as of the last frame.
void PlanPanel::showFound()
{
    if (!isVisible() || !m_session.streamer() || !m_field.window())
        return;
    const Found& found = m_field.window()->found();
    const ChunkPos chunk = *found.asked.chunk;
    tell(chunk, found);
    const ArenaFigures& arena = found.arena;
    m_arenaText->setText(arena.shared
            ? tr("Graphics memory: %1 of %2 in use, %3 % of what is free is scattered")
                  .arg(bytesText(arena.usedBytes), bytesText(arena.allocatedBytes))
                  .arg(qRound(100 * arena.fragmentation()))
            : tr("Graphics memory: %1 in one buffer per chunk").arg(bytesText(arena.allocatedBytes)));
    m_arena->show(arena, chunk);
}

void PlanPanel::tell(ChunkPos chunk, const Found& found)
{
    Streamer* streamer = m_session.streamer();
    const auto probe = streamer->probe(chunk);
    if (!probe)
        return; // a worker keeps the books: the next time
    const LifeRecorder& lives = streamer->lives();
    m_story = storyOf(chunk, *probe, found.chunk, lives.of(chunk), lives.nowNs(), found.rejectedBy);
    m_title->setText(m_story.title);
    m_why->setText(m_story.whyNot.isEmpty() ? tr("<b>Drawn.</b>")
                                            : tr("<b>Not drawn:</b> %1.").arg(m_story.whyNot.toHtmlEscaped()));
    m_figures->setText(
        m_story.figures.isEmpty() ? m_story.neighbours : m_story.figures + QLatin1Char('\n') + m_story.neighbours);
    QString life = QStringLiteral("<table cellspacing='0'>");
    for (std::size_t i = 0; i < std::min(kLines, m_story.life.size()); ++i) {
        const StoryLine& at = m_story.life[i];
        life += row({at.ago, at.what, at.thread, at.cost});
    }
    life += QStringLiteral("</table>");
    if (m_story.life.empty())
        life = tr("Nothing is remembered of it.");
    else if (m_story.life.size() > kLines)
        life += tr("and %1 earlier").arg(m_story.life.size() - kLines);
    m_life->setText(life);
}

} // namespace fell::app

#include "moc_plan_panel.cpp"
