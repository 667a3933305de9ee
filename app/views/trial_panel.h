// SPDX-License-Identifier: GPL-3.0-or-later
// On against off, in the view as it is: what each cull step saves, or what each pass of a frame costs.
#pragma once

#include <fell/app/models/world_session.h>

#include <QWidget>

class QLabel;
class QPushButton;

namespace fell::app {

class TrialPanel : public QWidget {
    Q_OBJECT
public:
    TrialPanel(WorldSession& session, StepTrial::Of what, QWidget* parent = nullptr);
    void refresh(); // how far it is
    void sync(); // after it began, ended or found something

private:
    WorldSession& m_session;
    StepTrial::Of m_what;
    QPushButton* m_measure = nullptr;
    QLabel *m_progress = nullptr, *m_table = nullptr;
};

} // namespace fell::app
