// SPDX-License-Identifier: Apache-2.0
// Between screen colours and linear light.
#pragma once

#include <fell/namespaces.h>

#include <cmath>

namespace fell::blocks {

/// The linear light of a channel of a screen colour; both 0 to 1.
/// Source  IEC 61966-2-1, 1999.
template <typename Real> [[nodiscard]] Real linearOf(Real screen)
{
    return screen <= Real(0.04045) ? screen / Real(12.92) : std::pow((screen + Real(0.055)) / Real(1.055), Real(2.4));
}

/// The screen colour of a channel of linear light, as linearOf reads it.
template <typename Real> [[nodiscard]] Real screenOf(Real linear)
{
    return linear <= Real(0.0031308) ? Real(12.92) * linear
                                     : Real(1.055) * std::pow(linear, 1 / Real(2.4)) - Real(0.055);
}

} // namespace fell::blocks
