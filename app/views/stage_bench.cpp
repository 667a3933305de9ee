// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/cards.h>
#include <fell/app/views/stage_bench.h>

#include <fell/app/views/edit_panel.h>
#include <fell/app/views/trial_panel.h>

#include <fell/app/models/text.h>
#include <fell/setup/stages.h>
#include <fell/stream/estimate.h>

#include <QFrame>
#include <QPushButton>
#include <QRadioButton>
#include <QScrollArea>
#include <QSlider>
#include <QTimer>
#include <QVBoxLayout>

#include <algorithm>

namespace fell::app {
namespace {

constexpr int kWidth = 292, kFarthestSlider = 24; // chunks: farther is typed, or varied in a transect

/// Where the slider of the distance stops, in chunks: each one, or with levels of detail up to 16 km, ever farther
/// apart.
std::vector<int> distanceStops(const Setup& setup, double voxelMetres)
{
    std::vector<int> stops;
    if (!hasLevels(setup.lod)) {
        for (int chunks = 1; chunks <= kFarthestSlider; ++chunks)
            stops.push_back(chunks);
        return stops;
    }
    constexpr double kFarthestMetres = 16384;
    const int max
        = std::clamp(static_cast<int>(kFarthestMetres / setup.chunk.edge / voxelMetres), 8, kFarthestWithLevels);
    for (int chunks = 4; chunks < max; chunks *= 2) {
        stops.push_back(chunks);
        if (chunks * 3 / 2 < max)
            stops.push_back(chunks * 3 / 2);
    }
    stops.push_back(max);
    return stops;
}

void showKeeping(const KeepTrial& trial, QLabel& table)
{
    QString text = QObject::tr("<tr><td>kept</td><td>a row</td><td align='right'>KiB</td><td align='right'>save "
                               "ms</td><td align='right'>read ms</td><td align='right'>held KiB</td></tr>");
    for (const KeepTrialRow& row : trial.rows)
        text += QStringLiteral("<tr><td>%1</td><td>%2</td><td align='right'>%3</td><td align='right'>%4</td><td "
                               "align='right'>%5</td><td align='right'>%6</td></tr>")
                    .arg(QString::fromStdString(row.what), QString::fromStdString(row.group))
                    .arg(countText(row.bytes / 1024))
                    .arg(figureText(row.saveMs), row.same ? figureText(row.loadMs) : QObject::tr("WRONG"))
                    .arg(countText(row.loadedBytes / 1024));
    table.setText(QStringLiteral("<table cellspacing='0' width='100%'>%1</table>").arg(text));
    table.setToolTip(QObject::tr("%1 chunks visited, %2 voxels changed in %3 chunks. Regenerating the visited chunks "
                                 "takes %4 ms. Held: memory of a running world.")
                         .arg(countText(trial.visited), countText(trial.voxels), countText(trial.changed),
                             figureText(trial.makeMs)));
}

} // namespace

StageBench::StageBench(WorldSession& session, QWidget* parent)
    : QWidget(parent)
    , m_session(session)
    , m_column(new QVBoxLayout(this))
    , m_scroll(new QScrollArea(this))
{
    setFixedWidth(kWidth);
    m_column->setContentsMargins(10, 10, 10, 10);
    m_column->setSpacing(10);
    buildReach(m_column);
    // A stage with much to choose, in a low window: it scrolls, and is never compressed.
    m_scroll->setWidgetResizable(true);
    m_scroll->setFrameShape(QFrame::NoFrame);
    m_scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_scroll->setObjectName(QStringLiteral("stageScroll"));
    auto* page = new QWidget(m_scroll);
    page->setObjectName(QStringLiteral("stagePage"));
    m_stagePlace = new QVBoxLayout(page);
    m_stagePlace->setContentsMargins(0, 0, 0, 0);
    m_stagePlace->addStretch(1);
    m_scroll->setWidget(page);
    m_column->addWidget(m_scroll, 1);
    connect(&session, &WorldSession::editedChanged, this, [this] {
        syncReach();
        syncStage();
    });
    connect(&m_trial, &LightTrialRunner::changed, this, &StageBench::syncStage);
    connect(&m_keepTrial, &KeepTrialRunner::changed, this, &StageBench::syncStage);
    connect(&m_auditor, &CullAuditor::changed, this, &StageBench::syncStage);
    connect(&session.stepTrial, &StepTrial::changed, this, &StageBench::syncStage);
    buildStage();
}

void StageBench::takeFocus()
{
    QWidget* first = nullptr;
    for (auto* control : m_scroll->findChildren<QWidget*>()) {
        if (!control->isVisible() || !control->isEnabled() || !(control->focusPolicy() & Qt::TabFocus))
            continue;
        const auto* method = qobject_cast<const QRadioButton*>(control);
        if (!first || (method && method->isChecked()))
            first = control;
        if (method && method->isChecked())
            break;
    }
    activateWindow();
    (first ? first : static_cast<QWidget*>(m_distance))->setFocus(Qt::ShortcutFocusReason);
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
    m_distance->setAccessibleName(tr("Render distance"));
    m_distance->setToolTip(
        tr("How far from the camera chunks are loaded. Loaded chunks grow with its cube, visible "
           "chunks with its square. With levels of detail, each doubling costs as much as the last."));
    box->addWidget(m_distance);
    m_resident = newLabel({}, "muted", card);
    m_resident->setObjectName(QStringLiteral("resident"));
    box->addWidget(m_resident);
    auto* day = new QHBoxLayout;
    day->addWidget(newLabel(tr("Sun"), "title", card));
    m_sun = new QSlider(Qt::Horizontal, card);
    m_sun->setObjectName(QStringLiteral("sun"));
    m_sun->setAccessibleName(tr("Height of the sun"));
    m_sun->setRange(static_cast<int>(kLowestSun), static_cast<int>(kHighestSun));
    m_sun->setToolTip(tr("Height of the sun, from night to noon. No cost: light values stay."));
    day->addWidget(m_sun, 1);
    m_sunText = new QLabel(card);
    m_sunText->setObjectName(QStringLiteral("sunText"));
    m_sunText->setMinimumWidth(64);
    m_sunText->setAlignment(Qt::AlignRight);
    day->addWidget(m_sunText);
    box->addSpacing(4);
    box->addLayout(day);
    connect(m_sun, &QSlider::valueChanged, this,
        [this](int degrees) { m_session.look.change([degrees](FieldLook& look) { look.sunHeight = degrees; }); });
    connect(&m_session.look, &ViewState::changed, this, &StageBench::syncSun);
    syncSun();
    column->addWidget(card);
    connect(m_distance, &QSlider::valueChanged, this,
        [this](int stop) { m_session.edited().set("stream.distance", m_stops[static_cast<std::size_t>(stop - 1)]); });
    syncReach();
}

void StageBench::syncReach()
{
    const QSignalBlocker blocker(m_distance);
    const Setup& setup = m_session.edited().current();
    const double voxel = m_session.terrain().recipe.voxelMetres,
                 metres = setup.stream.distance * setup.chunk.edge * voxel;
    m_stops = distanceStops(setup, voxel);
    m_distance->setRange(1, static_cast<int>(m_stops.size()));
    const auto stop = std::lower_bound(m_stops.begin(), m_stops.end(), setup.stream.distance);
    m_distance->setValue(static_cast<int>(stop - m_stops.begin()) + 1);
    m_distanceText->setText(
        tr("<b>%1</b> chunks · %2")
            .arg(setup.stream.distance)
            .arg(metres < 2000 ? tr("%1 m").arg(qRound(metres)) : tr("%1 km").arg(metres / 1000, 0, 'f', 1)));
}

void StageBench::syncSun()
{
    const QSignalBlocker blocker(m_sun);
    const int degrees = qRound(m_session.look->sunHeight);
    m_sun->setValue(degrees);
    m_sunText->setText(degrees < -8 ? tr("%1° night").arg(degrees)
            : degrees < 2           ? tr("%1° dusk").arg(degrees)
            : degrees < 15          ? tr("%1° low").arg(degrees)
                                    : tr("%1° day").arg(degrees));
}

void StageBench::show(const StreamCounts& counts, const FrameReport& frame, const OctreeFigures& octree)
{
    if (m_cull)
        m_cull->show(frame, octree);
    if (m_passes)
        m_passes->refresh();
    const QString state = counts.full ? tr("memory full")
        : counts.settled              ? tr("all loaded")
                         : tr("loading, %1 to go").arg(countText(counts.toGenerate + counts.toMesh + counts.toUpload));
    const auto mebibytes = [](std::uint64_t bytes) { return figureText(static_cast<double>(bytes) / 1048576); };
    const Setup& setup = m_session.edited().current();
    if (counts.settled && !counts.full)
        m_settled = {counts, setup};
    // While it fills: what it will come to, by what was there when all was.
    const std::uint64_t expected = counts.settled ? 0 : expectedBytes(m_settled.counts, m_settled.setup, setup);
    m_resident->setText(
        tr("%1 chunks, %2 with a mesh\n%3\nMiB: voxels %4 · light %5 · GPU %6%7")
            .arg(countText(counts.resident), countText(frame.residentChunks), state, mebibytes(counts.voxelBytes),
                mebibytes(counts.lightBytes), mebibytes(frame.gpuBytes),
                expected > 0 ? tr("\nabout %1 of voxels, light and meshes expected").arg(bytesText(expected))
                             : QString()));
    if (m_levels)
        m_levels->setText(levelsText(counts));
    if (m_lightCosts) {
        const auto each = [](std::uint64_t ns, std::uint64_t chunks) {
            return chunks == 0 ? QStringLiteral("–")
                               : figureText(static_cast<double>(ns) / static_cast<double>(chunks) / 1000);
        };
        m_lightCostsText = tr("Per chunk, on average: flood %1 µs, mesh with light %2 µs")
                               .arg(each(counts.lightNs, counts.lit), each(counts.meshNs, counts.meshed));
        if (counts.relit > 0)
            m_lightCostsText += tr(", relight only %1 µs").arg(each(counts.relightNs, counts.relit));
        m_lightCosts->setText(m_lightCostsText);
    }
}

/// What each chunk costs, and a button that measures all modes here and now; addMethods shows its figures.
void StageBench::addModes(QVBoxLayout* column)
{
    QWidget* card = column->parentWidget();
    m_lightCosts = newLabel(m_lightCostsText, "muted", card);
    m_lightCosts->setObjectName(QStringLiteral("lightCosts"));
    m_lightCosts->setToolTip(tr("Relight only: setups that light chunks later keep the quads and change "
                                "only the light values at their corners."));
    column->addWidget(m_lightCosts);
    auto* measure = new QPushButton(card);
    onSync([this, measure] { measure->setText(m_trial.isRunning() ? tr("Stop measuring") : tr("Measure all modes")); });
    measure->setObjectName(QStringLiteral("measureLight"));
    measure->setToolTip(tr("Floods 4 x 4 x 4 chunks of this world with 60 lamps in every mode, in turn, on one thread, "
                           "and carries a lamp about: milliseconds of a flood and bytes a voxel. Takes a second or two "
                           "and a core."));
    connect(measure, &QPushButton::clicked, this, [this] {
        if (m_trial.isRunning())
            m_trial.stop();
        else
            m_trial.start(
                m_session.sharedTerrain(), m_session.changes()->copy(), m_session.edited().current().chunk.edge);
    });
    column->addWidget(measure);
}

/// A button that keeps this world in every way here and now, and what came of it.
void StageBench::addWays(QVBoxLayout* column)
{
    QWidget* card = column->parentWidget();
    auto* measure = new QPushButton(card);
    measure->setObjectName(QStringLiteral("measureKeeping"));
    measure->setToolTip(
        tr("Saves and reads the chunks within 4 of the eye, and all that was changed, with every choice "
           "of what is kept and of a row, in files that are gone afterwards. Where nothing was changed, "
           "a thousand voxels are made up."));
    connect(measure, &QPushButton::clicked, this, [this] {
        if (m_keepTrial.isRunning())
            m_keepTrial.stop();
        else
            m_keepTrial.start(m_session.sharedTerrain(), m_session.changes(), chunkOf(m_session.eye.cell, kKeptEdge));
    });
    column->addWidget(measure);
    auto* trouble = newLabel({}, "muted", card);
    column->addWidget(trouble);
    auto* table = newLabel({}, "plain", card);
    table->setObjectName(QStringLiteral("keepFigures"));
    column->addWidget(table);
    onSync([this, measure, trouble, table] {
        measure->setText(m_keepTrial.isRunning() ? tr("Stop measuring") : tr("Measure the ways of keeping"));
        trouble->setText(m_keepTrial.trouble());
        trouble->setVisible(!m_keepTrial.trouble().isEmpty());
        table->setVisible(m_keepTrial.result().has_value());
        if (m_keepTrial.result())
            showKeeping(*m_keepTrial.result(), *table);
    });
}

void StageBench::openStage(const QString& id)
{
    if (id == m_stage)
        return syncStage();
    m_stage = id;
    buildStage();
}

/// The levels that are shown, and the same world without them.
void StageBench::addLevels(QVBoxLayout* box, QWidget* card)
{
    m_levels = newLabel({}, "plain", card);
    m_levels->setObjectName(QStringLiteral("levelsShown"));
    m_levels->setToolTip(tr("The levels that are shown: how long a voxel is, and how many chunks. The colours are "
                            "those of \"detail\" under Show."));
    box->addWidget(m_levels);
    auto* compare = new QPushButton(tr("Compare with full detail"), card);
    compare->setObjectName(QStringLiteral("fullDetail"));
    onSync([this, compare] { compare->setEnabled(hasLevels(m_session.setup().lod)); });
    compare->setToolTip(tr("Setup B becomes A without levels of detail. Both are limited to 512 m. The "
                           "wipe shows both and the mean difference of the frames."));
    connect(compare, &QPushButton::clicked, this, &StageBench::fullDetailWanted);
    box->addWidget(compare);
}

/// What the stage does it with: its methods and numbers, below what one works with.
void StageBench::addWork(QVBoxLayout* box, const Stage& stage, QWidget* card)
{
    if (stage.id == "cull") {
        m_cull = new CullPanel(
            m_session, m_auditor, m_cullTab,
            [this, stage = &stage](QVBoxLayout* column) { addNumbers(column, *stage); }, card);
        connect(m_cull, &CullPanel::tabChosen, this, [this](CullPanel::Tab tab) { m_cullTab = tab; });
        onSync([this] { m_cull->sync(); });
        box->addWidget(m_cull);
    } else {
        if (stage.id == "edit") { // what one works with comes first
            auto* tools = new EditPanel(m_session, card);
            connect(tools, &EditPanel::saveWanted, this, &StageBench::saveWanted);
            onSync([tools] { tools->refresh(); });
            box->addWidget(tools);
        }
        addMethods(box, stage);
        if (stage.id == "mesh")
            addLoading(box);
        addNumbers(box, stage);
    }
}

void StageBench::onSync(std::function<void()> sync)
{
    sync();
    m_syncs.push_back(std::move(sync));
}

void StageBench::syncStage()
{
    if (listedMethods(stageShown()) != m_listed)
        return buildStage();
    for (const auto& sync : m_syncs)
        sync();
}

const Stage& StageBench::stageShown() const
{
    const auto& all = stages();
    return *std::find_if(
        all.begin(), all.end(), [this](const Stage& s) { return QString::fromStdString(s.id) == m_stage; });
}

void StageBench::buildStage()
{
    m_syncs.clear();
    m_lightCosts = nullptr;
    m_cull = nullptr;
    m_passes = nullptr;
    m_levels = nullptr;
    if (m_stageCard) {
        m_stageCard->hide();
        m_stageCard->deleteLater(); // a control of it may be what asked for this
        m_stageCard->setParent(nullptr);
    }
    const Stage* stage = &stageShown();
    m_listed = listedMethods(*stage);
    QFrame* card = newCard(this);
    auto* box = new QVBoxLayout(card);
    box->setSpacing(5);
    auto* title = newLabel({}, "plain", card);
    onSync([this, title, stage] {
        const QString side = !m_session.hasB() ? QString() : m_session.editsB() ? tr("B · ") : tr("A · ");
        title->setText(tr("<b>%1%2</b> — %3")
                           .arg(side, QString::fromStdString(stage->title), QString::fromStdString(stage->note)));
    });
    box->addWidget(title);
    addWork(box, *stage, card);
    if (stage->id == "mesh" || stage->id == "draw" || stage->id == "light" || stage->id == "levels")
        addLook(box);
    if (stage->id == "levels")
        addLevels(box, card);
    if (stage->id == "light")
        addModes(box);
    if (stage->id == "edit")
        addWays(box);
    if (stage->id == "draw") {
        box->addWidget(m_passes = new TrialPanel(m_session, StepTrial::Of::Passes, card));
        onSync([this] {
            m_passes->sync();
            if (!m_session.stepTrial.rows(StepTrial::Of::Passes).empty()) // once it is laid out
                QTimer::singleShot(100, m_passes, [this] { m_scroll->ensureWidgetVisible(m_passes); });
        });
    }
    m_stageCard = card;
    m_stagePlace->insertWidget(0, card);
}

/// A line a level, with its colour.
QString StageBench::levelsText(const StreamCounts& counts) const
{
    constexpr int kPerRow = 3;
    QString text;
    int cells = 0;
    for (int level = 0; level <= kMaxLevel; ++level) {
        const std::uint64_t chunks = counts.shownAt[static_cast<std::size_t>(level)];
        if (chunks == 0)
            continue;
        const auto colour = levelColour(level);
        text += cells % kPerRow == 0 ? QStringLiteral("<tr>") : QString();
        text += tr("<td style='background:%1'>&nbsp;&nbsp;</td><td style='white-space:nowrap'>%2 m</td><td "
                   "align='right'>%3</td>")
                    .arg(QColor(colour[0], colour[1], colour[2]).name())
                    .arg(std::ldexp(m_session.terrain().recipe.voxelMetres, level))
                    .arg(chunks);
        text += ++cells % kPerRow == 0 ? QStringLiteral("</tr>") : QStringLiteral("<td>&nbsp;</td>");
    }
    if (cells == 0)
        return {};
    return tr("Length of a voxel, and chunks shown:")
        + QStringLiteral("<table cellspacing='2' cellpadding='1'>%1%2</table>")
              .arg(text, cells % kPerRow == 0 ? QString() : QStringLiteral("</tr>"));
}

QString StageBench::measuredOf(const std::string& mode) const
{
    if (!m_trial.result())
        return {};
    for (const LightTrialRow& row : m_trial.result()->rows)
        if (row.mode == mode)
            return tr("%1 ms · %2 B").arg(figureText(row.floodMs.p50), figureText(row.bytesPerVoxel));
    return {};
}

} // namespace fell::app

#include "moc_stage_bench.cpp"
