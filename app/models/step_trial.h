// SPDX-License-Identifier: GPL-3.0-or-later
// What each cull step saves, measured in the field itself: the next frames are drawn with other steps, in turn.
#pragma once

#include "measure/cull_trial.h"

#include <QObject>
#include <QString>

#include <optional>

namespace fell {

class StepTrial : public QObject {
    Q_OBJECT
public:
    explicit StepTrial(QObject* parent = nullptr)
        : QObject(parent)
    {
    }

    /// From now on frames are asked for, as seen from `eye`; the view must stay.
    void start(const CullChoices& choices, const Eye& eye);
    void stop();
    [[nodiscard]] bool isRunning() const { return m_trial.has_value(); }
    [[nodiscard]] double share() const { return m_trial ? m_trial->share() : 1; }
    /// The steps of the next frame. Asserts isRunning().
    [[nodiscard]] const CullChoices& next() const { return m_trial->next(); }
    /// What that frame cost. Ends the trial with a sentence where the view has moved.
    void note(const FrameCost& frame, const Eye& eye);

    [[nodiscard]] const std::vector<CullTrialRow>& rows() const { return m_rows; } // of the last that ended
    [[nodiscard]] const QString& trouble() const { return m_trouble; }

signals:
    void changed(); // it has begun, ended or been stopped

private:
    std::optional<CullTrial> m_trial;
    Eye m_eye;
    std::vector<CullTrialRow> m_rows;
    QString m_trouble;
};

} // namespace fell
