// SPDX-License-Identifier: Apache-2.0
// A curve through points, as recipes shape a layer's height with.
#pragma once

#include <fell/namespaces.h>

#include <array>
#include <span>
#include <vector>

namespace fell::terrain {

/// What a layer's share of its height becomes: x and y in [0, 1], x rising from point to point.
using CurvePoint = std::array<double, 2>;
constexpr std::size_t kMaxCurvePoints = 16; // of a recipe's curve; at least 2

/// Runs smoothly through its points and rises or falls only where they do, so that no height lies beyond them; level
/// before the first and beyond the last. Nothing but IEEE operations: the same bits on every machine.
/// Source  Fritsch and Carlson, "Monotone Piecewise Cubic Interpolation", SIAM J. Numer. Anal. 17, 1980; slopes at
///         points by their three-point formula as in Fritsch and Butland, SIAM J. Sci. Stat. Comput. 5, 1984.
class HeightCurve {
public:
    /// The curve that changes nothing.
    HeightCurve() = default;
    /// Asserts at least two points, x rising.
    explicit HeightCurve(std::span<const CurvePoint> points);

    [[nodiscard]] bool isStraight() const { return m_points.empty(); }
    /// Cost: 10 ns with a handful of points.
    [[nodiscard]] double at(double x) const;

private:
    std::vector<CurvePoint> m_points;
    std::vector<double> m_slopes; // one a point
};

} // namespace fell::terrain
