// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/step_trial.h>

namespace fell::app {

void StepTrial::start(Of what, const CullChoices& choices, const Eye& eye)
{
    constexpr int kRounds = 5;
    m_what = what;
    ++m_number;
    m_trial.emplace(what == Of::Steps ? cullVariants(choices) : passVariants(choices, m_passes), kRounds);
    m_eye = eye;
    m_trouble.clear();
    emit changed();
}

void StepTrial::stop()
{
    if (!m_trial)
        return;
    m_trial.reset();
    emit changed();
}

void StepTrial::note(const FrameCost& frame, const Eye& eye)
{
    if (!m_trial)
        return;
    if (eye != m_eye) {
        m_trouble = tr("The view has moved: the frames would not compare.");
        return stop();
    }
    m_trial->note(frame);
    if (!m_trial->isDone())
        return;
    m_rows[static_cast<std::size_t>(m_what)] = m_trial->rows();
    stop();
}

} // namespace fell::app

#include "moc_step_trial.cpp"
