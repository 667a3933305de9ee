// SPDX-License-Identifier: Apache-2.0
// The light of the sky by the height of the sun.
#pragma once

#include <fell/namespaces.h>

#include <glm/vec3.hpp>

namespace fell::gpu {

constexpr double kLateMorning = 46; // degrees: what a setup is compared at
constexpr double kLowestSun = -18, kHighestSun = 60; // degrees above the horizon that can be asked for

/// What falls on the world and what the air looks like. Colours of the air are sRGB; `sunlight` and `skylight` are
/// powers by colour, 1 for plain white at noon.
struct Daylight {
    glm::vec3 towardsSun{0, 1, 0}; // length 1
    glm::vec3 sunlight{0}, skylight{0};
    glm::vec3 horizon{0}, zenith{0};
};

/// The sun moves on the arc that it has late in the morning at kLateMorning. Clamped to the range above.
Daylight daylightAt(double degrees);

} // namespace fell::gpu
