// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/trial_panel.h>

#include <fell/app/models/text.h>

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include <cmath>

namespace fell::app {
namespace {

/// A step saves what the frame is longer without it; a pass costs what it is shorter.
QString tableOf(const std::vector<CullTrialRow>& rows, StepTrial::Of what)
{
    if (rows.empty())
        return {};
    const bool isSaving = what == StepTrial::Of::Steps;
    const auto cell = [](const QString& text, bool right) {
        return QStringLiteral("<td align='%1' style='padding:1px 5px 1px 0'>%2</td>")
            .arg(right ? QStringLiteral("right") : QStringLiteral("left"), text);
    };
    QString out = QStringLiteral("<table width='100%' cellspacing='0'><tr>");
    for (const auto& [head, right] : {std::pair{QObject::tr("with"), false}, {QObject::tr("ms"), true},
             {isSaving ? QObject::tr("saves") : QObject::tr("costs"), true}, {QObject::tr("triangles"), true},
             {QObject::tr("draws"), true}})
        out += cell(QStringLiteral("<b>%1</b>").arg(head), right);
    out += QStringLiteral("</tr>");
    const double all = rows.front().frameMs.p50;
    for (const CullTrialRow& row : rows) {
        const double differs = isSaving ? row.frameMs.p50 - all : all - row.frameMs.p50;
        const QString title = row.step.empty() ? QString::fromStdString(row.what)
                                               : QObject::tr("no %1").arg(QString::fromStdString(row.step));
        out += QStringLiteral("<tr>") + cell(title.toHtmlEscaped().replace(QLatin1Char(' '), QChar::Nbsp), false)
            + cell(figureText(row.frameMs.p50), true)
            + cell(&row == &rows.front()
                    ? QStringLiteral("–")
                    : (differs < 0 ? QStringLiteral("−") : QString()) + figureText(std::abs(differs)),
                true)
            + cell(countText(row.triangles), true) + cell(countText(row.drawCalls), true) + QStringLiteral("</tr>");
    }
    return out + QStringLiteral("</table>");
}

} // namespace

TrialPanel::TrialPanel(WorldSession& session, StepTrial::Of what, QWidget* parent)
    : QWidget(parent)
    , m_session(session)
    , m_what(what)
{
    const bool isSteps = what == StepTrial::Of::Steps;
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    const auto label = [&](const QString& text, const char* look) {
        auto* made = new QLabel(text, this);
        made->setProperty(look, true);
        made->setWordWrap(true);
        column->addWidget(made);
        return made;
    };
    if (isSteps)
        label(tr("The same view drawn with all steps, without each in turn, and with none. Medians of five frames."),
            "muted");
    m_measure = new QPushButton(this);
    m_measure->setObjectName(isSteps ? QStringLiteral("measureSteps") : QStringLiteral("measurePasses"));
    m_measure->setToolTip(isSteps ? tr("Draws the next frames with other steps, in turn: a frame without any takes as "
                                       "long as it takes to draw everything. The view must stay still.")
                                  : tr("Draws the next frames without the sky, the solid sides, the shaped blocks, the "
                                       "clear sides, and without all, in turn; medians of five frames each. The view "
                                       "must stay still."));
    connect(m_measure, &QPushButton::clicked, this, [this] {
        StepTrial& of = m_session.stepTrial;
        if (of.isRunning())
            of.stop();
        else
            of.start(m_what, m_session.edited().current().cull, m_session.eye);
    });
    column->addWidget(m_measure);
    m_progress = label({}, "muted");
    m_table = label({}, "plain");
    m_table->setObjectName(isSteps ? QStringLiteral("savings") : QStringLiteral("passCosts"));
    m_table->setTextFormat(Qt::RichText);
    m_table->setToolTip(isSteps
            ? tr("Milliseconds a frame; what a step saves is how much longer the frame takes without it.")
            : tr("Milliseconds a frame; what a pass costs is how much shorter the frame is without it. What it covered "
                 "is then drawn, so the costs do not add up to the frame."));
    sync();
}

void TrialPanel::sync()
{
    const StepTrial& trial = m_session.stepTrial;
    const bool isRunning = trial.isRunning(m_what);
    m_measure->setText(isRunning             ? tr("Stop measuring")
            : m_what == StepTrial::Of::Steps ? tr("What does each step save here?")
                                             : tr("What does each pass cost here?"));
    m_measure->setEnabled(!trial.isRunning() || isRunning);
    m_progress->setText(isRunning ? tr("0 %, keep the view still") : trial.trouble());
    m_progress->setVisible(!m_progress->text().isEmpty());
    m_table->setText(tableOf(trial.rows(m_what), m_what));
    m_table->setVisible(!m_table->text().isEmpty());
    refresh();
}

void TrialPanel::refresh()
{
    if (m_session.stepTrial.isRunning(m_what))
        m_progress->setText(tr("%1 %, keep the view still").arg(qRound(100 * m_session.stepTrial.share())));
}

} // namespace fell::app

#include "moc_trial_panel.cpp"
