// SPDX-License-Identifier: Apache-2.0
// Single blocks that stand about.
#include <fell/terrain/features/larch.h>

#include <fell/terrain/terrain.h>

namespace fell::terrain {
namespace {

class SingleBlock final : public StandingFeature {
public:
    SingleBlock(const FeatureRule& rule, const FeatureSite& site)
        : StandingFeature(site)
        , m_block(rule.own.block("block"))
        , m_turns(rule.own.turns("block"))
    {
    }
    /// Smaller than half a voxel of any coarser level.
    [[nodiscard]] std::shared_ptr<const Feature> coarser(const Terrain&) const override { return nullptr; }

protected:
    /// A tip without a trunk.
    [[nodiscard]] Tree at(const Terrain&, VoxelPos foot, std::uint64_t dice) const override
    {
        const auto turn = (dice >> 48) * static_cast<std::uint64_t>(m_turns) >> 16;
        return {foot, 1, 0, kOpen, static_cast<Material>(m_block + turn)};
    }

private:
    Material m_block;
    int m_turns; // the block and its turned kinds, which follow it
};

const RecipePart kPart = featurePart({"block", "Single blocks", "one voxel each; turned kinds are chosen by chance",
    {block("block", "block", "one voxel of it; its turned kinds are chosen by chance")},
    {{"Single blocks",
        R"({"kind": "block", "note": "blocks that stand about", "spacing": 10, "chance": 0.5, "slope": 0.8, "ground": ["MATERIAL"], "block": "MATERIAL"})"}}});

} // namespace

extern const FeatureKind kSingleBlock;
const FeatureKind kSingleBlock{&kPart, FeatureKind::Group::Standing,
    [](const FeatureRule& rule, const FeatureSite& site, const RecipeUnits&) -> std::shared_ptr<const Feature> {
        return std::make_shared<SingleBlock>(rule, site);
    },
    [](const auto& text) { return text("block") + ", single"; }};

} // namespace fell::terrain
