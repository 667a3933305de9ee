// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/tool_hand.h>

#include <algorithm>
#include <cmath>

namespace fell::app {

ToolHand::ToolHand(QObject* parent)
    : QObject(parent)
{
}

void ToolHand::begin(const BlockSet& blocks)
{
    m_rules = sideRulesOf(blocks);
    m_history.clear();
    m_asked.clear();
    m_wishes.clear();
    m_charges.clear();
    m_debris.clear();
    m_boxFrom.reset();
    target.reset();
    m_figures = {};
    m_slot = 0;
    // What one builds with most comes first: a lamp among them, so that light is one click away.
    m_palette.fill(kOpen);
    std::size_t slot = 0;
    const auto add = [&](Material material) {
        if (slot < kSlots && std::find(m_palette.begin(), m_palette.end(), material) == m_palette.end())
            m_palette[slot++] = material;
    };
    const auto isLamp = [](const BlockKind& kind) {
        return kind.light.emission[0] + kind.light.emission[1] + kind.light.emission[2] > 0;
    };
    const auto looksNew = [&](Material m) { // from all that are in the palette
        constexpr int kApart = 40; // of 255, over three channels
        const Rgb here = blocks.kinds[m].top;
        return std::none_of(m_palette.begin(), m_palette.end(), [&](Material other) {
            const Rgb there = blocks.kinds[other].top;
            return other != kOpen
                && std::abs(here.r - there.r) + std::abs(here.g - there.g) + std::abs(here.b - there.b) < kApart;
        });
    };
    for (Material m = 1; m < blocks.kinds.size() && slot < 4; ++m)
        if (m_rules.isSolidCube(m) && !isLamp(blocks.kinds[m]) && looksNew(m))
            add(m);
    for (Material m = 1; m < blocks.kinds.size() && slot < 5; ++m)
        if (isLamp(blocks.kinds[m]))
            add(m);
    for (Material m = 1; m < blocks.kinds.size() && slot < 7; ++m)
        if (blocks.kinds[m].matter == Matter::SeeThrough)
            add(m);
    for (Material m = 1; m < blocks.kinds.size(); ++m)
        if (!m_rules.isCube(m) || blocks.kinds[m].matter != Matter::Liquid)
            add(m);
    emit changed();
}

void ToolHand::take(std::optional<ToolKind> tool)
{
    m_tool = tool;
    m_boxFrom.reset();
    emit taken();
    emit changed();
}

void ToolHand::setRadius(int voxels)
{
    const int within = std::clamp(voxels, 1, kLargestRadius);
    if (within == m_radius)
        return;
    m_radius = within;
    emit changed();
}

void ToolHand::chooseSlot(std::size_t slot)
{
    m_slot = std::min(slot, kSlots - 1);
    emit changed();
}

void ToolHand::stepSlot(int by)
{
    constexpr int kCount = static_cast<int>(kSlots);
    chooseSlot(static_cast<std::size_t>(((static_cast<int>(m_slot) + by) % kCount + kCount) % kCount));
}

void ToolHand::putInSlot(Material material)
{
    m_palette[m_slot] = material;
    emit changed();
}

void ToolHand::pickUp(Material material)
{
    const auto there = std::find(m_palette.begin(), m_palette.end(), material);
    if (there != m_palette.end())
        chooseSlot(static_cast<std::size_t>(there - m_palette.begin()));
    else
        putInSlot(material);
}

bool ToolHand::use(Streamer& streamer)
{
    if (!m_tool || !target)
        return false;
    ToolUse use{*m_tool, target->voxel, target->voxel, m_radius, material(), m_seed};
    switch (*m_tool) {
    case ToolKind::Place:
        use.at = target->before;
        break;
    case ToolKind::Box: {
        const VoxelPos corner = material() == kOpen ? target->voxel : target->before;
        if (!m_boxFrom) {
            m_boxFrom = corner;
            emit changed();
            return true;
        }
        use.at = *m_boxFrom;
        use.to = corner;
        m_boxFrom.reset();
        break;
    }
    case ToolKind::Blast:
        m_charges.push_back({target->voxel, m_radius, m_seed++, kFuse});
        emit changed();
        return true;
    default:
        break;
    }
    ask(streamer, use);
    return true;
}

void ToolHand::ask(Streamer& streamer, const ToolUse& use)
{
    const Tool& tool = toolOf(use.kind);
    const std::uint64_t number
        = streamer.edit({[use, rules = m_rules](const ReadVoxel& read) { return changesOf(use, read, rules); }, false});
    m_asked.push_back({number, Way::Do, QString::fromUtf8(tool.title), use});
    emit changed();
}

void ToolHand::askAgain(Streamer& streamer, std::vector<VoxelChange> changes, Way way)
{
    const std::uint64_t number
        = streamer.edit({[changes = std::move(changes)](const ReadVoxel&) { return changes; }, true});
    m_asked.push_back({number, way, {}, std::nullopt});
    emit changed();
}

/// A use of a tool that is not in the history yet: what comes after it waits for it.
bool ToolHand::hasNewOnItsWay() const
{
    return std::any_of(m_asked.begin(), m_asked.end(), [](const Asked& one) { return one.way == Way::Do; });
}

bool ToolHand::undo(Streamer& streamer)
{
    if (hasNewOnItsWay()) {
        m_wishes.push_back(Way::Undo);
        return true;
    }
    const EditEntry* entry = m_history.undo();
    if (entry)
        askAgain(streamer, inverse(entry->changes), Way::Undo);
    return entry != nullptr;
}

bool ToolHand::redo(Streamer& streamer)
{
    if (hasNewOnItsWay()) // after it there is nothing to redo
        return false;
    const EditEntry* entry = m_history.redo();
    if (entry)
        askAgain(streamer, entry->changes, Way::Redo);
    return entry != nullptr;
}

QString ToolHand::undoTitle() const
{
    return m_history.nextUndo() ? QString::fromStdString(m_history.nextUndo()->title) : QString();
}

QString ToolHand::redoTitle() const
{
    return m_history.nextRedo() ? QString::fromStdString(m_history.nextRedo()->title) : QString();
}

void ToolHand::giveUp()
{
    m_asked.clear();
    m_wishes.clear();
    m_waiting.clear();
}

void ToolHand::arrived(const EditOutcome& outcome)
{
    const auto asked = std::find_if(
        m_asked.begin(), m_asked.end(), [&outcome](const Asked& one) { return one.edit == outcome.edit; });
    if (asked == m_asked.end())
        return;
    const Asked done = *asked;
    m_asked.erase(asked);
    ++m_figures.edits;
    m_figures.voxels = outcome.changes.size();
    m_figures.relit = outcome.relit;
    m_figures.meshed = outcome.meshed;
    m_figures.missing = outcome.missing;
    m_figures.readyUs = static_cast<double>(outcome.readyNs) / 1000;
    m_figures.pictureUs = 0;
    m_waiting.push_back(outcome.asked);
    if (!outcome.changes.empty()) {
        if (done.way == Way::Do)
            m_history.add({done.title.toStdString(), outcome.changes});
        if (done.use && done.use->kind == ToolKind::Blast)
            throwDebris(outcome, *done.use);
        emit spread(outcome.changes);
    }
    emit changed();
}

void ToolHand::pictured()
{
    if (m_waiting.empty())
        return;
    const auto took = std::chrono::steady_clock::now() - m_waiting.back();
    m_figures.pictureUs = std::chrono::duration<double, std::micro>(took).count();
    m_waiting.clear();
    emit changed();
}

void ToolHand::throwDebris(const EditOutcome& outcome, const ToolUse& use)
{
    constexpr std::size_t kMax = 90;
    constexpr float kSeconds = 4;
    for (const DebrisPiece& piece : debrisOf(outcome.changes, use.at, use.seed, kMax))
        m_debris.push_back({piece.from, {0.5F, 0.5F, 0.5F}, piece.velocity, piece.material, kSeconds});
}

void ToolHand::advance(double seconds, Streamer* streamer, const ReadVoxel& read)
{
    if (streamer && !m_wishes.empty() && !hasNewOnItsWay()) {
        m_wishes.pop_back();
        undo(*streamer);
    }
    for (Charge& charge : m_charges) {
        charge.left -= seconds;
        if (charge.left <= 0 && streamer)
            ask(*streamer, {ToolKind::Blast, charge.at, charge.at, charge.radius, kOpen, charge.seed});
    }
    std::erase_if(m_charges, [](const Charge& charge) { return charge.left <= 0; });
    constexpr float kGravity = 24; // voxels a second, each second
    const auto dt = static_cast<float>(seconds);
    for (Debris& piece : m_debris) {
        piece.left -= dt;
        piece.velocity[1] -= kGravity * dt;
        const std::array<float, 3> was = piece.at;
        for (std::size_t a = 0; a < 3; ++a)
            piece.at[a] += piece.velocity[a] * dt;
        const auto cell = [](float v) { return static_cast<std::int64_t>(std::floor(v)); };
        const VoxelPos at = piece.from + VoxelPos{cell(piece.at[0]), cell(piece.at[1]), cell(piece.at[2])};
        const Material there = read(at).value_or(kOpen);
        if (there != kOpen && m_rules.matter[there] != Matter::Liquid) { // it lies where it fell
            piece.at = was;
            piece.velocity = {0, 0, 0};
        }
    }
    std::erase_if(m_debris, [](const Debris& piece) { return piece.left <= 0; });
}

} // namespace fell::app

#include "moc_tool_hand.cpp"
