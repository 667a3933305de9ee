// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/churn.h>

#include <fell/edit/tools.h>
#include <fell/measure/findings.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <unordered_map>

namespace fell::measure {
namespace {

constexpr std::array<ChurnChoice, 4> kChoices{{
    {ChurnKind::None, "none", "nothing changes", "change", 0},
    {ChurnKind::Blocks, "blocks", "blocks come and go", "block", 4096},
    {ChurnKind::Lamps, "lamps", "lamps come and go", "lamp", 1024},
    {ChurnKind::Blasts, "blasts", "charges go off", "blast", 16},
}};
constexpr int kAbove = 40, kBelow = 160; // voxels around the eye's height where a column's highest block is looked for

Material lampOf(const BlockSet& blocks)
{
    const auto lamp = std::find_if(blocks.kinds.begin() + 1, blocks.kinds.end(),
        [](const BlockKind& kind) { return kind.light.emission != std::array<std::uint8_t, 3>{}; });
    return lamp == blocks.kinds.end() ? kOpen : static_cast<Material>(lamp - blocks.kinds.begin());
}

std::optional<VoxelPos> highestBlock(VoxelPos column, const ReadVoxel& read, const SideRules& rules)
{
    for (VoxelPos at = column + VoxelPos{0, kAbove, 0}; at.y >= column.y - kBelow; --at.y)
        if (const auto here = read(at); here && *here != kOpen && rules.matter[*here] != Matter::Liquid)
            return at;
    return std::nullopt;
}

/// Reads what earlier changes of the same frame have made. A class because it remembers them.
class Frame {
public:
    explicit Frame(const ReadVoxel& read)
        : m_read(read)
    {
    }
    std::optional<Material> operator()(VoxelPos at) const
    {
        const auto changed = m_changed.find(key(at));
        return changed != m_changed.end() ? std::optional(changed->second) : m_read(at);
    }
    void set(VoxelPos at, Material after)
    {
        m_changed[key(at)] = after;
        m_order.push_back(at);
    }
    std::vector<VoxelChange> changes()
    {
        std::sort(m_order.begin(), m_order.end());
        m_order.erase(std::unique(m_order.begin(), m_order.end()), m_order.end());
        std::vector<VoxelChange> out;
        for (const VoxelPos at : m_order)
            out.push_back({at, kOpen, m_changed[key(at)]});
        return out;
    }

private:
    static ChunkPos key(VoxelPos at) { return {at.x, at.y, at.z}; }
    const ReadVoxel& m_read;
    std::unordered_map<ChunkPos, Material, ChunkPosHash> m_changed;
    std::vector<VoxelPos> m_order;
};

void changeOne(ChurnKind kind, std::uint64_t chance, VoxelPos at, Material lamp, Frame& frame, const SideRules& rules)
{
    const VoxelPos above = at + VoxelPos{0, 1, 0};
    const Material here = *frame(at);
    if (kind == ChurnKind::Blasts) {
        const ToolUse use{
            .kind = ToolKind::Blast, .at = at, .to = at, .radius = 2 + static_cast<int>(chance % 3), .seed = chance};
        for (const VoxelChange& one : changesOf(
                 use, [&frame](VoxelPos of) { return frame(of); }, rules))
            frame.set(one.at, one.after);
    } else if (kind == ChurnKind::Lamps && here != lamp) {
        frame.set(above, lamp);
    } else if (kind == ChurnKind::Lamps || chance % 2 == 0) {
        frame.set(at, kOpen);
    } else {
        frame.set(above, here);
    }
}

} // namespace

std::span<const ChurnChoice> churnChoices()
{
    return kChoices;
}

const ChurnChoice& churnChoice(ChurnKind kind)
{
    return kChoices[static_cast<std::size_t>(kind)];
}

Outcome<ChurnLoad> parseChurn(const std::string& text)
{
    const std::size_t colon = text.find(':');
    const auto choice = std::find_if(kChoices.begin(), kChoices.end(),
        [id = text.substr(0, colon)](const ChurnChoice& one) { return id == one.id; });
    if (choice != kChoices.end()) {
        if (choice->kind == ChurnKind::None && colon == std::string::npos)
            return ChurnLoad{};
        int each = 0;
        const char* end = text.data() + text.size();
        if (colon != std::string::npos) {
            const auto read = std::from_chars(text.data() + colon + 1, end, each);
            if (read.ec == std::errc{} && read.ptr == end && each >= 1 && each <= choice->max)
                return ChurnLoad{choice->kind, each};
        }
    }
    std::string allowed = "none";
    for (const ChurnChoice& one : kChoices)
        if (one.max > 0)
            allowed += std::string(", ") + one.id + ":N with N from 1 to " + std::to_string(one.max);
    return Problem{"--churn " + text, "", "is no load, allowed are " + allowed};
}

std::string textOf(const ChurnLoad& load)
{
    const ChurnChoice& choice = churnChoice(load.kind);
    return load.kind == ChurnKind::None ? choice.id : choice.id + (":" + std::to_string(load.each));
}

std::optional<Problem> checkChurn(const ChurnLoad& load, const BlockSet& blocks)
{
    if (load.kind == ChurnKind::None)
        return std::nullopt;
    if (auto read = parseChurn(textOf(load)); !read)
        return read.problem();
    if (load.kind == ChurnKind::Lamps && lampOf(blocks) == kOpen)
        return Problem{"--churn " + textOf(load), "", "needs a block that gives light, and this world has none"};
    return std::nullopt;
}

EditRequest churnEdit(const ChurnLoad& load, std::uint64_t seed, int frame, VoxelPos eye,
    const std::shared_ptr<const Terrain>& terrain, const std::shared_ptr<const SideRules>& rules)
{
    return {[=](const ReadVoxel& read) {
        Frame made(read);
        const Material lamp = lampOf(terrain->recipe.blocks);
        for (int i = 0; i < load.each; ++i) {
            const std::uint64_t chance
                = mix64(mix64(seed + static_cast<std::uint64_t>(frame)) + static_cast<std::uint64_t>(i));
            constexpr std::uint64_t kWidth = 2 * kChurnReach + 1;
            const VoxelPos column = eye
                + VoxelPos{static_cast<std::int64_t>((chance >> 8) % kWidth) - kChurnReach, 0,
                    static_cast<std::int64_t>((chance >> 32) % kWidth) - kChurnReach};
            if (const auto at = highestBlock(
                    column, [&made](VoxelPos of) { return made(of); }, *rules))
                changeOne(load.kind, chance >> 56, *at, lamp, made, *rules);
        }
        return made.changes();
    }};
}

void ChurnCost::add(const EditOutcome& outcome)
{
    voxels += outcome.changes.size();
    relitVoxels += outcome.relitVoxels;
    relit += static_cast<std::uint64_t>(outcome.relit);
    meshed += static_cast<std::uint64_t>(outcome.meshed);
    voxelNs += outcome.voxelNs;
    lightNs += outcome.lightNs;
    meshNs += outcome.meshNs;
}

std::string churnSentence(const ChurnLoad& load, const ChurnCost& cost)
{
    if (cost.changes == 0)
        return "nothing was changed";
    const auto each
        = [&cost](std::uint64_t sum) { return static_cast<double>(sum) / static_cast<double>(cost.changes); };
    return std::string("one ") + churnChoice(load.kind).one + ": " + shownFigure(each(cost.meshed)) + " chunks meshed, "
        + shownFigure(each(cost.relitVoxels)) + " voxels relit, " + shownFigure(each(cost.bytes) / 1024)
        + " KiB uploaded, " + shownFigure(each(cost.voxelNs + cost.lightNs + cost.meshNs) / 1e6) + " ms of threads";
}

} // namespace fell::measure
