// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/frame_history.h>

#include <fell/app/models/text.h>

#include <QLocale>

#include <algorithm>

namespace fell::app {

void FrameHistory::add(const FrameRecord& frame)
{
    m_frames.push_back(frame);
    if (m_frames.size() > kKept)
        m_frames.pop_front();
}

Percentiles FrameHistory::percentiles() const
{
    std::vector<double> ms;
    for (const FrameRecord& frame : m_frames)
        ms.push_back(frame.totalMs());
    return percentilesOf(std::move(ms));
}

bool FrameHistory::isHitch(const FrameRecord& frame) const
{
    return frame.totalMs() > 2 * percentiles().p50;
}

std::size_t FrameHistory::hitches() const
{
    const double limit = 2 * percentiles().p50;
    return static_cast<std::size_t>(
        std::count_if(m_frames.begin(), m_frames.end(), [limit](const FrameRecord& f) { return f.totalMs() > limit; }));
}

QString FrameHistory::causeOf(const FrameRecord& frame) const
{
    struct Part {
        QString name;
        double FrameRecord::*ms;
    };
    const Part parts[]{{QObject::tr("upload"), &FrameRecord::uploadMs}, {QObject::tr("culling"), &FrameRecord::cullMs},
        {QObject::tr("drawing"), &FrameRecord::drawMs},
        {QObject::tr("reading back and comparing pictures"), &FrameRecord::otherMs}};
    const Part* worst = nullptr;
    double maxAbove = 0, usual = 0;
    for (const Part& part : parts) {
        std::vector<double> all;
        for (const FrameRecord& one : m_frames)
            all.push_back(one.*part.ms);
        const double median = percentile(all, 50), above = frame.*part.ms - median;
        if (!worst || above > maxAbove) {
            worst = &part;
            maxAbove = above;
            usual = median;
        }
    }
    QString text
        = QObject::tr("%1 took %2 ms in place of %3").arg(worst->name, figureText(frame.*worst->ms), figureText(usual));
    if (worst->ms == &FrameRecord::uploadMs)
        text += QObject::tr(": %1 meshes, %2").arg(frame.meshesUploaded).arg(bytesText(frame.bytesUploaded));
    return text;
}

const FrameRecord* FrameHistory::lastHitch() const
{
    const double limit = 2 * percentiles().p50;
    const auto found = std::find_if(
        m_frames.rbegin(), m_frames.rend(), [limit](const FrameRecord& f) { return f.totalMs() > limit; });
    return found == m_frames.rend() ? nullptr : &*found;
}

QString storyOf(const FrameRecord& frame)
{
    const QString head = QStringLiteral("Frame %1 · %2 ms\n")
                             .arg(QLocale(QLocale::English).toString(static_cast<qulonglong>(frame.number)),
                                 figureText(frame.totalMs()));
    const double max = std::max({frame.uploadMs, frame.cullMs, frame.drawMs, frame.otherMs});
    if (max == frame.uploadMs)
        return head
            + QStringLiteral("upload %1 ms: %2 meshes, %3, %4 released")
                  .arg(figureText(frame.uploadMs))
                  .arg(frame.meshesUploaded)
                  .arg(bytesText(frame.bytesUploaded))
                  .arg(frame.released);
    if (max == frame.cullMs)
        return head + QStringLiteral("cull %1 ms").arg(figureText(frame.cullMs));
    if (max == frame.drawMs)
        return head
            + QStringLiteral("draw %1 ms, upload %2 ms: %3 meshes")
                  .arg(figureText(frame.drawMs), figureText(frame.uploadMs))
                  .arg(frame.meshesUploaded);
    return head
        + QStringLiteral("%1 ms outside the stages: reading back and comparing pictures")
              .arg(figureText(frame.otherMs));
}

} // namespace fell::app
