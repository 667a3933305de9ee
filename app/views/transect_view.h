// SPDX-License-Identifier: GPL-3.0-or-later
// Measuring along one varied number, said as a sentence: what to vary, over what, along which route, with which setups.
#pragma once

#include "models/transect_runner.h"
#include "models/transect_table.h"
#include "models/world_session.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QLineEdit;
class QProgressBar;
class QPushButton;
class QSpinBox;
class QTableView;

namespace fell {

class TransectPlots;

class TransectView : public QWidget {
    Q_OBJECT
public:
    TransectView(WorldSession& session, TransectRunner& runner, QWidget* parent = nullptr);

    [[nodiscard]] TransectSentence sentence() const;
    void setSentence(const TransectSentence& sentence);
    void walk();
    /// Writes the result; the error, if any, is said through `trouble`.
    bool saveCsv(const QString& file);
    bool savePlot(const QString& file);
    /// As one web page, or as Markdown where the file's name ends so.
    bool saveReport(const QString& file);
    bool open(const QString& file);
    [[nodiscard]] TransectPlots& plots() { return *m_plots; }
    void refreshTheme();

public slots:
    void askSaveCsv();
    void askSavePlot();
    void askSaveReport();
    void askOpen();

signals:
    void trouble(const QString& sentence);
    void note(const QString& sentence);
    void aboutToWalk(); // the field should rest now
    void walked();

private:
    class QWidget* buildSentence();
    QWidget* buildResults();
    void showResult();
    void showProgress(double share, const QString& doing, double secondsLeft);
    void setRunning(bool running);
    void suggestValues();

    WorldSession& m_session;
    TransectRunner& m_runner;
    QComboBox *m_vary = nullptr, *m_route = nullptr, *m_setupA = nullptr, *m_setupB = nullptr;
    QLineEdit* m_values = nullptr;
    QSpinBox *m_rounds = nullptr, *m_frames = nullptr;
    QPushButton *m_walk = nullptr, *m_stop = nullptr, *m_saveCsv = nullptr, *m_savePlot = nullptr,
                *m_saveReport = nullptr;
    QProgressBar* m_progress = nullptr;
    QLabel *m_doing = nullptr, *m_words = nullptr, *m_origin = nullptr;
    TransectPlots* m_plots = nullptr;
    TransectTable* m_model = nullptr;
    QTableView* m_table = nullptr;
};

} // namespace fell
