// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/render/side_by_side.h>

#include <fell/measure/pictures.h>

#include <algorithm>

namespace fell::app {

void SideBySide::forget()
{
    m_view.reset();
    m_a.clear();
    m_difference.reset();
}

bool SideBySide::advance(const View& view, bool isThere, int width, int height, const Draw& draw)
{
    constexpr int kWidest = 640; // pixels: two more frames must not be felt
    constexpr qint64 kRestMs = 250;
    if (!isThere || !m_view || !(*m_view == view)) {
        forget();
        m_view = view;
        m_resting.start();
        return false;
    }
    if (m_difference || m_resting.elapsed() < kRestMs)
        return false;
    const int wide = std::clamp(width, 1, kWidest), high = std::max(1, wide * height / std::max(1, width));
    if (!m_target || m_target->width() != wide || m_target->height() != high)
        m_target.emplace(wide, high);
    m_target->bind();
    const bool b = !m_a.empty();
    draw(b, wide, high);
    auto pixels = m_target->read();
    if (b)
        m_difference = differenceOf(m_a, pixels);
    else
        m_a = std::move(pixels);
    return true;
}

} // namespace fell::app
