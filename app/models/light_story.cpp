// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/light_story.h>

#include <QStringList>

#include <cmath>

namespace fell::app {
namespace {

/// The brightest of the lamps, else of the sky.
int channelToFollow(const std::vector<int>& levels, const LightMode& mode)
{
    int best = mode.lamps; // the first of the sky
    for (int c = mode.lamps; c-- > 0;)
        if (levels[static_cast<std::size_t>(c)] > 0
            && (best >= mode.lamps || levels[static_cast<std::size_t>(c)] >= levels[static_cast<std::size_t>(best)]))
            best = c;
    return best;
}

} // namespace

std::optional<LightStory> lightStoryOf(
    LightView& view, const LightMode& mode, const BlockSet& blocks, VoxelPos at, std::optional<int> wanted)
{
    std::vector<int> levels;
    QStringList names;
    for (int c = 0; c < mode.channels(); ++c) {
        const auto level = view.level(at, c);
        if (!level)
            return std::nullopt;
        levels.push_back(*level);
        names << QStringLiteral("%1 %2 %")
                     .arg(QString::fromStdString(channelTitle(mode, c)))
                     .arg(std::lround(*level * 100.0 / kMaxLight));
    }
    if (levels.empty())
        return std::nullopt;
    LightStory story;
    story.levels = names.join(QStringLiteral(" · "));
    const int channel = wanted ? std::clamp(*wanted, 0, mode.channels() - 1) : channelToFollow(levels, mode);
    for (const LightStep& step : view.path(at, channel))
        story.path.push_back(step.at);
    if (story.path.empty())
        return story;
    const VoxelPos from = story.path.back();
    const Material material = view.material(from).value_or(kOpen);
    const QString name
        = mode.isSky(channel) ? QStringLiteral("the open sky") : QString::fromStdString(blocks.kinds[material].name);
    story.source = QStringLiteral("%1 from %2 at %3, %4, %5, %6 voxels away")
                       .arg(QString::fromStdString(channelTitle(mode, channel)), name)
                       .arg(from.x)
                       .arg(from.y)
                       .arg(from.z)
                       .arg(story.path.size() - 1);
    return story;
}

} // namespace fell::app
