// SPDX-License-Identifier: Apache-2.0
#include <fell/light/light_rules.h>

#include <algorithm>

namespace fell::light {
namespace {

constexpr std::array<LightMode, 9> kModes{{
    {"none", "no light", "Every face is equally bright. No flood and no memory.", 0, 0},
    {"lamp", "lamps only", "One lamp channel under an even sky: half a byte per voxel where light varies.", 1, 0},
    {"sky", "sky only", "One sky channel without lamps: half a byte per voxel where light varies.", 0, 1},
    {"lamp-sky", "lamps, sky", "One channel each: 1 byte per voxel where light varies.", 1, 1},
    {"colour-lamp", "coloured lamps only",
        "Red, green and blue lamps under an even sky: 1.5 bytes per voxel where light varies.", 3, 0},
    {"colour-sky-only", "coloured sky only",
        "Three sky channels, tinted by glass and water: 1.5 bytes per voxel where light varies.", 0, 3},
    {"colour", "coloured lamps", "Red, green and blue lamps and one sky channel: 2 bytes per voxel where light varies.",
        3, 1},
    {"lamp-colour-sky", "coloured sky, lamps",
        "One lamp channel and three sky channels: 2 bytes per voxel where light varies.", 1, 3},
    {"colour-sky", "all coloured",
        "Three channels each; glass and water tint the sky: 3 bytes per voxel where light varies.", 3, 3},
}};

constexpr std::array<LightArrival, 2> kArrivals{{
    {"whole", "lit before shown", "A chunk is flooded before it is meshed. Half-lit chunks are never visible."},
    {"later", "shown first, lit later", "A mesh first has sky light from above only, and is updated after the flood."},
}};

} // namespace

std::span<const LightArrival> lightArrivals()
{
    return kArrivals;
}

std::span<const LightMode> lightModes()
{
    return kModes;
}

const LightMode* findLightMode(std::string_view id)
{
    const auto found = std::find_if(kModes.begin(), kModes.end(), [id](const LightMode& m) { return m.id == id; });
    return found == kModes.end() ? nullptr : &*found;
}

std::string channelTitle(const LightMode& mode, int channel)
{
    constexpr std::array<const char*, 3> kColours{"red", "green", "blue"};
    const bool sky = mode.isSky(channel);
    if ((sky ? mode.sky : mode.lamps) == 1)
        return sky ? "sky" : "lamps";
    const std::string colour = kColours.at(static_cast<std::size_t>(sky ? channel - mode.lamps : channel));
    return colour + (sky ? " sky" : " lamps");
}

LightColour LightRules::colourOf(int channel) const
{
    const bool sky = mode->isSky(channel);
    if ((sky ? mode->sky : mode->lamps) == 1)
        return LightColour::Plain;
    return static_cast<LightColour>(1 + (sky ? channel - mode->lamps : channel));
}

LightRules lightRulesOf(const BlockSet& blocks, const LightMode& mode)
{
    LightRules rules;
    rules.mode = &mode;
    for (const BlockKind& kind : blocks.kinds) {
        const BlockLight& light = kind.light;
        const auto [min, max] = std::minmax_element(light.tint.begin(), light.tint.end());
        const auto taken
            = [&](int tint) { return static_cast<std::uint8_t>(std::clamp(light.opacity + tint, 1, kMaxLight)); };
        rules.attenuation[0].push_back(taken(*min));
        for (std::size_t c = 0; c < 3; ++c)
            rules.attenuation[c + 1].push_back(taken(light.tint[c]));
        const std::uint8_t brightest = *std::max_element(light.emission.begin(), light.emission.end());
        for (int c = 0; c < mode.lamps; ++c)
            rules.emission[static_cast<std::size_t>(c)].push_back(
                mode.lamps == 1 ? brightest : light.emission[static_cast<std::size_t>(c)]);
        rules.isOpen.push_back(light.opacity == 0 && *max == 0);
        rules.isTinted.push_back(rules.attenuation[1].back() != rules.attenuation[2].back()
            || rules.attenuation[1].back() != rules.attenuation[3].back());
        rules.isLamp.push_back(brightest > 0);
    }
    const auto isDark = [&](std::size_t m) { return rules.attenuation[0][m] == kMaxLight && !rules.isLamp[m]; };
    while (rules.dark + 1u < blocks.kinds.size() && isDark(rules.dark + 1u))
        ++rules.dark;
    return rules;
}

} // namespace fell::light
