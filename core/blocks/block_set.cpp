// SPDX-License-Identifier: Apache-2.0
#include <fell/blocks/block_set.h>

#include <algorithm>

namespace fell::blocks {

BlockLight usualLight(Matter matter, bool isCube)
{
    constexpr int kLiquidTakes = 2;
    BlockLight light;
    light.opacity = matter == Matter::SeeThrough ? 1 : matter == Matter::Liquid ? kLiquidTakes : isCube ? 15 : 0;
    return light;
}

std::optional<Material> findMaterial(const BlockSet& blocks, std::string_view name)
{
    for (std::size_t i = 0; i < blocks.kinds.size(); ++i)
        if (blocks.kinds[i].name == name)
            return static_cast<Material>(i);
    return std::nullopt;
}

Rgb lookOf(const BlockKind& kind, Side side)
{
    return side == Side::Up ? kind.top : side == Side::Down ? kind.bottom : kind.side;
}

bool differOnlyInLook(const BlockSet& a, const BlockSet& b)
{
    return std::equal(a.kinds.begin(), a.kinds.end(), b.kinds.begin(), b.kinds.end(),
        [](const BlockKind& one, const BlockKind& other) {
            return one.name == other.name && one.matter == other.matter && one.shapeName == other.shapeName
                && one.turn == other.turn && one.light.opacity == other.light.opacity
                && one.light.tint == other.light.tint && one.light.emission == other.light.emission;
        });
}

bool haveSameKinds(const BlockSet& a, const BlockSet& b)
{
    return std::equal(a.kinds.begin(), a.kinds.end(), b.kinds.begin(), b.kinds.end(),
        [](const BlockKind& one, const BlockKind& other) {
            return one.name == other.name && one.matter == other.matter;
        });
}

bool isStoodOn(const BlockKind& kind)
{
    return kind.matter != Matter::Liquid && kind.name != "open";
}

} // namespace fell::blocks
