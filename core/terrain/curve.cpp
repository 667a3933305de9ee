// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/curve.h>

#include <cassert>

namespace fell::terrain {
namespace {

double riseOf(const CurvePoint& from, const CurvePoint& to)
{
    return (to[1] - from[1]) / (to[0] - from[0]);
}

} // namespace

HeightCurve::HeightCurve(std::span<const CurvePoint> points)
    : m_points(points.begin(), points.end())
    , m_slopes(points.size())
{
    assert(points.size() >= 2);
    m_slopes.front() = riseOf(m_points[0], m_points[1]);
    m_slopes.back() = riseOf(m_points[m_points.size() - 2], m_points.back());
    for (std::size_t i = 1; i + 1 < m_points.size(); ++i) {
        const double before = riseOf(m_points[i - 1], m_points[i]), after = riseOf(m_points[i], m_points[i + 1]);
        if (before * after <= 0)
            continue; // a summit, a hollow or a ledge: level
        const double w = m_points[i][0] - m_points[i - 1][0], v = m_points[i + 1][0] - m_points[i][0];
        m_slopes[i] = 3 * (w + v) / ((2 * v + w) / before + (v + 2 * w) / after);
    }
}

double HeightCurve::at(double x) const
{
    if (isStraight())
        return x;
    if (x <= m_points.front()[0])
        return m_points.front()[1];
    if (x >= m_points.back()[0])
        return m_points.back()[1];
    std::size_t i = 0;
    while (x >= m_points[i + 1][0])
        ++i;
    const CurvePoint &from = m_points[i], &to = m_points[i + 1];
    const double width = to[0] - from[0], t = (x - from[0]) / width, rest = 1 - t;
    return rest * rest * (1 + 2 * t) * from[1] + t * t * (3 - 2 * t) * to[1]
        + t * rest * width * (rest * m_slopes[i] - t * m_slopes[i + 1]);
}

} // namespace fell::terrain
