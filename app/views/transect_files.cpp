// SPDX-License-Identifier: GPL-3.0-or-later
// Results as files: saved as CSV, plot and report, and opened again.
#include <fell/app/views/transect_view.h>

#include <fell/app/views/cards.h>

#include <nlohmann/json.hpp>

#include <fell/app/views/transect_plots.h>
#include <fell/input/text_file.h>
#include <fell/measure/report.h>

#include <QBuffer>
#include <QFileDialog>

namespace fell::app {

bool TransectView::write(const QString& file, std::string_view bytes)
{
    if (const auto problem = writeFile(file.toStdString(), bytes)) {
        emit trouble(QString::fromStdString(input::sentence(*problem)));
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
        emit trouble(QString::fromStdString(input::sentence(result.problem())));
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

} // namespace fell::app
