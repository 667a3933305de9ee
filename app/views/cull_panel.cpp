// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/cards.h>
#include <fell/app/views/cull_panel.h>

#include <fell/app/views/trial_panel.h>

#include <fell/app/models/text.h>

#include <QCheckBox>
#include <QHBoxLayout>
#include <QListWidget>
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
    connect(tabs, &QTabBar::currentChanged, this, [this](int index) { emit tabChosen(static_cast<Tab>(index)); });
    column->addWidget(tabs);
    if (tab == Tab::Steps) {
        addSteps(column);
    } else if (tab == Tab::Options) {
        addNumbers(column);
        m_octree = newLabel({}, "muted", this);
        m_octree->setObjectName(QStringLiteral("octreeFigures"));
        column->addWidget(m_octree);
    } else if (tab == Tab::Savings) {
        column->addWidget(m_savings = new TrialPanel(m_session, StepTrial::Of::Steps, this));
    } else {
        addAudit(column);
    }
    addLook(column);
}

void CullPanel::setSteps(const std::vector<std::string>& steps)
{
    m_session.edited().set("cull.steps", steps);
}

/// Those in use first, in their order; then the others.
void CullPanel::addSteps(QVBoxLayout* column)
{
    column->setSpacing(3);
    const auto used = steps();
    for (std::size_t i = 0; i < used.size(); ++i)
        addStep(column, *findCullStep(used[i]), static_cast<int>(i), static_cast<int>(used.size()));
    for (const CullStep& step : cullSteps())
        if (std::find(used.begin(), used.end(), step.id) == used.end())
            addStep(column, step, -1, 0);
}

/// place: in the order, -1 where it is not in use.
void CullPanel::addStep(QVBoxLayout* column, const CullStep& step, int place, int count)
{
    const bool isUsed = place >= 0;
    auto* line = new QHBoxLayout;
    line->setSpacing(2);
    const QString title = QString::fromUtf8(step.title);
    auto* box = new QCheckBox(isUsed ? tr("%1  %2").arg(place + 1).arg(title) : title, this);
    box->setChecked(isUsed);
    box->setObjectName(QStringLiteral("cull.steps=%1").arg(QString::fromUtf8(step.id)));
    box->setToolTip(QString::fromUtf8(step.note));
    connect(box, &QCheckBox::toggled, this, [this, id = std::string(step.id)](bool on) {
        auto now = steps();
        if (on)
            now.push_back(id);
        else
            std::erase(now, id);
        setSteps(now);
    });
    line->addWidget(box);
    line->addStretch(1);
    if (!step.isExact) {
        auto* warning = newLabel(tr("loses chunks"), "over", this);
        warning->setWordWrap(false);
        warning->setToolTip(tr("Not exact: the audit shows which chunks it loses that are seen."));
        line->addWidget(warning);
    }
    const auto mover = [&](Qt::ArrowType arrow, int by) {
        auto* button = new QToolButton(this);
        button->setArrowType(arrow);
        button->setAutoRaise(true);
        button->setProperty("small", true);
        button->setFixedSize(18, 18);
        button->setEnabled(place + by >= 0 && place + by < count);
        button->setObjectName(QStringLiteral("%1=%2").arg(
            by < 0 ? QStringLiteral("earlier") : QStringLiteral("later"), QString::fromUtf8(step.id)));
        button->setToolTip(by < 0 ? tr("Asked earlier: fewer chunks are left for those after it.")
                                  : tr("Asked later: it has fewer chunks to ask about."));
        connect(button, &QToolButton::clicked, this, [this, place, by] {
            auto now = steps();
            std::swap(now[static_cast<std::size_t>(place)], now[static_cast<std::size_t>(place + by)]);
            setSteps(now);
        });
        line->addWidget(button);
    };
    if (isUsed) {
        mover(Qt::UpArrow, -1);
        mover(Qt::DownArrow, 1);
    }
    column->addLayout(line);
    if (!isUsed)
        return;
    QLabel* counts = newLabel({}, "muted", this);
    counts->setWordWrap(false);
    counts->setObjectName(QStringLiteral("counts=%1").arg(QString::fromUtf8(step.id)));
    counts->setContentsMargins(22, 0, 0, 2);
    counts->setToolTip(tr("In the last frame. The octree tests nodes, so what it tests is no sum of the others."));
    m_counts[step.id] = counts;
    column->addWidget(counts);
}

void CullPanel::show(const FrameReport& frame, const OctreeFigures& octree)
{
    const auto used = steps();
    std::optional<double> walkedIn; // microseconds
    for (std::size_t i = 0; i < std::min(used.size(), frame.culled.size()); ++i) {
        if (used[i] == "octree")
            walkedIn = static_cast<double>(frame.culled[i].ns) / 1000;
        const auto label = m_counts.find(used[i]);
        if (label == m_counts.end() || m_session.stepTrial.isRunning())
            continue;
        const CullCount& count = frame.culled[i];
        const bool sides = std::string_view(findCullStep(used[i])->unit) != "chunks";
        label->second->setText(
            (sides ? tr("%1 sides · %2 kept · %3 out · %4 µs") : tr("%1 tests · %2 kept · %3 out · %4 µs"))
                .arg(countText(count.tested), countText(count.kept), countText(count.rejected),
                    figureText(static_cast<double>(count.ns) / 1000)));
    }
    if (m_octree)
        m_octree->setText(octreeText(octree, walkedIn));
    if (m_savings)
        m_savings->refresh();
}

QString lostText(const LostChunk& lost)
{
    return QObject::tr("%1 px · %2 · %3")
        .arg(lost.pixels)
        .arg(QString::fromUtf8(findCullStep(lost.step)->title), QString::fromStdString(lost.kind));
}

void CullPanel::addAudit(QVBoxLayout* column)
{
    column->addWidget(
        newLabel(tr("A chunk that a step rejects though something of it is seen is lost."), "muted", this));
    auto* check = new QPushButton(
        m_auditor.isRunning() ? tr("Stop the audit") : tr("Check %1 views of this world").arg(kViews), this);
    check->setObjectName(QStringLiteral("auditCull"));
    check->setToolTip(
        tr("From where you look, along the route, and hard views: straight down, in a wall, on the corner "
           "of eight chunks, wide and narrow. Draws beside the window; takes a core for some seconds."));
    connect(check, &QPushButton::clicked, this, [this] {
        if (m_auditor.isRunning())
            m_auditor.stop();
        else
            m_auditor.start(m_session.sharedTerrain(), m_session.edited().current(), m_session.eye, kViews);
    });
    column->addWidget(check);
    auto* state = newLabel({}, "plain", this);
    state->setObjectName(QStringLiteral("auditState"));
    column->addWidget(state);
    if (m_auditor.isRunning()) {
        const auto tell = [state](double share) { state->setText(tr("%1 %").arg(qRound(100 * share))); };
        tell(m_auditor.share());
        connect(&m_auditor, &CullAuditor::progressed, this, tell);
        return;
    }
    const auto& result = m_auditor.result();
    if (!m_auditor.trouble().isEmpty() || !result) {
        state->setText(m_auditor.trouble().isEmpty() ? tr("Not checked yet.") : m_auditor.trouble());
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
    state->setText(text);
    if (!result->lost.empty())
        listLost(*result, column);
}

void CullPanel::listLost(const CullAuditResult& result, QVBoxLayout* column)
{
    auto* list = new QListWidget(this);
    list->setObjectName(QStringLiteral("lostChunks"));
    list->setFixedHeight(134);
    list->setToolTip(tr("Click one to look at it: the same view, with a box round the chunk."));
    // What an exact step loses comes first, then what is largest in the picture.
    std::vector<std::size_t> order(result.lost.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&lost = result.lost](std::size_t a, std::size_t b) {
        const bool exactA = findCullStep(lost[a].step)->isExact, exactB = findCullStep(lost[b].step)->isExact;
        return exactA != exactB ? exactA : lost[a].pixels > lost[b].pixels;
    });
    list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    for (const std::size_t i : order) {
        list->addItem(lostText(result.lost[i]));
        list->item(list->count() - 1)->setToolTip(lostText(result.lost[i]));
    }
    list->setTextElideMode(Qt::ElideRight);
    connect(list, &QListWidget::itemClicked, this, [this, list, order](QListWidgetItem* item) {
        jumpTo(m_auditor.result()->lost[order[static_cast<std::size_t>(list->row(item))]]);
    });
    column->addWidget(list);
}

/// The view in which a chunk was lost, with its lens, and the chunk marked.
void CullPanel::jumpTo(const LostChunk& lost)
{
    m_session.eye = lost.eye;
    m_session.look.change([&](FieldLook& look) {
        look.frozen.reset();
        look.fieldOfView = lost.fieldOfView;
        look.marked = lost.chunk;
        look.why = tr("chunk %1, %2, %3, lost by “%4” though %5 pixels of it are seen; Esc lets go")
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
        tr("Hold"), "look.frozen", tr("Culling stays as seen from here, while the eye flies on (F6)."),
        [](const FieldLook& look) { return look.frozen.has_value(); },
        [this](FieldLook& look, bool on) { look.frozen = on ? std::optional(m_session.eye) : std::nullopt; });
    toggle(
        tr("Ghosts"), "look.ghosts",
        tr("Draws what was rejected, in the colour and stripes of the step that did (F7). Costs the frame what culling "
           "saves it."),
        [](const FieldLook& look) { return look.ghosts; }, [](FieldLook& look, bool on) { look.ghosts = on; });
    toggle(
        tr("Octree"), "look.octree",
        tr("Nodes and leaves in whole lines, empty places dashed (F8). Costs a few milliseconds a frame."),
        [](const FieldLook& look) { return look.octree; }, [](FieldLook& look, bool on) { look.octree = on; });
    line->addStretch(1);
    column->addLayout(line);
}

} // namespace fell::app
