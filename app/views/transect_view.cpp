// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/cards.h>
#include <fell/app/views/transect_view.h>

#include <fell/app/views/ledger_view.h>
#include <fell/app/views/transect_plots.h>
#include <fell/measure/findings.h>

#include <QCheckBox>
#include <QComboBox>
#include <QFrame>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QProgressBar>
#include <QPushButton>
#include <QSlider>
#include <QSpinBox>
#include <QStackedWidget>
#include <QTableView>
#include <QToolButton>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace fell::app {
namespace {

/// What was found. With two things varied there is more than fits: a line of it, and all in the tooltip and the report.
QString findingWords(const TransectResult& result)
{
    QStringList all;
    for (const std::string& finding : findingsOf(result, Verdicts::Last)) // the table has the other values
        all << QString::fromStdString(finding).toHtmlEscaped();
    const auto reaches = static_cast<qsizetype>(result.reach.size());
    const qsizetype verdicts = result.b
        ? std::count_if(result.ratios.begin(), result.ratios.end(),
            [&](const TransectRatio& ratio) {
                return ratio.value == result.ratios.back().value && ratio.second == result.ratios.back().second;
            })
        : 0;
    const QString dot = QStringLiteral(" · ");
    QStringList lines{all.mid(0, reaches).join(dot), all.mid(reaches, verdicts).join(dot)};
    if (result.second.empty())
        lines << all.mid(reaches + verdicts);
    lines.removeAll(QString());
    return lines.join(QStringLiteral("<br>"));
}

} // namespace

TransectView::TransectView(WorldSession& session, TransectRunner& runner, LedgerKeeper& keeper, QWidget* parent)
    : QWidget(parent)
    , m_session(session)
    , m_runner(runner)
    , m_keeper(keeper)
{
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 10, 10, 10);
    column->setSpacing(10);
    column->addWidget(buildSentence());
    m_plots = new TransectPlots(this);
    column->addWidget(m_plots, 3);
    column->addWidget(buildResults(), 2);
    connect(&runner, &TransectRunner::progressed, this, &TransectView::showProgress);
    connect(&runner, &TransectRunner::resultChanged, this, &TransectView::showResult);
    connect(&runner, &TransectRunner::measured, this, [this] { m_keeper.keep(m_runner.result()); });
    connect(&runner, &TransectRunner::reachFound, this, [this](const QStringList& findings) {
        m_reachWords = findings.join(QStringLiteral(" · "));
        showResult();
    });
    connect(&keeper, &LedgerKeeper::kept, this, [this](std::int64_t id, const QString& against) {
        emit note(against.isEmpty() ? tr("Kept as trial %1 of the ledger").arg(id)
                                    : tr("Kept as trial %1 of the ledger; %2").arg(id).arg(against));
    });
    connect(&keeper, &LedgerKeeper::loaded, this, [this](const TransectResult& trial) {
        if (m_runner.isRunning())
            return;
        m_reachWords.clear(); // of another question
        m_runner.show(trial);
        showLedger(false);
    });
    connect(&keeper, &LedgerKeeper::trouble, this, &TransectView::trouble);
    connect(&keeper, &LedgerKeeper::note, this, &TransectView::note);
    connect(&runner, &TransectRunner::finished, this, [this](const QString& why) {
        setRunning(false);
        if (!why.isEmpty())
            emit trouble(why);
        emit walked();
    });
    setRunning(false);
    showResult();
}

/// Which page is shown below, and what is opened and saved.
QLayout* TransectView::buildResultTools(QWidget* card)
{
    auto* head = new QHBoxLayout;
    const auto pageButton = [&](const QString& text, const char* name, const QString& tip, bool isLedger) {
        auto* button = new QToolButton(card);
        button->setText(text);
        button->setObjectName(QLatin1String(name));
        button->setToolTip(tip);
        button->setCheckable(true);
        button->setAutoExclusive(true);
        button->setProperty("view", true);
        connect(button, &QToolButton::clicked, this, [this, isLedger] { showLedger(isLedger); });
        head->addWidget(button);
        return button;
    };
    m_measuredButton = pageButton(tr("Measured"), "showMeasured", tr("The rows that the plots show."), false);
    m_ledgerButton = pageButton(tr("Ledger"), "showLedger", tr("All saved runs: find, compare, pin, export."), true);
    head->addStretch(1);
    const auto saver = [&](const QString& text, const char* name, const QString& tip, void (TransectView::*run)()) {
        auto* button = new QPushButton(text, card);
        button->setObjectName(QLatin1String(name));
        button->setToolTip(tip);
        connect(button, &QPushButton::clicked, this, run);
        head->addWidget(button);
        return button;
    };
    saver(tr("Open…"), "openResult", tr("Shows a result that was saved as CSV or JSON."), &TransectView::askOpen);
    m_saveCsv = saver(tr("Save result…"), "saveResult",
        tr("Every row with what it was measured on as CSV, or with raw samples as JSON; both open again here."),
        &TransectView::askSaveCsv);
    m_savePlot = saver(
        tr("Save plots…"), "savePlots", tr("PNG as they are shown, or SVG for a page."), &TransectView::askSavePlot);
    m_saveReport = saver(tr("Save report…"), "saveReport",
        tr("Question, setups, plots, findings, tables, machine and what to beware of as one web page "
           "that needs nothing else, or as Markdown."),
        &TransectView::askSaveReport);
    return head;
}

void TransectView::buildTable(QWidget* card)
{
    m_table = new QTableView(card);
    m_table->setObjectName(QStringLiteral("transectTable"));
    m_table->setModel(m_model);
    m_table->setShowGrid(false);
    m_table->setSelectionMode(QAbstractItemView::NoSelection);
    m_table->setFocusPolicy(Qt::NoFocus);
    m_table->verticalHeader()->hide();
    m_table->verticalHeader()->setDefaultSectionSize(24);
    m_table->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    m_table->horizontalHeader()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
}

QWidget* TransectView::buildResults()
{
    QFrame* card = newCard(this);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(10, 8, 10, 8);
    column->addLayout(buildResultTools(card));
    m_lower = new QStackedWidget(card);
    column->addWidget(m_lower, 1);
    auto* measured = new QWidget(m_lower);
    m_lower->addWidget(measured);
    auto* ledger = new LedgerView(m_keeper, m_lower);
    m_lower->addWidget(ledger);
    connect(ledger, &LedgerView::counted, this,
        [this](int trials) { m_ledgerButton->setText(tr("Ledger · %1").arg(trials)); });
    m_measuredButton->setChecked(true);
    column = new QVBoxLayout(measured);
    column->setContentsMargins(0, 0, 0, 0);
    m_words = new QLabel(card);
    m_words->setObjectName(QStringLiteral("words"));
    m_words->setWordWrap(true);
    column->addWidget(m_words);
    m_model = new TransectTable(this);
    buildTable(card);
    column->addWidget(m_table, 1);
    m_origin = new QLabel(card);
    m_origin->setProperty("muted", true);
    m_origin->setWordWrap(true);
    column->addWidget(m_origin);
    return card;
}

/// What was edited since may be gone round now.
void TransectView::showEvent(QShowEvent* event)
{
    listRoutes();
    QWidget::showEvent(event);
}

void TransectView::showLedger(bool shown)
{
    m_lower->setCurrentIndex(shown ? 1 : 0);
    (shown ? m_ledgerButton : m_measuredButton)->setChecked(true);
    if (shown)
        m_keeper.list(m_keeper.search());
}

void TransectView::walk()
{
    if (m_runner.isRunning())
        return;
    const TransectSentence said = sentence();
    auto spec = specFrom(said, {m_session.sharedTerrain(), m_session.changes()->copy()}, m_session.setup());
    if (!spec) {
        emit trouble(QString::fromStdString(input::sentence(spec.problem())));
        return;
    }
    m_reachWords.clear();
    emit aboutToWalk();
    showLedger(false);
    setRunning(true);
    m_runner.start(spec.take(), said.width, said.height);
}

void TransectView::findTheReach()
{
    if (m_runner.isRunning())
        return;
    const TransectSentence said = sentence();
    auto specs = reachSpecsFrom(said, {m_session.sharedTerrain(), m_session.changes()->copy()}, m_session.setup());
    if (!specs) {
        emit trouble(QString::fromStdString(input::sentence(specs.problem())));
        return;
    }
    m_reachWords.clear();
    emit aboutToWalk();
    showLedger(false);
    setRunning(true);
    m_runner.startReach(specs.take(), said.width, said.height);
}

void TransectView::setRunning(bool running)
{
    m_walk->setVisible(!running);
    m_stop->setVisible(running);
    m_progress->setVisible(running);
    for (QWidget* control : std::initializer_list<QWidget*>{m_vary, m_values, m_second, m_secondValues, m_route,
             m_setupA, m_setupB, m_rounds, m_frames, m_churn, m_churnEach, m_reach})
        control->setEnabled(!running);
    if (running) {
        m_progress->setValue(0);
        m_doing->setText(tr("starting"));
    } else {
        m_doing->setText(tr("Each value and setup gets a separate world. Frames are timed with all chunks loaded; "
                            "the first of each round are dropped until times are steady."));
    }
}

void TransectView::showProgress(double share, const QString& doing, double secondsLeft)
{
    m_progress->setValue(static_cast<int>(share * 1000));
    m_doing->setText(secondsLeft < 0 ? doing : tr("%1 · %2 s left").arg(doing).arg(std::lround(secondsLeft)));
}

void TransectView::showResult()
{
    const TransectResult& result = m_runner.result();
    m_plots->show(result);
    m_model->show(result);
    // With what changes cost there are more columns than share the width without cutting their titles.
    m_table->horizontalHeader()->setSectionResizeMode(
        result.churn.kind == ChurnKind::None ? QHeaderView::Stretch : QHeaderView::ResizeToContents);
    m_table->horizontalHeader()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    const bool any = !result.rows.empty();
    m_saveCsv->setEnabled(any);
    m_savePlot->setEnabled(any);
    m_saveReport->setEnabled(any);
    QString words = any ? findingWords(result)
                        : tr("A row for each value and setup appears here while it is measured, and is then kept in "
                             "the ledger.");
    if (!m_reachWords.isEmpty())
        words = tr("<b>Reach:</b> %1<br>%2").arg(m_reachWords.toHtmlEscaped(), words);
    m_words->setText(words);
    QString all;
    for (const std::string& finding : findingsOf(result))
        all += QStringLiteral("<p style='white-space:pre'>%1</p>").arg(QString::fromStdString(finding).toHtmlEscaped());
    m_words->setToolTip(all);
    const QString drawn = result.driver.empty()
        ? tr("nothing drawn")
        : tr("%1, %2 × %3").arg(QString::fromStdString(result.driver)).arg(result.width).arg(result.height);
    m_origin->setText(any ? tr("%1, seed %2 · %3 · %4 rounds of %5 frames%6 · %7 · %8, %9 cores")
                                .arg(QString::fromStdString(result.world))
                                .arg(result.seed)
                                .arg(QString::fromStdString(result.route))
                                .arg(result.rounds)
                                .arg(result.frames)
                                .arg(result.stopped ? tr(", stopped early") : QString())
                                .arg(drawn, QString::fromStdString(result.machine.processor))
                                .arg(result.machine.cores)
                          : QString());
    for (const std::string& caveat : caveatsOf(result))
        m_origin->setText(m_origin->text() + QStringLiteral("\n") + QString::fromStdString(caveat));
}

void TransectView::refreshTheme()
{
    showResult();
}

} // namespace fell::app

#include "moc_transect_view.cpp"
