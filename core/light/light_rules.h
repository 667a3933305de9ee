// SPDX-License-Identifier: Apache-2.0
// The stage Light: which channels there are, and what each kind of block gives and takes.
//
// Levels run from 0, dark, to 15. A voxel's level in a channel is the highest of
//   what its block gives                                       (lamps)
//   15, if only air is above it and it is air itself (sky)
//   a neighbour's level less what this voxel takes, for its six neighbours.
// A voxel takes at least 1. Through a block that takes 15 no light comes.
#pragma once

#include <fell/blocks/side_rules.h>

#include <array>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace fell::light {

constexpr int kMaxLight = 15;
constexpr int kMaxLightChannels = 6;
/// How far a light can be seen: nothing farther away than this has a part in a voxel's level.
constexpr int kLightRadius = kMaxLight - 1;

/// What a setup says about light.
struct LightChoices {
    std::string mode = "colour";
    std::string sample = "cells"; // how sides read it: lightSamples() in mesh/light_bake.h
    std::string arrival = "whole"; // lightArrivals()
    bool operator==(const LightChoices&) const = default;
};

/// When a chunk may be shown.
struct LightArrival {
    const char* id;
    const char* title;
    const char* note;
};
/// "whole": lit before it is meshed; "later": first with the light of the open sky, lit when nothing else is to
/// do.
std::span<const LightArrival> lightArrivals();

/// How the levels of a voxel, a corner or a point are stored: kLevelBits a channel, lamps first (one, or red, green,
/// blue), then the sky. All nine pairs of 0, 1 or 3 channels are modes.
struct LightFormat {
    int lamps = 0, sky = 0; // channels: 0, 1 or 3
    [[nodiscard]] constexpr int channels() const { return lamps + sky; }
    [[nodiscard]] constexpr bool isSky(int channel) const { return channel >= lamps; }
    bool operator==(const LightFormat&) const = default;
};
constexpr int kLevelBits = 4;

struct LightMode {
    const char* id;
    const char* title;
    const char* note; // one sentence for a tooltip
    int lamps = 0, sky = 0; // channels: 0, 1 or 3
    [[nodiscard]] constexpr int channels() const { return lamps + sky; }
    [[nodiscard]] constexpr bool isSky(int channel) const { return channel >= lamps; }
    [[nodiscard]] constexpr LightFormat format() const { return {lamps, sky}; }
};

/// What a channel is called: "lamps", "sky", "red lamps", "green sky".
std::string channelTitle(const LightMode& mode, int channel);

/// All modes, the cheapest first; the first has no light.
std::span<const LightMode> lightModes();
const LightMode* findLightMode(std::string_view id);

/// Which of a block's colours a channel uses. Plain is what the least tinted colour loses.
enum class LightColour : std::uint8_t { Plain, Red, Green, Blue };
constexpr std::size_t kLightColourCount = 4;

/// What flooding needs to know of a block set, by material.
struct LightRules {
    const LightMode* mode = nullptr;
    std::array<std::vector<std::uint8_t>, kLightColourCount> attenuation; // levels, 1 to 15
    std::array<std::vector<std::uint8_t>, kMaxLightChannels> emission; // by channel; nothing in sky channels
    std::vector<std::uint8_t> isOpen; // 1: sky falls through without loss
    std::vector<std::uint8_t> isTinted; // 1: takes more from one colour than from another
    std::vector<std::uint8_t> isLamp; // 1: gives light
    Material dark = 0; // materials 1 to this one take all light and give none

    [[nodiscard]] LightColour colourOf(int channel) const;
    [[nodiscard]] const std::vector<std::uint8_t>& takenIn(int channel) const
    {
        return attenuation[static_cast<std::size_t>(colourOf(channel))];
    }
};

LightRules lightRulesOf(const BlockSet& blocks, const LightMode& mode);

} // namespace fell::light
