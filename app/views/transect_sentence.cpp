// SPDX-License-Identifier: GPL-3.0-or-later
// What is measured, read as a sentence: the settings that vary, the route, the setups and the budget.
#include <fell/app/views/transect_view.h>

#include <fell/app/views/cards.h>

#include <fell/app/models/text.h>
#include <fell/app/views/ledger_view.h>
#include <fell/app/views/theme.h>
#include <fell/app/views/transect_plots.h>

#include <QComboBox>
#include <QFrame>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QProgressBar>
#include <QPushButton>
#include <QSlider>
#include <QSpinBox>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace fell::app {
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
        for (const auto& id : field.choices())
            all << QString::fromStdString(id);
        return all.join(QStringLiteral(", "));
    }
    return field.path == "stream.workers"  ? QStringLiteral("1, 2")
        : field.path == "draw.fieldOfView" ? QStringLiteral("45, 65, 90")
                                           : QString::number(field.low);
}

/// `title`: for screen readers, where no label says it.
void named(QWidget* control, const char* name, const QString& tip, const QString& title = {})
{
    control->setAccessibleName(title);
    control->setObjectName(QLatin1String(name));
    control->setToolTip(tip);
}

constexpr double kUsualBudget = 16.6, kStepsToTenfold = 50; // ms; steps of the slider

} // namespace

/// What varies, over which values, and what changes meanwhile.
void TransectView::buildVaried(QWidget* card)
{
    m_vary = new QComboBox(card);
    for (const SetupField& field : setupFields())
        m_vary->addItem(QString::fromStdString(field.title), QString::fromStdString(field.path));
    named(m_vary, "vary", tr("Any number or choice of a setup."));
    m_values = new QLineEdit(card);
    m_values->setMinimumWidth(110);
    named(m_values, "values",
        tr("The values, separated by commas. Each is measured in every round: more values, more time."), tr("Values"));
    m_second = new QComboBox(card);
    m_second->addItem(tr("nothing else"), QString());
    for (const SetupField& field : setupFields())
        m_second->addItem(QString::fromStdString(field.title), QString::fromStdString(field.path));
    named(m_second, "across",
        tr("A second thing that varies: each of its values with each of the first. The plots become heat maps."));
    m_secondValues = new QLineEdit(card);
    named(m_secondValues, "secondValues", tr("The values of the second, separated by commas."),
        tr("Values of the second"));
    m_acrossOver = word(tr("over"), card);
    m_churn = new QComboBox(card);
    for (const ChurnChoice& choice : churnChoices())
        m_churn->addItem(tr(choice.title), static_cast<int>(choice.kind));
    named(m_churn, "churn",
        tr("What changes around the eye in each frame, the same for every setup: what one change costs is then "
           "measured "
           "too."));
    m_churnEach = new QSpinBox(card);
    m_churnEach->setSuffix(tr(" a frame"));
    named(m_churnEach, "churnEach", tr("How many change in each frame, all as one edit."));
    connect(m_churn, &QComboBox::currentIndexChanged, this, &TransectView::showChurn);
}

/// Along which route, with which setups, how often; and the buttons.
void TransectView::buildHow(QWidget* card)
{
    m_route = new QComboBox(card);
    listRoutes();
    named(m_route, "route", tr("The camera path, the same in every round."));
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
    named(m_rounds, "rounds", tr("Repetitions of the whole measurement. Five or more give narrow intervals."),
        tr("Rounds"));
    m_frames = new QSpinBox(card);
    m_frames->setRange(1, 10000);
    named(m_frames, "frames", tr("Frames along the route in each round."), tr("Frames"));
    m_walk = new QPushButton(tr("Run"), card);
    m_walk->setProperty("primary", true);
    named(m_walk, "walk",
        tr("Builds a world for each value and setup, and measures mesh time and frame time with all chunks loaded. The "
           "first "
           "frames of each round are dropped until times are steady. The field is not drawn meanwhile."));
    m_stop = new QPushButton(tr("Stop"), card);
    named(m_stop, "stop", tr("Stops the measurement and keeps its results."));
}

QWidget* TransectView::buildSentence()
{
    QFrame* card = newCard(this);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(14, 10, 14, 10);
    buildVaried(card);
    buildHow(card);
    const auto line = [&](std::initializer_list<std::pair<QString, QWidget*>> words) {
        auto* row = new QHBoxLayout;
        row->setSpacing(7);
        for (const auto& [text, control] : words) {
            if (!text.isEmpty())
                row->addWidget(word(text, card));
            row->addWidget(control, control == m_values || control == m_secondValues ? 1 : 0);
        }
        column->addLayout(row);
        return row;
    };
    line({{tr("Vary"), m_vary}, {tr("over"), m_values}, {tr("and"), m_second}, {QString(), m_acrossOver},
        {QString(), m_secondValues}, {tr("while"), m_churn}, {QString(), m_churnEach}});
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
    connect(m_second, &QComboBox::activated, this, &TransectView::suggestAcross);
    connect(m_walk, &QPushButton::clicked, this, &TransectView::walk);
    connect(m_stop, &QPushButton::clicked, &m_runner, &TransectRunner::stop);
    setSentence({});
    setBudget(m_setupBudget = m_session.setup().draw.budget);
    return card;
}

void TransectView::suggestValues()
{
    if (const SetupField* field = findField(m_vary->currentData().toString().toStdString()))
        m_values->setText(suggestion(*field));
}

void TransectView::suggestAcross()
{
    const SetupField* field = findField(m_second->currentData().toString().toStdString());
    m_secondValues->setText(field ? suggestion(*field) : QString());
    m_acrossOver->setVisible(field != nullptr);
    m_secondValues->setVisible(field != nullptr);
}

/// Only a load that changes something has a number.
void TransectView::showChurn()
{
    const ChurnChoice& choice = churnChoice(static_cast<ChurnKind>(m_churn->currentData().toInt()));
    m_churnEach->setVisible(choice.max > 0);
    m_churnEach->setRange(1, std::max(1, choice.max));
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
    m_budget->setAccessibleName(tr("Frame budget"));
    m_budget->setRange(-46, 74);
    m_budget->setFixedWidth(110);
    m_reach = new QPushButton(tr("Find reach"), all);
    m_reach->setObjectName(QStringLiteral("findReach"));
    m_reach->setToolTip(tr("Finds the largest render distance whose frames stay within the budget at p95: doubles the "
                           "distance, bisects, and confirms the answer."));
    const QString tip = tr("The frame budget. Rows are compared with it at once. A setup has 16.6 ms; a software "
                           "rasteriser needs more.");
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

TransectSentence TransectView::sentence() const
{
    TransectSentence out;
    out.vary = m_vary->currentData().toString().toStdString();
    out.values = m_values->text();
    out.second = m_second->currentData().toString().toStdString();
    out.secondValues = m_secondValues->text();
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
    m_second->setCurrentIndex(std::max(0, m_second->findData(QString::fromStdString(to.second))));
    suggestAcross();
    if (!to.second.empty())
        m_secondValues->setText(to.secondValues);
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

} // namespace fell::app
