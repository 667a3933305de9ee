// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/distance_finder.h>

#include <algorithm>

namespace fell::app {

bool DistanceFinder::addFrame(double ms)
{
    if (m_found)
        return false;
    if (!m_isWarm) { // the first frame of a distance also uploads and compiles
        m_isWarm = true;
        return false;
    }
    m_frames.push_back(ms);
    if (m_frames.size() < static_cast<std::size_t>(kFrames))
        return false;
    std::nth_element(m_frames.begin(), m_frames.begin() + kFrames / 2, m_frames.end());
    const double median = m_frames[kFrames / 2];
    m_frames.clear();
    m_isWarm = false;
    if (median > m_budgetMs) {
        m_found = m_within ? *m_within : Found{m_metres, median, true};
    } else {
        m_within = Found{m_metres, median, false};
        if (m_metres >= kFarthest)
            m_found = m_within;
    }
    m_metres = m_found ? m_found->metres : m_metres * 2;
    return true;
}

void DistanceFinder::end()
{
    if (m_found)
        return;
    m_found = m_within.value_or(Found{kFirst, 0, false});
    m_metres = m_found->metres;
}

} // namespace fell::app
