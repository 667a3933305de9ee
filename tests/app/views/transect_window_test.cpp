// SPDX-License-Identifier: GPL-3.0-or-later
// The page of transects and the ledger. The real window: real mouse and key events, then what the user would see.
#include "window_fixture.h"
#include <fell/app/models/text.h>

#include "support/all_names.h"
#include "support/sample_setups.h"

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace fell::transect_window_test {
namespace {

class TransectWindowTest : public WindowTest { };

TEST_F(TransectWindowTest, ATransectIsWalkedSavedAndOpenedAgain)
{
    QTest::mouseClick(child<QWidget>("showTransect"), Qt::LeftButton);
    child<QLineEdit>("values")->setText("1, 2");
    child<QSpinBox>("rounds")->setValue(1);
    child<QSpinBox>("frames")->setValue(2);
    QTest::mouseClick(child<QPushButton>("walk"), Qt::LeftButton);
    EXPECT_TRUE(m_window->runner().isRunning());
    EXPECT_TRUE(m_window->session().isPaused()) << "the field rests";
    EXPECT_TRUE(child<QPushButton>("stop")->isVisible());
    ASSERT_TRUE(QTest::qWaitFor([&] { return !m_window->runner().isRunning(); }, kPatienceMs));
    auto* table = child<QTableView>("transectTable");
    EXPECT_EQ(table->model()->rowCount(), 2);
    EXPECT_GT(m_window->runner().result().rows[0].frameMs.p50, 0);
    EXPECT_TRUE(child<QPushButton>("walk")->isVisible());

    const test::TempFolder folder;
    const QString csv = QString::fromStdString((folder / "r.csv").string()),
                  png = QString::fromStdString((folder / "r.png").string());
    EXPECT_TRUE(m_window->transect().saveCsv(csv));
    EXPECT_TRUE(m_window->transect().savePlot(png));
    const QImage plots(png);
    EXPECT_GT(plots.width(), 800);
    EXPECT_TRUE(child<QLabel>("words")->text().contains("reaches"));
    EXPECT_TRUE(child<QPushButton>("saveReport")->isEnabled());
    EXPECT_TRUE(m_window->transect().saveReport(QString::fromStdString((folder / "r.html").string())));
    EXPECT_NE(test::textOf(folder / "r.html").find("<svg"), std::string::npos);
    EXPECT_TRUE(m_window->transect().saveReport(QString::fromStdString((folder / "r.md").string())));
    EXPECT_EQ(test::textOf(folder / "r.md").rfind("# Transect: stream.distance in Corrowdale", 0), 0u);
    const auto contains = [&](const QColor& colour) {
        for (int y = 0; y < plots.height(); ++y)
            for (int x = 0; x < plots.width(); ++x)
                if (plots.pixelColor(x, y) == colour)
                    return true;
        return false;
    };
    EXPECT_TRUE(contains(limewash().setupA)) << "a curve in tarn blue";
    QTest::mouseClick(child<QToolButton>("everySample"), Qt::LeftButton);
    EXPECT_NE(m_window->transect().plots().picture().toImage(), plots) << "points in place of the percentiles";
    QTest::mouseClick(child<QToolButton>("everySample"), Qt::LeftButton);
    const auto before = toCsv(m_window->runner().result());
    m_window->runner().show({});
    EXPECT_EQ(table->model()->rowCount(), 0);
    EXPECT_TRUE(m_window->transect().open(csv));
    EXPECT_EQ(table->model()->rowCount(), 2);
    EXPECT_EQ(toCsv(m_window->runner().result()), before);
}

TEST_F(TransectWindowTest, EveryWalkIsKeptInTheLedgerAndTwoAreCompared)
{
    QTest::mouseClick(child<QWidget>("showTransect"), Qt::LeftButton);
    const test::TempFolder folder;
    m_window->ledger().openElsewhere(folder.path() / "ledger.db");
    child<QSpinBox>("rounds")->setValue(2);
    child<QSpinBox>("frames")->setValue(2);
    const auto walk = [this](const QString& values) {
        child<QLineEdit>("values")->setText(values);
        QTest::mouseClick(child<QPushButton>("walk"), Qt::LeftButton);
        return becomes([this] { return !m_window->runner().isRunning(); });
    };
    auto* table = child<QTableView>("ledgerTable");
    const auto holds = [&](int trials) { return becomes([&] { return table->model()->rowCount() == trials; }); };
    ASSERT_TRUE(walk("1, 2"));
    ASSERT_TRUE(holds(1));
    EXPECT_EQ(m_window->runner().result().audits.size(), 2u) << "the mesher and the light";
    QTest::mouseClick(child<QWidget>("showLedger"), Qt::LeftButton);
    EXPECT_TRUE(table->isVisible());
    const auto clickRow = [&](int row, Qt::KeyboardModifiers keys = {}) {
        const QRect at = table->visualRect(table->model()->index(row, 2));
        QTest::mouseClick(table->viewport(), Qt::LeftButton, keys, at.center());
    };
    clickRow(0);
    EXPECT_TRUE(child<QPushButton>("ledgerPin")->isEnabled());
    EXPECT_FALSE(child<QPushButton>("ledgerCompare")->isEnabled());
    QTest::mouseClick(child<QPushButton>("ledgerPin"), Qt::LeftButton);
    ASSERT_TRUE(becomes([&] { return table->model()->index(0, 1).data().toString() == "pinned"; }));
    // The next walk is held against the pinned one.
    ASSERT_TRUE(walk("1, 2"));
    ASSERT_TRUE(becomes([this] { return m_window->banner().text().contains("against the pinned baseline"); }));
    ASSERT_TRUE(holds(2));
    QTest::mouseClick(child<QWidget>("showLedger"), Qt::LeftButton);
    clickRow(0);
    clickRow(1, Qt::ControlModifier);
    ASSERT_TRUE(child<QPushButton>("ledgerCompare")->isEnabled());
    QTest::mouseClick(child<QPushButton>("ledgerCompare"), Qt::LeftButton);
    ASSERT_TRUE(becomes([this] { return m_window->runner().result().b.has_value(); }));
    EXPECT_EQ(m_window->runner().result().rows.size(), 4u);
    EXPECT_FALSE(m_window->runner().result().inTurn);
    EXPECT_FALSE(table->isVisible()) << "the rows are shown instead";
    // Found by words; carried out and in again; deleted after a question.
    QTest::mouseClick(child<QWidget>("showLedger"), Qt::LeftButton);
    QTest::keyClicks(child<QLineEdit>("ledgerSearch"), "no such word");
    ASSERT_TRUE(holds(0));
    child<QLineEdit>("ledgerSearch")->clear();
    ASSERT_TRUE(holds(2));
    const QString file = QString::fromStdString((folder / "trials.json").string());
    m_window->ledger().exportTo(file, {1, 2});
    ASSERT_TRUE(becomes([&] { return m_window->banner().text().contains("trials.json"); }));
    clickRow(0);
    QTimer::singleShot(0, [] { // the question is asked within the click
        ASSERT_TRUE(becomes([] { return qobject_cast<QMessageBox*>(QApplication::activeModalWidget()) != nullptr; }));
        auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
        EXPECT_TRUE(box->text().contains("Delete trial 2 for good?"));
        QTest::mouseClick(
            box->buttons().at(box->buttonRole(box->buttons()[0]) == QMessageBox::AcceptRole ? 0 : 1), Qt::LeftButton);
    });
    QTest::mouseClick(child<QPushButton>("ledgerRemove"), Qt::LeftButton);
    ASSERT_TRUE(holds(1));
    m_window->ledger().importFrom(file);
    ASSERT_TRUE(holds(2));
    m_window->ledger().importFrom("/no/such/file.json");
    ASSERT_TRUE(becomes([this] { return m_window->banner().text().contains("/no/such/file.json"); }));
}

TEST_F(TransectWindowTest, TwoThingsVariedAreAHeatMapAndTheReachIsFound)
{
    QTest::mouseClick(child<QWidget>("showTransect"), Qt::LeftButton);
    const test::TempFolder folder;
    m_window->ledger().openElsewhere(folder.path() / "ledger.db");
    TransectSentence sentence;
    sentence.values = "1, 2";
    sentence.second = "chunk.edge";
    sentence.secondValues = "16, 32";
    sentence.rounds = 1;
    sentence.frames = 2;
    m_window->transect().setSentence(sentence);
    QTest::mouseClick(child<QPushButton>("walk"), Qt::LeftButton);
    ASSERT_TRUE(becomes([this] { return !m_window->runner().isRunning(); }));
    ASSERT_EQ(m_window->runner().result().rows.size(), 4u);
    const QString png = QString::fromStdString((folder / "map.png").string()),
                  svg = QString::fromStdString((folder / "map.svg").string()),
                  raw = QString::fromStdString((folder / "raw.json").string());
    EXPECT_TRUE(m_window->transect().savePlot(png));
    EXPECT_TRUE(m_window->transect().savePlot(svg));
    EXPECT_NE(test::textOf(folder / "map.svg").find("rgb(24,60,82)"), std::string::npos) << "the dearest is darkest";
    const QImage map(png);
    int dark = 0;
    for (int y = 0; y < map.height(); ++y)
        for (int x = 0; x < map.width(); ++x)
            dark += map.pixelColor(x, y) == QColor(24, 60, 82);
    EXPECT_GT(dark, 1000) << "a whole field of it";
    EXPECT_TRUE(m_window->transect().saveCsv(raw));
    EXPECT_TRUE(m_window->transect().open(raw));
    EXPECT_EQ(m_window->runner().result().rows[3].second, 32);

    // The budget of the Draw bench is that of the rows; the slider's judges at once, and a reach is found by measuring.
    m_window->session().edited().set("draw.budget", 33.3);
    EXPECT_EQ(m_window->runner().result().a.draw.budget, 33.3);
    child<QSlider>("budget")->setValue(child<QSlider>("budget")->maximum());
    EXPECT_NEAR(m_window->runner().result().a.draw.budget, 501, 5);
    EXPECT_TRUE(m_window->runner().result().reach[0].beyond) << "half a second is enough for any of them";
    child<QSlider>("budget")->setValue(child<QSlider>("budget")->minimum());
    EXPECT_NEAR(m_window->runner().result().a.draw.budget, 2, 0.1);
    QTest::mouseClick(child<QPushButton>("findReach"), Qt::LeftButton);
    EXPECT_TRUE(m_window->runner().isRunning());
    ASSERT_TRUE(becomes([this] { return !m_window->runner().isRunning(); }));
    EXPECT_TRUE(child<QLabel>("words")->text().contains("within 2.00 ms at p95"))
        << child<QLabel>("words")->text().toStdString();
}

TEST_F(TransectWindowTest, ATransectWhileBlocksChangeSaysWhatOneCosts)
{
    QTest::mouseClick(child<QWidget>("showTransect"), Qt::LeftButton);
    const test::TempFolder folder;
    m_window->ledger().openElsewhere(folder.path() / "ledger.db");
    TransectSentence sentence;
    sentence.values = "1";
    sentence.rounds = 1;
    sentence.frames = 3;
    m_window->transect().setSentence(sentence);
    auto* table = child<QTableView>("transectTable");
    EXPECT_EQ(table->model()->columnCount(), 14);
    EXPECT_FALSE(child<QSpinBox>("churnEach")->isVisible());
    auto* load = child<QComboBox>("churn");
    load->setFocus();
    QTest::keyClick(load, Qt::Key_Down);
    EXPECT_EQ(load->currentText(), "blocks come and go");
    auto* each = child<QSpinBox>("churnEach");
    ASSERT_TRUE(each->isVisible());
    each->setFocus();
    each->selectAll();
    QTest::keyClicks(each, "7");
    QTest::mouseClick(child<QPushButton>("walk"), Qt::LeftButton);
    ASSERT_TRUE(becomes([this] { return !m_window->runner().isRunning(); }));
    ASSERT_EQ(m_window->runner().result().rows.size(), 1u);
    EXPECT_EQ(m_window->runner().result().rows[0].churn.changes, 21u);
    EXPECT_EQ(table->model()->columnCount(), 17);
    EXPECT_NE(table->model()->index(0, 13).data().toString(), "–");
    EXPECT_TRUE(child<QLabel>("words")->text().contains("pays for one block"))
        << child<QLabel>("words")->text().toStdString();
}

TEST_F(TransectWindowTest, AWalkCanBeStoppedAndTheWindowStaysAlive)
{
    m_window->showTransect();
    TransectSentence sentence;
    sentence.values = "1, 2, 3";
    sentence.rounds = 50;
    m_window->transect().setSentence(sentence);
    m_window->transect().walk();
    // Alive: events come through all the while.
    int ticks = 0;
    QTimer timer;
    QObject::connect(&timer, &QTimer::timeout, [&] { ++ticks; });
    timer.start(20);
    ASSERT_TRUE(QTest::qWaitFor([&] { return m_window->runner().result().rows.size() >= 2; }, kPatienceMs));
    EXPECT_GT(ticks, 5);
    QTest::mouseClick(child<QPushButton>("stop"), Qt::LeftButton);
    ASSERT_TRUE(QTest::qWaitFor([&] { return !m_window->runner().isRunning(); }, kPatienceMs));
    EXPECT_TRUE(m_window->runner().result().stopped);
    m_window->showField();
    waitUntilThere();
}

} // namespace
} // namespace fell::transect_window_test
