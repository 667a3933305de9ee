// SPDX-License-Identifier: GPL-3.0-or-later
// How keys, mouse and wheel move an eye. Knows no window.
#pragma once

#include <fell/cull/view.h>

namespace fell::app {

struct FlightKeys {
    bool forward = false, back = false, left = false, right = false, up = false, down = false, fast = false;
    [[nodiscard]] bool any() const { return forward || back || left || right || up || down; }
};

struct Flight {
    FlightKeys keys;
    double speed = 24; // metres a second

    static constexpr double kSlowest = 1, kFastest = 400; // metres a second
    static constexpr double kDegreesAPixel = 0.18; // a drag across 1,000 pixels turns the eye half round
    static constexpr double kFaster = 4; // while the fast key is held

    /// The eye after `seconds` of flying with the keys held. Forward goes where the eye looks.
    [[nodiscard]] Eye step(const Eye& eye, double seconds, double voxelsPerMetre) const;
    /// The eye after the mouse was dragged; pitch stays between straight down and straight up.
    [[nodiscard]] static Eye look(Eye eye, double dx, double dy);
    /// One notch of the wheel is a quarter faster or slower.
    void changeSpeed(double notches);
};

} // namespace fell::app
