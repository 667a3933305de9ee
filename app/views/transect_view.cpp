// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/transect_view.h"

#include "input/text_file.h"
#include "measure/findings.h"
#include "measure/report.h"
#include "models/text.h"
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
#include <QSpinBox>
#include <QTableView>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>
#include <filesystem>

namespace fell {
namespace {

QStringList namesIn(const std::filesystem::path& folder)
{
    QStringList names;
    std::error_code error;
    for (const auto& entry : std::filesystem::directory_iterator(folder, error))
        if (entry.path().extension() == ".json")
            names << QString::fromStdString(entry.path().stem().string());
    names.sort();
    return names;
}

QFrame* newCard(QWidget* parent)
{
    auto* card = new QFrame(parent);
    card->setProperty("card", true);
    return card;
}

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

/// What was found.
QString findingWords(const TransectResult& result)
{
    QString words;
    for (const std::string& finding : findingsOf(result, Verdicts::Last)) // the table has the other values
        words
            += (words.isEmpty() ? QString() : QStringLiteral("<br>")) + QString::fromStdString(finding).toHtmlEscaped();
    return words;
}

} // namespace

TransectView::TransectView(WorldSession& session, TransectRunner& runner, QWidget* parent)
    : QWidget(parent)
    , m_session(session)
    , m_runner(runner)
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
    auto* row = new QHBoxLayout;
    row->setSpacing(7);
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
    m_route = new QComboBox(card);
    m_route->addItems(namesIn(demoFolder() / "routes"));
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
    const std::pair<QString, QWidget*> words[]{{tr("Vary"), m_vary}, {tr("over"), m_values}, {tr("along"), m_route},
        {tr("with"), m_setupA}, {tr("and"), m_setupB}, {tr(","), m_rounds}, {tr("rounds of"), m_frames}};
    for (const auto& [text, control] : words) {
        row->addWidget(word(text, card));
        row->addWidget(control, control == m_values ? 1 : 0);
    }
    row->addWidget(word(tr("frames"), card));
    row->addSpacing(10);
    row->addWidget(m_walk);
    row->addWidget(m_stop);
    column->addLayout(row);

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
    connect(m_walk, &QPushButton::clicked, this, &TransectView::walk);
    connect(m_stop, &QPushButton::clicked, &m_runner, &TransectRunner::stop);
    setSentence({});
    return card;
}

QWidget* TransectView::buildResults()
{
    QFrame* card = newCard(this);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(10, 8, 10, 8);
    auto* head = new QHBoxLayout;
    m_words = new QLabel(card);
    m_words->setObjectName(QStringLiteral("words"));
    m_words->setWordWrap(true);
    auto* openButton = new QPushButton(tr("Open…"), card);
    m_saveCsv = new QPushButton(tr("Save CSV…"), card);
    m_savePlot = new QPushButton(tr("Save PNG…"), card);
    openButton->setToolTip(tr("Shows a result that was saved as CSV."));
    m_saveCsv->setToolTip(tr("Saves every row with what it was measured on; it opens again here."));
    m_savePlot->setToolTip(tr("Saves both plots as they are shown."));
    head->addWidget(m_words, 1);
    m_saveReport = new QPushButton(tr("Save report…"), card);
    m_saveReport->setObjectName(QStringLiteral("saveReport"));
    m_saveReport->setToolTip(
        tr("Question, setups, plots, findings, tables, machine and what to beware of as one web page "
           "that needs nothing else, or as Markdown."));
    for (QPushButton* button : {openButton, m_saveCsv, m_savePlot, m_saveReport})
        head->addWidget(button, 0, Qt::AlignTop);
    column->addLayout(head);
    m_model = new TransectTable(this);
    m_table = new QTableView(card);
    m_table->setModel(m_model);
    m_table->setShowGrid(false);
    m_table->setSelectionMode(QAbstractItemView::NoSelection);
    m_table->setFocusPolicy(Qt::NoFocus);
    m_table->verticalHeader()->hide();
    m_table->verticalHeader()->setDefaultSectionSize(24);
    m_table->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    column->addWidget(m_table, 1);
    m_origin = new QLabel(card);
    m_origin->setProperty("muted", true);
    m_origin->setWordWrap(true);
    column->addWidget(m_origin);
    connect(openButton, &QPushButton::clicked, this, &TransectView::askOpen);
    connect(m_saveCsv, &QPushButton::clicked, this, &TransectView::askSaveCsv);
    connect(m_savePlot, &QPushButton::clicked, this, &TransectView::askSavePlot);
    connect(m_saveReport, &QPushButton::clicked, this, &TransectView::askSaveReport);
    return card;
}

void TransectView::suggestValues()
{
    if (const SetupField* field = findField(m_vary->currentData().toString().toStdString()))
        m_values->setText(suggestion(*field));
}

TransectSentence TransectView::sentence() const
{
    TransectSentence out;
    out.vary = m_vary->currentData().toString().toStdString();
    out.values = m_values->text();
    out.route = m_route->currentText().toStdString();
    out.setupA = m_setupA->currentData().toString().toStdString();
    out.setupB = m_setupB->currentData().toString().toStdString();
    out.rounds = m_rounds->value();
    out.frames = m_frames->value();
    return out;
}

void TransectView::setSentence(const TransectSentence& to)
{
    m_vary->setCurrentIndex(std::max(0, m_vary->findData(QString::fromStdString(to.vary))));
    m_values->setText(to.values);
    m_route->setCurrentText(QString::fromStdString(to.route));
    m_setupA->setCurrentIndex(std::max(0, m_setupA->findData(QString::fromStdString(to.setupA))));
    m_setupB->setCurrentIndex(std::max(0, m_setupB->findData(QString::fromStdString(to.setupB))));
    m_rounds->setValue(to.rounds);
    m_frames->setValue(to.frames);
}

void TransectView::walk()
{
    if (m_runner.isRunning())
        return;
    const TransectSentence said = sentence();
    auto spec = specFrom(said, m_session.sharedTerrain(), m_session.setup());
    if (!spec) {
        emit trouble(QString::fromStdString(fell::sentence(spec.problem())));
        return;
    }
    emit aboutToWalk();
    setRunning(true);
    m_runner.start(spec.take(), said.width, said.height);
}

void TransectView::setRunning(bool running)
{
    m_walk->setVisible(!running);
    m_stop->setVisible(running);
    m_progress->setVisible(running);
    for (QWidget* control :
        std::initializer_list<QWidget*>{m_vary, m_values, m_route, m_setupA, m_setupB, m_rounds, m_frames})
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
    const bool any = !result.rows.empty();
    m_saveCsv->setEnabled(any);
    m_savePlot->setEnabled(any);
    m_saveReport->setEnabled(any);
    m_words->setText(any ? findingWords(result)
                         : tr("<b>Results</b> — a row for each value and setup appears here while it is measured."));
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

bool TransectView::saveCsv(const QString& file)
{
    if (const auto problem = writeFile(file.toStdString(), toCsv(m_runner.result()))) {
        emit trouble(QString::fromStdString(fell::sentence(*problem)));
        return false;
    }
    emit note(tr("Saved %1").arg(file));
    return true;
}

bool TransectView::savePlot(const QString& file)
{
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    m_plots->picture().save(&buffer, "PNG");
    if (const auto problem
        = writeFile(file.toStdString(), std::string_view(bytes.constData(), static_cast<std::size_t>(bytes.size())))) {
        emit trouble(QString::fromStdString(fell::sentence(*problem)));
        return false;
    }
    emit note(tr("Saved %1").arg(file));
    return true;
}

bool TransectView::saveReport(const QString& file)
{
    const TransectResult& result = m_runner.result();
    const Report report = reportOf(result);
    const bool isMarkdown = file.endsWith(QStringLiteral(".md"), Qt::CaseInsensitive);
    if (const auto problem
        = writeFile(file.toStdString(), isMarkdown ? toMarkdown(report) : toHtml(report, toSvg(result)))) {
        emit trouble(QString::fromStdString(fell::sentence(*problem)));
        return false;
    }
    emit note(tr("Saved %1").arg(file));
    return true;
}

bool TransectView::open(const QString& file)
{
    if (m_runner.isRunning()) {
        emit trouble(tr("A walk is running; stop it before another result is opened"));
        return false;
    }
    const auto text = readFile(file.toStdString());
    auto result = text ? parseResultCsv(text.value(), file.toStdString()) : Outcome<TransectResult>(text.problem());
    if (!result) {
        emit trouble(QString::fromStdString(fell::sentence(result.problem())));
        return false;
    }
    m_runner.show(result.take());
    return true;
}

void TransectView::askSaveCsv()
{
    const QString file
        = QFileDialog::getSaveFileName(this, tr("Save result"), QStringLiteral("transect.csv"), tr("Transect (*.csv)"));
    if (!file.isEmpty())
        saveCsv(file);
}

void TransectView::askSavePlot()
{
    const QString file
        = QFileDialog::getSaveFileName(this, tr("Save plots"), QStringLiteral("transect.png"), tr("Picture (*.png)"));
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
    const QString file = QFileDialog::getOpenFileName(this, tr("Open result"), QString(), tr("Transect (*.csv)"));
    if (!file.isEmpty())
        open(file);
}

} // namespace fell
