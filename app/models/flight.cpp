// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/flight.h>

#include <glm/geometric.hpp>

#include <algorithm>
#include <cmath>

namespace fell::app {

Eye Flight::step(const Eye& eye, double seconds, double voxelsPerMetre) const
{
    const auto pull = [](bool one, bool other) { return static_cast<double>(one) - static_cast<double>(other); };
    const glm::dvec3 direction = forwardOf(eye) * pull(keys.forward, keys.back)
        + rightOf(eye) * pull(keys.right, keys.left) + glm::dvec3{0, 1, 0} * pull(keys.up, keys.down);
    const double length = glm::length(direction);
    if (length < 1e-9)
        return eye;
    return moved(eye, direction / length * (speed * (keys.fast ? kFaster : 1) * seconds * voxelsPerMetre));
}

Eye Flight::look(Eye eye, double dx, double dy)
{
    eye.yaw = std::remainder(eye.yaw + dx * kDegreesAPixel, 360.0);
    eye.pitch = std::clamp(eye.pitch - dy * kDegreesAPixel, -90.0, 90.0);
    return eye;
}

void Flight::changeSpeed(double notches)
{
    speed = std::clamp(speed * std::pow(1.25, notches), kSlowest, kFastest);
}

} // namespace fell::app
