// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/cards.h>
#include <fell/app/views/cull_panel.h>

#include <fell/app/views/trial_panel.h>

#include <fell/app/models/text.h>
#include <fell/app/views/row_delegate.h>

#include <QCheckBox>
#include <QHBoxLayout>
#include <QListView>
#include <QPushButton>
#include <QTabBar>
#include <QToolButton>
#include <QVBoxLayout>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <optional>

namespace fell::app {
namespace {

constexpr int kViews = 60; // of an audit from the window: some ten seconds

QString octreeText(const OctreeFigures& octree, std::optional<double> walkedIn)
{
    if (octree.nodes == 0)
        return QObject::tr("The octree is empty.");
    const QString text
        = QObject::tr("Octree: %1 levels, %2 nodes, %3 leaves, %4 empty places, %5")
              .arg(octree.depth)
              .arg(countText(octree.nodes), countText(octree.leaves), countText(octree.empty), bytesText(octree.bytes));
    return walkedIn ? QObject::tr("%1; walked in %2 µs").arg(text, figureText(*walkedIn))
                    : QObject::tr("%1; not walked by these steps").arg(text);
}

} // namespace

CullPanel::CullPanel(WorldSession& session, CullAuditor& auditor, Tab tab,
    const std::function<void(QVBoxLayout*)>& addNumbers, QWidget* parent)
    : QWidget(parent)
    , m_session(session)
    , m_auditor(auditor)
{
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    auto* tabs = new QTabBar(this);
    tabs->setObjectName(QStringLiteral("cullTabs"));
    tabs->setDrawBase(false);
    tabs->setUsesScrollButtons(false);
    tabs->setExpanding(true);
    tabs->addTab(tr("Steps"));
    tabs->addTab(tr("Options"));
    tabs->addTab(tr("Savings"));
    tabs->addTab(tr("Audit"));
    tabs->setCurrentIndex(static_cast<int>(tab));
    connect(tabs, &QTabBar::currentChanged, this, [this](int index) {
        showTab(static_cast<Tab>(index));
        emit tabChosen(static_cast<Tab>(index));
    });
    column->addWidget(tabs);
    auto* options = new QWidget(this);
    auto* optionColumn = new QVBoxLayout(options);
    optionColumn->setContentsMargins(0, 0, 0, 0);
    addNumbers(optionColumn);
    m_octree = newLabel({}, "muted", options);
    m_octree->setObjectName(QStringLiteral("octreeFigures"));
    optionColumn->addWidget(m_octree);
    m_savings = new TrialPanel(m_session, StepTrial::Of::Steps, this);
    m_pages = {buildSteps(), options, m_savings, buildAudit()};
    for (QWidget* page : m_pages)
        column->addWidget(page);
    addLook(column);
    showTab(tab);
    sync();
}

void CullPanel::showTab(Tab tab)
{
    for (std::size_t i = 0; i < m_pages.size(); ++i)
        m_pages[i]->setVisible(i == static_cast<std::size_t>(tab));
}

void CullPanel::sync()
{
    syncSteps();
    m_savings->sync();
    syncAudit();
}

void CullPanel::setSteps(const std::vector<std::string>& steps)
{
    m_session.edited().set("cull.steps", steps);
}

QWidget* CullPanel::buildSteps()
{
    auto* page = new QWidget(this);
    m_stepColumn = new QVBoxLayout(page);
    m_stepColumn->setContentsMargins(0, 0, 0, 0);
    m_stepColumn->setSpacing(3);
    for (const CullStep& step : cullSteps())
        addStep(step, page);
    return page;
}

void CullPanel::addStep(const CullStep& step, QWidget* page)
{
    StepLine made;
    made.step = &step;
    made.line = new QWidget(page);
    auto* lines = new QVBoxLayout(made.line);
    lines->setContentsMargins(0, 0, 0, 0);
    lines->setSpacing(3);
    auto* line = new QHBoxLayout;
    line->setSpacing(2);
    const QString id = QString::fromUtf8(step.id);
    made.box = new QCheckBox(made.line);
    made.box->setObjectName(QStringLiteral("cull.steps=%1").arg(id));
    made.box->setToolTip(QString::fromUtf8(step.note));
    connect(made.box, &QCheckBox::toggled, this, [this, id = std::string(step.id)](bool on) {
        auto now = steps();
        if (on)
            now.push_back(id);
        else
            std::erase(now, id);
        setSteps(now);
    });
    line->addWidget(made.box);
    line->addStretch(1);
    if (!step.isExact) {
        auto* warning = newLabel(tr("loses chunks"), "over", made.line);
        warning->setWordWrap(false);
        warning->setToolTip(tr("Not exact: the audit lists the visible chunks that it loses."));
        line->addWidget(warning);
    }
    const auto mover = [&](Qt::ArrowType arrow, int by) {
        auto* button = new QToolButton(made.line);
        button->setArrowType(arrow);
        button->setAutoRaise(true);
        button->setProperty("small", true);
        button->setFixedSize(18, 18);
        button->setObjectName(
            QStringLiteral("%1=%2").arg(by < 0 ? QStringLiteral("earlier") : QStringLiteral("later"), id));
        button->setToolTip(by < 0 ? tr("Asked earlier: fewer chunks are left for those after it.")
                                  : tr("Asked later: it has fewer chunks to ask about."));
        connect(button, &QToolButton::clicked, this, [this, id = std::string(step.id), by] {
            auto now = steps();
            const auto at = std::find(now.begin(), now.end(), id);
            if (at == now.end() || (by < 0 ? at == now.begin() : at + 1 == now.end()))
                return;
            std::iter_swap(at, at + by);
            setSteps(now);
        });
        line->addWidget(button);
        return button;
    };
    made.earlier = mover(Qt::UpArrow, -1);
    made.later = mover(Qt::DownArrow, 1);
    lines->addLayout(line);
    made.counts = newLabel({}, "muted", made.line);
    made.counts->setWordWrap(false);
    made.counts->setObjectName(QStringLiteral("counts=%1").arg(id));
    made.counts->setContentsMargins(22, 0, 0, 2);
    made.counts->setToolTip(tr("Counts of the last frame. The octree tests nodes, not chunks."));
    lines->addWidget(made.counts);
    m_stepColumn->addWidget(made.line);
    m_lines.push_back(made);
}

/// Those in use first, in their order; then the others.
void CullPanel::syncSteps()
{
    const auto used = steps();
    const auto placeOf = [&used](const StepLine& line) {
        return static_cast<std::size_t>(std::find(used.begin(), used.end(), line.step->id) - used.begin());
    };
    std::vector<StepLine*> order;
    for (StepLine& line : m_lines)
        order.push_back(&line);
    std::stable_sort(
        order.begin(), order.end(), [&](const StepLine* a, const StepLine* b) { return placeOf(*a) < placeOf(*b); });
    for (std::size_t i = 0; i < order.size(); ++i) {
        const StepLine& line = *order[i];
        const bool isUsed = i < used.size();
        const QString title = QString::fromUtf8(line.step->title);
        const QSignalBlocker blocker(line.box);
        line.box->setText(isUsed ? tr("%1  %2").arg(i + 1).arg(title) : title);
        line.box->setChecked(isUsed);
        line.earlier->setVisible(isUsed);
        line.later->setVisible(isUsed);
        line.earlier->setEnabled(i > 0);
        line.later->setEnabled(i + 1 < used.size());
        line.counts->setVisible(isUsed);
        if (m_stepColumn->indexOf(line.line) != static_cast<int>(i))
            m_stepColumn->insertWidget(static_cast<int>(i), line.line);
        if (i > 0)
            QWidget::setTabOrder(order[i - 1]->later, line.box);
    }
}

void CullPanel::show(const FrameReport& frame, const OctreeFigures& octree)
{
    const auto used = steps();
    std::optional<double> walkedIn; // microseconds
    for (std::size_t i = 0; i < std::min(used.size(), frame.culled.size()); ++i) {
        if (used[i] == "octree")
            walkedIn = static_cast<double>(frame.culled[i].ns) / 1000;
        const auto line = std::find_if(
            m_lines.begin(), m_lines.end(), [&](const StepLine& one) { return used[i] == one.step->id; });
        if (line == m_lines.end() || m_session.stepTrial.isRunning())
            continue;
        const CullCount& count = frame.culled[i];
        line->counts->setText(tr("%1 tests · %2 kept · %3 out · %4 µs")
                                  .arg(countText(count.tested), countText(count.kept), countText(count.rejected),
                                      figureText(static_cast<double>(count.ns) / 1000)));
    }
    m_octree->setText(octreeText(octree, walkedIn));
    m_savings->refresh();
}

QString lostText(const LostChunk& lost)
{
    return QObject::tr("%1 px · %2 · %3")
        .arg(lost.pixels)
        .arg(QString::fromUtf8(findCullStep(lost.step)->title), QString::fromStdString(lost.kind));
}

QWidget* CullPanel::buildAudit()
{
    auto* page = new QWidget(this);
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(
        newLabel(tr("A chunk is lost if a step rejects it although a part of it is visible."), "muted", page));
    m_check = new QPushButton(page);
    m_check->setObjectName(QStringLiteral("auditCull"));
    m_check->setToolTip(
        tr("From where you look, along the route, and hard views: straight down, in a wall, on the corner "
           "of eight chunks, wide and narrow. Runs in the background and uses one core for some seconds."));
    connect(m_check, &QPushButton::clicked, this, [this] {
        if (m_auditor.isRunning())
            m_auditor.stop();
        else
            m_auditor.start(m_session.sharedTerrain(), m_session.edited().current(), m_session.eye, kViews);
    });
    column->addWidget(m_check);
    m_auditState = newLabel({}, "plain", page);
    m_auditState->setObjectName(QStringLiteral("auditState"));
    column->addWidget(m_auditState);
    connect(&m_auditor, &CullAuditor::progressed, this,
        [this](double share) { m_auditState->setText(tr("%1 %").arg(qRound(100 * share))); });
    m_lostList = newListView("lostChunks", tr("Lost chunks"), m_lost, new RowDelegate, page);
    m_lostList->setFixedHeight(160);
    m_lostList->setToolTip(tr("Click a chunk to see it: the same view, with a box around the chunk."));
    connect(m_lostList, &QListView::clicked, this,
        [this](const QModelIndex& row) { jumpTo(m_auditor.result()->lost[row.data(RowList::Key).toULongLong()]); });
    column->addWidget(m_lostList);
    return page;
}

void CullPanel::syncAudit()
{
    const bool isRunning = m_auditor.isRunning();
    const auto& result = m_auditor.result();
    m_check->setText(isRunning ? tr("Stop the audit") : tr("Check %1 views of this world").arg(kViews));
    const bool isDone = !isRunning && m_auditor.trouble().isEmpty() && result;
    m_lostList->setVisible(isDone && !result->lost.empty());
    if (!isDone) {
        m_auditState->setText(isRunning         ? tr("%1 %").arg(qRound(100 * m_auditor.share()))
                : m_auditor.trouble().isEmpty() ? tr("Not checked yet.")
                                                : m_auditor.trouble());
        return;
    }
    QString text = tr("<b>%1 views</b>, %2 chunks seen. ").arg(result->row.cases).arg(countText(result->seen));
    text += result->row.differences == 0 ? tr("No exact step loses any.")
                                         : tr("Exact steps lose %1!").arg(result->row.differences);
    for (const StepFinding& step : result->steps)
        if (step.lost > 0)
            text += tr("<br>%1: %2 lost in %3 views")
                        .arg(QString::fromUtf8(findCullStep(step.step)->title))
                        .arg(step.lost)
                        .arg(step.views);
    m_auditState->setText(text);
    listLost(*result);
}

void CullPanel::listLost(const CullAuditResult& result)
{
    // What an exact step loses comes first, then what is largest in the picture.
    std::vector<std::size_t> order(result.lost.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&lost = result.lost](std::size_t a, std::size_t b) {
        const bool exactA = findCullStep(lost[a].step)->isExact, exactB = findCullStep(lost[b].step)->isExact;
        return exactA != exactB ? exactA : lost[a].pixels > lost[b].pixels;
    });
    std::vector<ListRow> rows;
    for (const std::size_t i : order) {
        const LostChunk& lost = result.lost[i];
        ListRow row;
        row.key = QString::number(i);
        row.text = QString::fromUtf8(findCullStep(lost.step)->title);
        row.detail = QString::fromStdString(lost.kind);
        row.aside = tr("%1 px").arg(lost.pixels);
        row.toolTip = lostText(lost);
        rows.push_back(std::move(row));
    }
    m_lost.set(std::move(rows));
}

/// The view in which a chunk was lost, with its lens, and the chunk marked.
void CullPanel::jumpTo(const LostChunk& lost)
{
    m_session.eye = lost.eye;
    m_session.look.change([&](FieldLook& look) {
        look.frozen.reset();
        look.fieldOfView = lost.fieldOfView;
        look.marked = lost.chunk;
        look.why = tr("chunk %1, %2, %3, lost by “%4” though %5 pixels of it are visible; Esc clears the mark")
                       .arg(lost.chunk.x)
                       .arg(lost.chunk.y)
                       .arg(lost.chunk.z)
                       .arg(QString::fromUtf8(findCullStep(lost.step)->title))
                       .arg(lost.pixels);
    });
}

void CullPanel::addLook(QVBoxLayout* column)
{
    auto* line = new QHBoxLayout;
    line->setSpacing(14);
    const auto toggle = [&](const QString& text, const char* name, const QString& tip, auto&& isOn, auto&& turn) {
        auto* box = new QCheckBox(text, this);
        const auto follow = [this, box, isOn] {
            const QSignalBlocker blocker(box);
            box->setChecked(isOn(*m_session.look));
        };
        follow();
        connect(&m_session.look, &ViewState::changed, box, follow);
        box->setObjectName(QLatin1String(name));
        box->setToolTip(tip);
        connect(box, &QCheckBox::toggled, this,
            [this, turn](bool on) { m_session.look.change([&](FieldLook& look) { turn(look, on); }); });
        line->addWidget(box);
    };
    toggle(
        tr("Freeze"), "look.frozen", tr("Culling stays as at this camera position while the camera flies on (F6)."),
        [](const FieldLook& look) { return look.frozen.has_value(); },
        [this](FieldLook& look, bool on) { look.frozen = on ? std::optional(m_session.eye) : std::nullopt; });
    toggle(
        tr("Culled"), "look.ghosts",
        tr("Draws culled chunks in the colour and stripes of the step that rejected them (F7). Costs what culling "
           "saves."),
        [](const FieldLook& look) { return look.ghosts; }, [](FieldLook& look, bool on) { look.ghosts = on; });
    toggle(
        tr("Octree"), "look.octree",
        tr("Draws nodes and leaves as solid lines, empty nodes dashed (F8). Costs a few milliseconds per frame."),
        [](const FieldLook& look) { return look.octree; }, [](FieldLook& look, bool on) { look.octree = on; });
    line->addStretch(1);
    column->addLayout(line);
}

} // namespace fell::app

#include "moc_cull_panel.cpp"
