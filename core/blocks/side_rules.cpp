// SPDX-License-Identifier: Apache-2.0
#include <fell/blocks/side_rules.h>

#include <cassert>

namespace fell::blocks {

SideRules sideRulesOf(const BlockSet& blocks)
{
    SideRules rules;
    for (const BlockKind& kind : blocks.kinds) {
        assert(!kind.shape || kind.matter == Matter::Solid); // as block set files have it: meshers ask covers first
        std::array<Coverage, kSideCount> all{};
        all.fill(kCoversAll);
        rules.matter.push_back(kind.matter);
        rules.shapes.push_back(kind.shape);
        rules.covers.push_back(kind.shape ? kind.shape->covers : all);
    }
    rules.covers[kOpen] = {};
    while (
        rules.solidCubes + 1u < blocks.kinds.size() && rules.isSolidCube(static_cast<Material>(rules.solidCubes + 1)))
        ++rules.solidCubes;
    constexpr unsigned kCubeBit = 2, kHidesBit = 8; // see include/fell/method.h
    for (std::size_t m = 0; m < blocks.kinds.size(); ++m) {
        auto flags = static_cast<std::uint32_t>(rules.matter[m])
            | static_cast<std::uint32_t>(rules.isCube(static_cast<Material>(m))) << kCubeBit;
        for (std::size_t side = 0; side < kSideCount; ++side)
            if (rules.matter[m] == Matter::Solid && rules.covers[m][side] == kCoversAll)
                flags |= 1U << (kHidesBit + side);
        rules.flags.push_back(flags);
    }
    return rules;
}

bool isSideSeen(const SideRules& rules, Material here, Material there, Side side)
{
    assert(here != kOpen && here < rules.matter.size() && there < rules.matter.size());
    if (there == kOpen)
        return true;
    if (rules.matter[there] != Matter::Solid)
        return here != there;
    const Coverage mine = rules.covers[here][static_cast<std::size_t>(side)],
                   theirs = rules.covers[there][static_cast<std::size_t>(opposite(side))];
    return (mine & ~theirs) != 0;
}

} // namespace fell::blocks
