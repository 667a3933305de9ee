// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/daylight.h>

#include <glm/common.hpp>
#include <glm/geometric.hpp>
#include <glm/trigonometric.hpp>

#include <algorithm>
#include <array>

namespace fell::gpu {
namespace {

struct Hour {
    float degrees;
    glm::vec3 sunlight, skylight, horizon, zenith;
};

// From night over dusk to a bright day with haze; between two hours everything runs evenly.
constexpr std::array<Hour, 5> kHours{{
    {-18, {0, 0, 0}, {0.012f, 0.016f, 0.028f}, {0.08f, 0.10f, 0.14f}, {0.03f, 0.04f, 0.08f}},
    {-4, {0, 0, 0}, {0.10f, 0.12f, 0.20f}, {0.47f, 0.42f, 0.43f}, {0.13f, 0.18f, 0.30f}},
    {4, {0.55f, 0.33f, 0.18f}, {0.42f, 0.45f, 0.55f}, {0.88f, 0.74f, 0.58f}, {0.29f, 0.40f, 0.56f}},
    {20, {0.95f, 0.80f, 0.60f}, {0.74f, 0.84f, 0.97f}, {0.83f, 0.83f, 0.80f}, {0.40f, 0.54f, 0.69f}},
    {46, {1.0f, 0.93f, 0.80f}, {0.86f, 0.95f, 1.08f}, {0.80f, 0.84f, 0.85f}, {0.42f, 0.56f, 0.70f}},
}};

} // namespace

Daylight daylightAt(double degrees)
{
    const auto at = static_cast<float>(std::clamp(degrees, kLowestSun, kHighestSun));
    Daylight out;
    const glm::vec3 late = glm::normalize(glm::vec3{0.55f, 0.72f, 0.42f}); // from the south-east
    const glm::vec3 along = glm::normalize(glm::vec3{late.x, 0, late.z});
    out.towardsSun = at == static_cast<float>(kLateMorning)
        ? late
        : glm::cos(glm::radians(at)) * along + glm::vec3{0, glm::sin(glm::radians(at)), 0};
    std::size_t next = 1;
    while (next + 1 < kHours.size() && kHours[next].degrees < at)
        ++next;
    const Hour &a = kHours[next - 1], &b = kHours[next];
    const float t = glm::clamp((at - a.degrees) / (b.degrees - a.degrees), 0.0f, 1.0f);
    out.sunlight = glm::mix(a.sunlight, b.sunlight, t);
    out.skylight = glm::mix(a.skylight, b.skylight, t);
    out.horizon = glm::mix(a.horizon, b.horizon, t);
    out.zenith = glm::mix(a.zenith, b.zenith, t);
    return out;
}

} // namespace fell::gpu
