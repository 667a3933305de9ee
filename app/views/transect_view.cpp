// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/cards.h>
#include <fell/app/views/transect_view.h>

#include <fell/app/views/finding_cards.h>
#include <fell/app/views/ledger_view.h>
#include <fell/app/views/transect_plots.h>
#include <fell/measure/findings.h>

#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QFrame>
#include <QGuiApplication>
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

/// Rows as lines with tabs, for a spreadsheet or a message.
QString rowsText(const TransectTable& table)
{
    QString text;
    for (int column = 0; column < table.columnCount(); ++column)
        text += table.headerData(column, Qt::Horizontal, Qt::DisplayRole).toString() + QLatin1Char('\t');
    text.back() = QLatin1Char('\n');
    for (int row = 0; row < table.rowCount(); ++row) {
        for (int column = 0; column < table.columnCount(); ++column)
            text += table.index(row, column).data().toString() + QLatin1Char('\t');
        text.back() = QLatin1Char('\n');
    }
    return text;
}

enum LowerPage { kFindings, kRows, kLedger };

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
    column->addWidget(m_plots, 9);
    column->addWidget(buildResults(), 4);
    connect(&runner, &TransectRunner::progressed, this, &TransectView::showProgress);
    connect(&runner, &TransectRunner::resultChanged, this, &TransectView::showResult);
    connect(&runner, &TransectRunner::measured, this, [this] { m_keeper.keep(m_runner.result()); });
    connect(&runner, &TransectRunner::reachFound, this, [this](const QStringList& findings) {
        m_reachWords = findings;
        showResult();
    });
    connect(&keeper, &LedgerKeeper::kept, this, [this](std::int64_t id, const QString& against) {
        emit note(against.isEmpty() ? tr("Saved as run %1 in the ledger").arg(id)
                                    : tr("Saved as run %1 in the ledger; %2").arg(id).arg(against));
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
    const auto pageButton = [&](const QString& text, const char* name, const QString& tip, LowerPage page) {
        auto* button = new QToolButton(card);
        button->setText(text);
        button->setObjectName(QLatin1String(name));
        button->setToolTip(tip);
        button->setCheckable(true);
        button->setAutoExclusive(true);
        button->setProperty("view", true);
        connect(button, &QToolButton::clicked, this, [this, page] { showLower(page); });
        head->addWidget(button);
        return button;
    };
    m_findingsButton = pageButton(
        tr("Findings"), "showFindings", tr("What the intervals allow to say, and what weakens it."), kFindings);
    m_rowsButton = pageButton(
        tr("Rows"), "showRows", tr("Every value and setup with its figures. Enter opens a row in the field."), kRows);
    m_ledgerButton = pageButton(tr("Ledger"), "showLedger", tr("All saved runs: find, compare, pin, export."), kLedger);
    head->addStretch(1);
    const auto saver = [&](const QString& text, const char* name, const QString& tip, void (TransectView::*run)()) {
        auto* button = new QPushButton(text, card);
        button->setObjectName(QLatin1String(name));
        button->setToolTip(tip);
        connect(button, &QPushButton::clicked, this, run);
        head->addWidget(button);
        return button;
    };
    m_copy = saver(tr("Copy"), "copyResult", tr("Copies findings and rows as text."), &TransectView::copyText);
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
    m_table->setSelectionMode(QAbstractItemView::SingleSelection);
    m_table->setSelectionBehavior(QAbstractItemView::SelectRows);
    m_table->setToolTip(tr("Enter or a double click opens the field with the settings of the row."));
    m_table->setAccessibleName(tr("Rows of the transect"));
    m_table->verticalHeader()->hide();
    m_table->verticalHeader()->setDefaultSectionSize(24);
    m_table->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents); // titles are never cut
    connect(m_table, &QTableView::activated, this, [this](const QModelIndex& at) { openRow(at.row()); });
}

void TransectView::openRow(int row)
{
    const TransectResult& result = m_runner.result();
    if (row < 0 || row >= static_cast<int>(result.rows.size()) || m_runner.isRunning())
        return;
    auto setup = setupOf(result, result.rows[static_cast<std::size_t>(row)]);
    if (!setup)
        return emit trouble(QString::fromStdString(input::sentence(setup.problem())));
    if (result.world != m_session.terrain().recipe.name)
        emit note(
            tr("This row was measured in %1; the field shows %2")
                .arg(QString::fromStdString(result.world), QString::fromStdString(m_session.terrain().recipe.name)));
    emit fieldWanted(setup.take(), result.path);
}

void TransectView::copyText()
{
    QGuiApplication::clipboard()->setText(m_findings->text() + QLatin1Char('\n') + rowsText(*m_model));
    emit note(tr("Findings and rows are in the clipboard"));
}

QWidget* TransectView::buildResults()
{
    QFrame* card = newCard(this);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(10, 8, 10, 8);
    column->addLayout(buildResultTools(card));
    m_lower = new QStackedWidget(card);
    column->addWidget(m_lower, 1);
    m_findings = new FindingCards(m_lower);
    m_lower->addWidget(m_findings);
    m_model = new TransectTable(this);
    buildTable(card);
    m_lower->addWidget(m_table);
    auto* ledger = new LedgerView(m_keeper, m_lower);
    m_lower->addWidget(ledger);
    connect(ledger, &LedgerView::counted, this,
        [this](int trials) { m_ledgerButton->setText(tr("Ledger · %1").arg(trials)); });
    m_findingsButton->setChecked(true);
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
    showLower(shown ? kLedger : kFindings);
}

void TransectView::showLower(int page)
{
    m_lower->setCurrentIndex(page);
    (page == kLedger ? m_ledgerButton : page == kRows ? m_rowsButton : m_findingsButton)->setChecked(true);
    if (page == kLedger)
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
    }
    m_doing->setVisible(running);
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
    const bool any = !result.rows.empty();
    m_saveCsv->setEnabled(any);
    m_copy->setEnabled(any);
    m_savePlot->setEnabled(any);
    m_saveReport->setEnabled(any);
    std::vector<Finding> findings;
    for (const QString& sentence : m_reachWords)
        findings.push_back({"reach", "searched, then confirmed", sentence.toStdString(), true});
    for (Finding& finding : cardsOf(result))
        findings.push_back(std::move(finding));
    const QString drawn = result.driver.empty()
        ? tr("nothing drawn")
        : tr("%1, %2 × %3").arg(QString::fromStdString(result.driver)).arg(result.width).arg(result.height);
    const QString origin = any ? tr("%1, seed %2 · %3 · %4 rounds of %5 frames%6 · %7 · %8, %9 cores")
                                     .arg(QString::fromStdString(result.world))
                                     .arg(result.seed)
                                     .arg(QString::fromStdString(result.route))
                                     .arg(result.rounds)
                                     .arg(result.frames)
                                     .arg(result.stopped ? tr(", stopped early") : QString())
                                     .arg(drawn, QString::fromStdString(result.machine.processor))
                                     .arg(result.machine.cores)
                               : QString();
    QStringList caveats;
    for (const std::string& caveat : caveatsOf(result))
        caveats << QString::fromStdString(caveat);
    m_findings->show(findings, origin, caveats,
        tr("Findings appear here: ratios with their intervals, the reach within the budget, and how costs grow. Each "
           "run "
           "is saved in the ledger."));
}

void TransectView::refreshTheme()
{
    showResult();
}

} // namespace fell::app

#include "moc_transect_view.cpp"
