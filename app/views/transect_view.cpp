// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/transect_view.h"
#include "views/cards.h"

#include <nlohmann/json.hpp>

#include "input/text_file.h"
#include "measure/findings.h"
#include "measure/report.h"
#include "models/text.h"
#include "views/ledger_view.h"
#include "views/theme.h"
#include "views/transect_plots.h"

#include <QBuffer>
#include <QComboBox>
#include <QFileDialog>
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
#include <filesystem>

namespace fell {
namespace {

/// A word of the sentence that is not a choice.
QLabel* word(const QString& text, QWidget* parent)
{
    auto* label = new QLabel(text, parent);
    label->setFont(uiFont(14));
    return label;
}

QString suggestion(const SetupField& field)
{
    if (field.path == "stream.distance")
        return QStringLiteral("2, 3, 4, 5, 6");
    if (field.path == "stream.metres")
        return QStringLiteral("32, 64, 96, 128");
    if (field.kind == SetupField::Kind::Choices) {
        QString all;
        for (const auto& id : field.allowed)
            all += (all.isEmpty() ? QString() : QStringLiteral("+")) + QString::fromStdString(id);
        return all;
    }
    if (!field.allowed.empty()) {
        QStringList all;
        for (const auto& id : field.allowed)
            all << QString::fromStdString(id);
        return all.join(QStringLiteral(", "));
    }
    return field.path == "stream.workers"  ? QStringLiteral("1, 2")
        : field.path == "draw.fieldOfView" ? QStringLiteral("45, 65, 90")
                                           : QString::number(field.low);
}

constexpr double kUsualBudget = 16.6, kStepsToTenfold = 50; // ms; steps of the slider

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
                return ratio.value == result.ratios.back().value && ratio.across == result.ratios.back().across;
            })
        : 0;
    const QString dot = QStringLiteral(" · ");
    QStringList lines{all.mid(0, reaches).join(dot), all.mid(reaches, verdicts).join(dot)};
    if (result.across.empty())
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

QWidget* TransectView::buildSentence()
{
    QFrame* card = newCard(this);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(14, 10, 14, 10);
    const auto named = [](QWidget* control, const char* name, const QString& tip) {
        control->setObjectName(QLatin1String(name));
        control->setToolTip(tip);
    };
    m_vary = new QComboBox(card);
    for (const SetupField& field : setupFields())
        m_vary->addItem(QString::fromStdString(field.title), QString::fromStdString(field.path));
    named(m_vary, "vary", tr("Any number or choice of a setup."));
    m_values = new QLineEdit(card);
    m_values->setMinimumWidth(110);
    named(m_values, "values",
        tr("The values, separated by commas. Each is measured in every round: more values, more time."));
    m_across = new QComboBox(card);
    m_across->addItem(tr("nothing else"), QString());
    for (const SetupField& field : setupFields())
        m_across->addItem(QString::fromStdString(field.title), QString::fromStdString(field.path));
    named(m_across, "across",
        tr("A second thing that varies: each of its values with each of the first. The plots become heat maps."));
    m_acrossValues = new QLineEdit(card);
    named(m_acrossValues, "acrossValues", tr("The values of the second, separated by commas."));
    m_route = new QComboBox(card);
    listRoutes();
    named(m_route, "route", tr("The path that the eye takes, the same every time."));
    m_setupA = new QComboBox(card);
    m_setupB = new QComboBox(card);
    m_setupB->addItem(tr("no other"), QString());
    for (const QString& name : namesIn(demoFolder() / "setups")) {
        m_setupA->addItem(QStringLiteral("A ") + name, name);
        m_setupB->addItem(QStringLiteral("B ") + name, name);
    }
    named(m_setupA, "setupA", tr("The setup of the field is used under its own name, with your changes."));
    named(m_setupB, "setupB", tr("A second setup takes turns with the first: the answer is a ratio. Twice the time."));
    m_rounds = new QSpinBox(card);
    m_rounds->setRange(1, 50);
    named(m_rounds, "rounds", tr("How often everything is measured; three or more make an interval honest."));
    m_frames = new QSpinBox(card);
    m_frames->setRange(1, 10000);
    named(m_frames, "frames", tr("Frames along the route in each round."));
    m_walk = new QPushButton(tr("Walk it"), card);
    m_walk->setProperty("primary", true);
    named(m_walk, "walk",
        tr("Builds the world for each value and measures mesh build time and frame time. The field rests meanwhile."));
    m_stop = new QPushButton(tr("Stop"), card);
    named(m_stop, "stop", tr("Ends the walk and keeps what has been measured."));
    m_acrossOver = word(tr("over"), card);
    m_churn = new QComboBox(card);
    for (const ChurnChoice& choice : churnChoices())
        m_churn->addItem(tr(choice.title), static_cast<int>(choice.kind));
    named(m_churn, "churn",
        tr("What changes round the eye in each frame, the same for every setup: what one change costs is then measured "
           "too."));
    m_churnEach = new QSpinBox(card);
    m_churnEach->setSuffix(tr(" a frame"));
    named(m_churnEach, "churnEach", tr("How many change in each frame, all as one edit."));
    connect(m_churn, &QComboBox::currentIndexChanged, this, &TransectView::showChurn);
    const auto line = [&](std::initializer_list<std::pair<QString, QWidget*>> words) {
        auto* row = new QHBoxLayout;
        row->setSpacing(7);
        for (const auto& [text, control] : words) {
            if (!text.isEmpty())
                row->addWidget(word(text, card));
            row->addWidget(control, control == m_values || control == m_acrossValues ? 1 : 0);
        }
        column->addLayout(row);
        return row;
    };
    line({{tr("Vary"), m_vary}, {tr("over"), m_values}, {tr("and"), m_across}, {QString(), m_acrossOver},
        {QString(), m_acrossValues}, {tr("while"), m_churn}, {QString(), m_churnEach}});
    QHBoxLayout* how = line({{tr("along"), m_route}, {tr("with"), m_setupA}, {tr("and"), m_setupB}, {tr(","), m_rounds},
        {tr("rounds of"), m_frames}});
    how->addWidget(word(tr("frames"), card));
    how->addStretch(1);
    how->addWidget(buildBudget(card));
    how->addSpacing(10);
    how->addWidget(m_walk);
    how->addWidget(m_stop);

    auto* state = new QHBoxLayout;
    m_progress = new QProgressBar(card);
    m_progress->setTextVisible(false);
    m_progress->setRange(0, 1000);
    m_doing = new QLabel(card);
    m_doing->setProperty("muted", true);
    m_doing->setObjectName(QStringLiteral("doing"));
    state->addWidget(m_doing);
    state->addWidget(m_progress, 1);
    column->addLayout(state);
    connect(m_vary, &QComboBox::activated, this, &TransectView::suggestValues);
    connect(m_across, &QComboBox::activated, this, &TransectView::suggestAcross);
    connect(m_walk, &QPushButton::clicked, this, &TransectView::walk);
    connect(m_stop, &QPushButton::clicked, &m_runner, &TransectRunner::stop);
    setSentence({});
    setBudget(m_setupBudget = m_session.setup().draw.budget);
    return card;
}

QWidget* TransectView::buildResults()
{
    QFrame* card = newCard(this);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(10, 8, 10, 8);
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
    m_ledgerButton = pageButton(
        tr("Ledger"), "showLedger", tr("Every walk is kept here: find, compare, pin, carry to another machine."), true);
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
    column->addLayout(head);
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
    column->addWidget(m_table, 1);
    m_origin = new QLabel(card);
    m_origin->setProperty("muted", true);
    m_origin->setWordWrap(true);
    column->addWidget(m_origin);
    return card;
}

void TransectView::suggestValues()
{
    if (const SetupField* field = findField(m_vary->currentData().toString().toStdString()))
        m_values->setText(suggestion(*field));
}

void TransectView::suggestAcross()
{
    const SetupField* field = findField(m_across->currentData().toString().toStdString());
    m_acrossValues->setText(field ? suggestion(*field) : QString());
    m_acrossOver->setVisible(field != nullptr);
    m_acrossValues->setVisible(field != nullptr);
}

/// Only a load that changes something has a number.
void TransectView::showChurn()
{
    const ChurnChoice& choice = churnChoice(static_cast<ChurnKind>(m_churn->currentData().toInt()));
    m_churnEach->setVisible(choice.most > 0);
    m_churnEach->setRange(1, std::max(1, choice.most));
}

/// The slider's steps are even in the logarithm, from 2 to 500 ms; the setup's own 16.6 ms is one of them.
QWidget* TransectView::buildBudget(QWidget* parent)
{
    auto* all = new QWidget(parent);
    auto* row = new QHBoxLayout(all);
    row->setContentsMargins(0, 0, 0, 0);
    m_budgetText = new QLabel(all);
    m_budgetText->setMinimumWidth(104);
    m_budget = new QSlider(Qt::Horizontal, all);
    m_budget->setObjectName(QStringLiteral("budget"));
    m_budget->setRange(-46, 74);
    m_budget->setFixedWidth(110);
    m_reach = new QPushButton(tr("Find the reach"), all);
    m_reach->setObjectName(QStringLiteral("findReach"));
    m_reach->setToolTip(
        tr("The farthest render distance of each setup whose frames keep the budget at p95: doubles the "
           "distance, halves the interval, and measures the answer twice."));
    const QString tip = tr("What a frame may take. Rows are judged by it at once; a setup's own is 16.6 ms, a software "
                           "rasteriser wants more.");
    m_budget->setToolTip(tip);
    m_budgetText->setToolTip(tip);
    row->addWidget(m_budgetText);
    row->addWidget(m_budget);
    row->addWidget(m_reach);
    connect(m_budget, &QSlider::valueChanged, this,
        [this](int step) { setBudget(std::round(kUsualBudget * std::pow(10, step / kStepsToTenfold) * 10) / 10); });
    // The one of the Draw bench is the same question.
    connect(&m_session, &WorldSession::editedChanged, this, [this] {
        if (const double own = m_session.setup().draw.budget; own != std::exchange(m_setupBudget, own))
            setBudget(own);
    });
    connect(m_reach, &QPushButton::clicked, this, &TransectView::findTheReach);
    return all;
}

void TransectView::setBudget(double ms)
{
    m_budgetMs = ms;
    const QSignalBlocker quiet(m_budget); // its steps are coarser than what a setup may say
    m_budget->setValue(static_cast<int>(std::lround(kStepsToTenfold * std::log10(ms / kUsualBudget))));
    m_budgetText->setText(tr("budget %1 ms").arg(figureText(ms)));
    m_runner.setBudget(ms);
}

void TransectView::listRoutes(const QString& chosen)
{
    const QString now = chosen.isEmpty() ? m_route->currentText() : chosen;
    m_route->clear();
    m_route->addItems(routeNames());
    if (!m_session.changes()->isEmpty())
        m_route->addItem(QString::fromLatin1(kRoundChanges));
    m_route->setCurrentText(now);
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

TransectSentence TransectView::sentence() const
{
    TransectSentence out;
    out.vary = m_vary->currentData().toString().toStdString();
    out.values = m_values->text();
    out.across = m_across->currentData().toString().toStdString();
    out.acrossValues = m_acrossValues->text();
    out.budget = m_budgetMs;
    out.route = m_route->currentText().toStdString();
    out.setupA = m_setupA->currentData().toString().toStdString();
    out.setupB = m_setupB->currentData().toString().toStdString();
    out.rounds = m_rounds->value();
    out.frames = m_frames->value();
    out.churn.kind = static_cast<ChurnKind>(m_churn->currentData().toInt());
    out.churn.each = out.churn.kind == ChurnKind::None ? 0 : m_churnEach->value();
    return out;
}

void TransectView::setSentence(const TransectSentence& to)
{
    m_vary->setCurrentIndex(std::max(0, m_vary->findData(QString::fromStdString(to.vary))));
    m_values->setText(to.values);
    m_across->setCurrentIndex(std::max(0, m_across->findData(QString::fromStdString(to.across))));
    suggestAcross();
    if (!to.across.empty())
        m_acrossValues->setText(to.acrossValues);
    setBudget(to.budget);
    m_route->setCurrentText(QString::fromStdString(to.route));
    m_setupA->setCurrentIndex(std::max(0, m_setupA->findData(QString::fromStdString(to.setupA))));
    m_setupB->setCurrentIndex(std::max(0, m_setupB->findData(QString::fromStdString(to.setupB))));
    m_rounds->setValue(to.rounds);
    m_frames->setValue(to.frames);
    m_churn->setCurrentIndex(m_churn->findData(static_cast<int>(to.churn.kind)));
    showChurn();
    m_churnEach->setValue(std::max(1, to.churn.each));
}

void TransectView::walk()
{
    if (m_runner.isRunning())
        return;
    const TransectSentence said = sentence();
    auto spec = specFrom(said, {m_session.sharedTerrain(), m_session.changes()->copy()}, m_session.setup());
    if (!spec) {
        emit trouble(QString::fromStdString(fell::sentence(spec.problem())));
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
        emit trouble(QString::fromStdString(fell::sentence(specs.problem())));
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
    for (QWidget* control : std::initializer_list<QWidget*>{m_vary, m_values, m_across, m_acrossValues, m_route,
             m_setupA, m_setupB, m_rounds, m_frames, m_churn, m_churnEach, m_reach})
        control->setEnabled(!running);
    if (running) {
        m_progress->setValue(0);
        m_doing->setText(tr("starting"));
    } else {
        m_doing->setText(tr("Each value and setup gets a world of its own; frames are timed with everything resident, "
                            "the first of each round dropped until they are steady."));
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

bool TransectView::write(const QString& file, std::string_view bytes)
{
    if (const auto problem = writeFile(file.toStdString(), bytes)) {
        emit trouble(QString::fromStdString(fell::sentence(*problem)));
        return false;
    }
    emit note(tr("Saved %1").arg(file));
    return true;
}

bool TransectView::saveCsv(const QString& file)
{
    const TransectResult& result = m_runner.result();
    return write(file,
        file.endsWith(QStringLiteral(".json"), Qt::CaseInsensitive) ? toJson(result, RawSamples::With).dump() + "\n"
                                                                    : toCsv(result));
}

bool TransectView::savePlot(const QString& file)
{
    if (file.endsWith(QStringLiteral(".svg"), Qt::CaseInsensitive))
        return write(file, toSvg(m_runner.result()));
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    m_plots->picture().save(&buffer, "PNG");
    return write(file, std::string_view(bytes.constData(), static_cast<std::size_t>(bytes.size())));
}

bool TransectView::saveReport(const QString& file)
{
    const TransectResult& result = m_runner.result();
    const Report report = reportOf(result);
    const bool isMarkdown = file.endsWith(QStringLiteral(".md"), Qt::CaseInsensitive);
    return write(file, isMarkdown ? toMarkdown(report) : toHtml(report, toSvg(result)));
}

bool TransectView::open(const QString& file)
{
    if (m_runner.isRunning()) {
        emit trouble(tr("A walk is running; stop it before another result is opened"));
        return false;
    }
    const auto text = readFile(file.toStdString());
    const bool isJson = file.endsWith(QStringLiteral(".json"), Qt::CaseInsensitive);
    auto result = !text ? Outcome<TransectResult>(text.problem())
        : isJson        ? parseResultJson(text.value(), file.toStdString())
                        : parseResultCsv(text.value(), file.toStdString());
    if (!result) {
        emit trouble(QString::fromStdString(fell::sentence(result.problem())));
        return false;
    }
    m_runner.show(result.take());
    return true;
}

void TransectView::askSaveCsv()
{
    const QString file = QFileDialog::getSaveFileName(
        this, tr("Save result"), QStringLiteral("transect.csv"), tr("Transect (*.csv);;With raw samples (*.json)"));
    if (!file.isEmpty())
        saveCsv(file);
}

void TransectView::askSavePlot()
{
    const QString file = QFileDialog::getSaveFileName(
        this, tr("Save plots"), QStringLiteral("transect.png"), tr("Picture (*.png);;Drawing (*.svg)"));
    if (!file.isEmpty())
        savePlot(file);
}

void TransectView::askSaveReport()
{
    const QString file = QFileDialog::getSaveFileName(
        this, tr("Save report"), QStringLiteral("report.html"), tr("Web page (*.html);;Markdown (*.md)"));
    if (!file.isEmpty())
        saveReport(file);
}

void TransectView::askOpen()
{
    const QString file
        = QFileDialog::getOpenFileName(this, tr("Open result"), QString(), tr("Transect (*.csv *.json)"));
    if (!file.isEmpty())
        open(file);
}

} // namespace fell
