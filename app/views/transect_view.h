// SPDX-License-Identifier: GPL-3.0-or-later
// Measuring along one varied number, said as a sentence: what to vary, over what, along which route, with which setups.
#pragma once

#include <fell/app/models/ledger_keeper.h>
#include <fell/app/models/transect_runner.h>
#include <fell/app/models/transect_table.h>
#include <fell/app/models/world_session.h>

#include <QWidget>

class QComboBox;
class QLabel;
class QLayout;
class QLineEdit;
class QProgressBar;
class QPushButton;
class QSlider;
class QSpinBox;
class QStackedWidget;
class QTableView;
class QToolButton;

namespace fell::app {

class FindingCards;
class TransectPlots;

class TransectView : public QWidget {
    Q_OBJECT
public:
    TransectView(WorldSession& session, TransectRunner& runner, LedgerKeeper& keeper, QWidget* parent = nullptr);

    [[nodiscard]] TransectSentence sentence() const;
    void setSentence(const TransectSentence& sentence);
    void walk();
    /// Finds how far each setup of the sentence reaches within the budget.
    void findTheReach();
    void showLedger(bool shown);
    /// Lists the demo's routes and the user's own again; chooses one of them if it is there.
    void listRoutes(const QString& chosen = {});
    void showEvent(QShowEvent* event) override;
    /// Writes the result as CSV, or with its raw samples as JSON where the name ends so; the error, if any, is said
    /// through `trouble`.
    bool saveCsv(const QString& file);
    /// As PNG as they are shown, or as SVG where the name ends so.
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
    /// A row is to be seen in the field, from the begin of the route if that is known.
    void fieldWanted(const fell::setup::Setup& setup, const std::optional<fell::measure::Route>& route);
    void walked();

private:
    QWidget* buildSentence();
    void buildVaried(QWidget* card);
    void buildHow(QWidget* card);
    QWidget* buildResults();
    QLayout* buildResultTools(QWidget* card);
    void buildTable(QWidget* card);
    void showLower(int page);
    void openRow(int row);
    void copyText();
    void showResult();
    void showProgress(double share, const QString& doing, double secondsLeft);
    void setRunning(bool running);
    void suggestValues();
    void suggestAcross();
    void showChurn();
    void setBudget(double ms);
    bool write(const QString& file, std::string_view bytes);
    QWidget* buildBudget(QWidget* parent);

    WorldSession& m_session;
    TransectRunner& m_runner;
    QComboBox *m_vary = nullptr, *m_second = nullptr, *m_route = nullptr, *m_setupA = nullptr, *m_setupB = nullptr;
    QLineEdit *m_values = nullptr, *m_secondValues = nullptr;
    QLabel* m_acrossOver = nullptr;
    QSlider* m_budget = nullptr;
    double m_budgetMs = 16.6, m_setupBudget = 16.6; // a frame; the setup's own as it was last
    QLabel* m_budgetText = nullptr;
    QSpinBox *m_rounds = nullptr, *m_frames = nullptr;
    QComboBox* m_churn = nullptr;
    QSpinBox* m_churnEach = nullptr;
    QPushButton *m_walk = nullptr, *m_stop = nullptr, *m_saveCsv = nullptr, *m_savePlot = nullptr,
                *m_saveReport = nullptr, *m_copy = nullptr, *m_reach = nullptr;
    QToolButton *m_findingsButton = nullptr, *m_rowsButton = nullptr, *m_ledgerButton = nullptr;
    QStackedWidget* m_lower = nullptr;
    LedgerKeeper& m_keeper;
    QStringList m_reachWords; // of the last search
    QProgressBar* m_progress = nullptr;
    QLabel* m_doing = nullptr;
    FindingCards* m_findings = nullptr;
    TransectPlots* m_plots = nullptr;
    TransectTable* m_model = nullptr;
    QTableView* m_table = nullptr;
};

} // namespace fell::app
