// SPDX-License-Identifier: GPL-3.0-or-later
// What each cull step saves, or each pass costs, measured in the field itself: the next frames are drawn with other
// steps, or without a pass, in turn.
#pragma once

#include <fell/measure/cull_trial.h>

#include <QObject>
#include <QString>

#include <array>
#include <optional>

namespace fell::app {

class StepTrial : public QObject {
    Q_OBJECT
public:
    explicit StepTrial(QObject* parent = nullptr)
        : QObject(parent)
    {
    }

    /// From now on frames are asked for, as seen from `eye`; the view must stay.
    enum class Of { Steps, Passes };
    void start(Of what, const CullChoices& choices, const Eye& eye);
    void stop();
    /// The passes that can be left out, as the renderer tells them.
    void setPasses(std::vector<PassInfo> passes) { m_passes = std::move(passes); }
    [[nodiscard]] bool isRunning() const { return m_trial.has_value(); }
    [[nodiscard]] bool isRunning(Of what) const { return isRunning() && m_what == what; }
    [[nodiscard]] double share() const { return m_trial ? m_trial->share() : 1; }
    /// What the next frame is drawn with. Asserts isRunning().
    [[nodiscard]] const CullVariant& next() const { return m_trial->next(); }
    /// Tells one trial from the next; 0 while none is running.
    [[nodiscard]] std::uint64_t number() const { return m_trial ? m_number : 0; }
    /// What that frame cost. Ends the trial with a sentence where the view has moved.
    void note(const FrameCost& frame, const Eye& eye);

    /// Of the last that ended.
    [[nodiscard]] const std::vector<CullTrialRow>& rows(Of what) const
    {
        return m_rows[static_cast<std::size_t>(what)];
    }
    [[nodiscard]] const QString& trouble() const { return m_trouble; }

signals:
    void changed(); // it has begun, ended or been stopped

private:
    std::optional<CullTrial> m_trial;
    std::uint64_t m_number = 0;
    std::vector<PassInfo> m_passes;
    Eye m_eye;
    Of m_what = Of::Steps;
    std::array<std::vector<CullTrialRow>, 2> m_rows;
    QString m_trouble;
};

} // namespace fell::app
