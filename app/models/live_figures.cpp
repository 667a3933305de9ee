// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/live_figures.h>

#include <fell/app/models/text.h>
#include <fell/setup/stages.h>

#include <nlohmann/json.hpp>

#include <algorithm>

namespace fell::app {
namespace {

void remember(StageFigure& stage, double value)
{
    stage.curve.push_back(value);
    if (stage.curve.size() > LiveFigures::kCurve)
        stage.curve.pop_front();
}

double meanOf(const std::vector<FrameRecord>& frames, double FrameRecord::*part)
{
    double sum = 0;
    for (const FrameRecord& frame : frames)
        sum += frame.*part;
    return frames.empty() ? 0 : sum / static_cast<double>(frames.size());
}

} // namespace

QString methodTitles(const Setup& setup, const std::string& stageId)
{
    for (const Stage& stage : stages()) {
        if (stage.id != stageId)
            continue;
        const nlohmann::json chosen = findField(stage.path)->read(setup);
        QStringList titles;
        const auto isCalled = [&](const nlohmann::json& id) {
            for (const StageMethod& method : stage.methods())
                if (id == method.id)
                    titles << QString::fromStdString(method.title);
        };
        if (!chosen.is_array())
            isCalled(chosen);
        else
            for (const nlohmann::json& id : chosen) // in the order of the setup
                isCalled(id);
        return titles.isEmpty()  ? QStringLiteral("none")
            : titles.size() == 1 ? titles[0]
                                 : QStringLiteral("%1 + %2 more").arg(titles[0]).arg(titles.size() - 1);
    }
    return {};
}

LiveFigures::LiveFigures()
{
    for (const Stage& stage : setup::stages()) {
        StageFigure figure;
        figure.id = QString::fromStdString(stage.id);
        figure.title = QString::fromStdString(stage.title);
        figure.number = QStringLiteral("–");
        figure.idle = true;
        m_stages.push_back(figure);
    }
}

StageFigure& LiveFigures::stage(const char* id)
{
    return *std::find_if(
        m_stages.begin(), m_stages.end(), [id](const StageFigure& figure) { return figure.id == QLatin1String(id); });
}

void LiveFigures::workerStage(
    const char* id, std::uint64_t chunks, std::uint64_t ns, std::uint64_t queue, const LiveSample& sample)
{
    StageFigure& figure = stage(id);
    figure.unit = QStringLiteral("µs/chunk");
    figure.idle = chunks == 0;
    figure.share = static_cast<double>(ns) / (std::max(sample.seconds, 1e-3) * 1e9 * sample.workers);
    if (chunks > 0) {
        const double each = static_cast<double>(ns) / static_cast<double>(chunks) / 1000;
        figure.number = figureText(each);
        remember(figure, each);
    }
    const double rate = static_cast<double>(chunks) / std::max(sample.seconds, 1e-3);
    figure.detail
        = QStringLiteral("queue %1 · %2/s").arg(countText(queue), countText(static_cast<std::uint64_t>(rate)));
}

void LiveFigures::frameStage(const char* id, double ms, const LiveSample& sample)
{
    StageFigure& figure = stage(id);
    figure.unit = QStringLiteral("ms/frame");
    figure.idle = sample.frames.empty() && figure.curve.empty();
    if (sample.frames.empty()) // nothing moves: the cost of the last frames stays
        return;
    figure.share = ms / sample.setup.draw.budget;
    figure.number = figureText(ms);
    remember(figure, ms);
}

void LiveFigures::update(const LiveSample& sample)
{
    for (StageFigure& figure : m_stages)
        figure.method = methodTitles(sample.setup, figure.id.toStdString());
    const auto since = [&](std::uint64_t StreamCounts::*count) {
        return sample.now.*count >= sample.before.*count ? sample.now.*count - sample.before.*count
                                                         : sample.now.*count; // a new world counts from 0
    };
    workerStage(
        "generate", since(&StreamCounts::generated), since(&StreamCounts::generateNs), sample.now.toGenerate, sample);
    workerStage("light", since(&StreamCounts::lit), since(&StreamCounts::lightNs),
        sample.setup.light.mode == "none" ? 0 : sample.now.toMesh + sample.now.toLight, sample);
    workerStage("mesh", since(&StreamCounts::meshed), since(&StreamCounts::meshNs), sample.now.toMesh, sample);
    frameStage("upload", meanOf(sample.frames, &FrameRecord::uploadMs), sample);
    frameStage("cull", meanOf(sample.frames, &FrameRecord::cullMs), sample);
    frameStage("draw", meanOf(sample.frames, &FrameRecord::drawMs), sample);
    stage("upload").detail
        = QStringLiteral("waiting %1 · %2").arg(countText(sample.now.toUpload), bytesText(sample.now.pendingBytes));
    StageFigure& levels = stage("levels");
    const auto& shown = sample.now.shownAt;
    std::uint64_t chunks = 0, coarsest = 0;
    for (std::size_t level = 0; level < shown.size(); ++level) {
        chunks += shown[level];
        coarsest = shown[level] > 0 ? level : coarsest;
    }
    levels.idle = !hasLevels(sample.setup.lod);
    levels.number = levels.idle ? QStringLiteral("1") : countText(coarsest + 1);
    levels.unit = levels.idle ? QStringLiteral("level") : QStringLiteral("levels");
    levels.detail = levels.idle ? QStringLiteral("full detail everywhere")
        : sample.now.levelsMissing > 0
        ? QStringLiteral("%1 places still empty").arg(countText(sample.now.levelsMissing))
        : QStringLiteral("%1 chunks").arg(countText(chunks))
            + (sample.now.levelsWaiting ? QStringLiteral(" · %1 loading").arg(countText(sample.now.levelsWaiting))
                                        : QString());
    stage("cull").detail = QStringLiteral("%1 of %2 kept")
                               .arg(countText(sample.lastFrame.chunks), countText(sample.lastFrame.residentChunks));
    stage("draw").detail = QStringLiteral("%1 triangles").arg(countText(sample.lastFrame.triangles));
    editStage(sample.edits);
    markHoldingBack(sample);
}

void LiveFigures::editStage(const EditFigures& edits)
{
    StageFigure& figure = stage("edit");
    figure.unit = QStringLiteral("ms to picture");
    figure.idle = edits.edits == 0 || edits.pictureUs == 0;
    if (edits.edits == 0) {
        figure.detail = QStringLiteral("nothing changed yet");
        figure.number = QStringLiteral("0");
        figure.unit = QStringLiteral("edits");
        figure.curve.clear();
        return;
    }
    if (edits.pictureUs > 0) {
        figure.number = figureText(edits.pictureUs / 1000);
        remember(figure, edits.pictureUs / 1000);
    }
    figure.detail
        = QStringLiteral("%1 vox · %2 lit · %3 mesh").arg(countText(edits.voxels)).arg(edits.relit).arg(edits.meshed);
}

void LiveFigures::markHoldingBack(const LiveSample& sample)
{
    for (StageFigure& figure : m_stages)
        figure.isBottleneck = false;
    // While the world fills, the worker stage with more work before it decides; else the stage that breaks the budget.
    const double generateLeft = static_cast<double>(sample.now.toGenerate) * stage("generate").share;
    const double meshLeft = static_cast<double>(sample.now.toMesh) * stage("mesh").share;
    const double lightLeft = static_cast<double>(sample.now.toMesh + sample.now.toLight) * stage("light").share;
    if (sample.now.full) {
        stage("generate").isBottleneck = true;
        stage("generate").detail
            = QStringLiteral("memory full: nothing beyond %1 chunks").arg(figureText(sample.now.fullAt));
        return;
    }
    if (const double max = std::max({generateLeft, lightLeft, meshLeft}); !sample.now.settled && max > 0) {
        stage(max == generateLeft ? "generate" : max == lightLeft ? "light" : "mesh").isBottleneck = true;
        return;
    }
    StageFigure* max = nullptr;
    for (const char* id : {"upload", "cull", "draw"})
        if (!max || stage(id).share > max->share)
            max = &stage(id);
    const double all = stage("upload").share + stage("cull").share + stage("draw").share;
    max->isBottleneck = all > 1;
}

} // namespace fell::app
