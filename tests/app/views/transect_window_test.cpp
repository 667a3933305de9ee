// SPDX-License-Identifier: GPL-3.0-or-later
// The page of transects and the ledger. The real window: real mouse and key events, then what the user would see.
#include "window_fixture.h"
#include <fell/app/models/text.h>
#include <fell/app/views/finding_cards.h>

#include <QClipboard>
#include <qcustomplot.h>

#include "support/all_names.h"
#include "support/sample_setups.h"

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace fell::transect_window_test {
namespace {

class TransectWindowTest : public WindowTest {
protected:
    QString findings() { return child<FindingCards>("findings")->text(); }

    /// A result as if it had been measured: plain needs 100 times the frame time of near.
    static TransectResult madeUp()
    {
        TransectResult result;
        result.world = "Corrowdale";
        result.vary = "stream.distance";
        result.unit = "chunks";
        result.driver = "made up";
        result.rounds = 6;
        result.a = findSetup("near", demoFolder() / "setups").take();
        result.b = findSetup("plain", demoFolder() / "setups").take();
        result.path = findRoute("beck-to-summit", demoFolder() / "routes").take();
        for (const int distance : {2, 3, 4})
            for (const char side : {'A', 'B'}) {
                TransectRow row;
                row.side = side;
                row.setup = side == 'A' ? "near" : "plain";
                row.value = distance;
                row.meshNs.count = row.frameMs.count = 12;
                const double scale = side == 'A' ? distance : 100 * distance;
                row.frameMs.p5 = 0.9 * scale;
                row.frameMs.p50 = scale;
                row.frameMs.p95 = 1.5 * scale;
                row.frameMs.p99 = 1.6 * scale;
                row.meshNs.p5 = row.meshNs.p50 = row.meshNs.p95 = row.meshNs.p99 = 50000;
                result.rows.push_back(row);
            }
        concludeFromRows(result);
        return result;
    }
};

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
    EXPECT_TRUE(findings().contains("reaches")) << findings().toStdString();
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

TEST_F(TransectWindowTest, PlotsTakeHalfOfThePageShowValuesAndScaleByLogarithm)
{
    QTest::mouseClick(child<QWidget>("showTransect"), Qt::LeftButton);
    m_window->resize(1280, 800);
    m_window->runner().show(madeUp());
    TransectPlots& plots = m_window->transect().plots();
    EXPECT_TRUE(becomes([&] { return plots.height() >= 400; })) << plots.height() << " of 800 pixels";
    const auto all = plots.findChildren<QCustomPlot*>();
    ASSERT_EQ(all.size(), 2);
    QCustomPlot* frames = all[1];
    frames->replot(); // the layout's last size
    // The value under the pointer: 3 chunks.
    const QPoint at(qRound(frames->xAxis->coordToPixel(3.1)), frames->height() / 2);
    QTest::mouseMove(frames, at - QPoint(3, 0));
    QTest::mouseMove(frames, at);
    QLabel* values = plots.findChildren<QLabel*>("plotValues")[1];
    const QString expected = QStringLiteral("3 chunks · A %1, p95 %2 · B %3, p95 %4 ms")
                                 .arg(figureText(3.0), figureText(4.5), figureText(300.0), figureText(450.0));
    EXPECT_TRUE(becomes([&] { return values->text() == expected; })) << values->text().toStdString();
    EXPECT_LE(values->fontMetrics().horizontalAdvance(values->text()), values->width()) << "it is not cut";
    // By logarithm A, a hundredth of B, is no line on the axis.
    const auto heightOfA = [&] { return frames->yAxis->coordToPixel(0) - frames->yAxis->coordToPixel(3); };
    EXPECT_LT(heightOfA(), 8) << "flat on the axis";
    QTest::mouseClick(plots.findChildren<QToolButton*>("logScale")[1], Qt::LeftButton);
    EXPECT_EQ(frames->yAxis->scaleType(), QCPAxis::stLogarithmic);
    EXPECT_GT(frames->yAxis->coordToPixel(2) - frames->yAxis->coordToPixel(300), 100);
    // Without B the axis fits A.
    QTest::mouseClick(plots.findChildren<QToolButton*>("logScale")[1], Qt::LeftButton);
    QTest::mouseClick(plots.findChildren<QToolButton*>("showB")[1], Qt::LeftButton);
    EXPECT_LT(frames->yAxis->range().upper, 30);
    QTest::mouseClick(plots.findChildren<QToolButton*>("showA")[1], Qt::LeftButton);
    EXPECT_GT(frames->yAxis->range().upper, 300) << "one of the two is always shown";
}

TEST_F(TransectWindowTest, FindingsAreCardsAndRowsOpenTheField)
{
    QTest::mouseClick(child<QWidget>("showTransect"), Qt::LeftButton);
    m_window->runner().show(madeUp());
    EXPECT_TRUE(child<FindingCards>("findings")->isVisible());
    EXPECT_TRUE(findings().contains("A near reaches beyond 4.00 chunks within 16.6 ms at p95"))
        << findings().toStdString();
    QTest::mouseClick(child<QPushButton>("copyResult"), Qt::LeftButton);
    const QString copied = QGuiApplication::clipboard()->text();
    EXPECT_TRUE(copied.contains("A near reaches beyond"));
    EXPECT_TRUE(copied.contains("\nB plain\t3\t")) << copied.toStdString();
    QTest::mouseClick(child<QToolButton>("showRows"), Qt::LeftButton);
    auto* table = child<QTableView>("transectTable");
    ASSERT_TRUE(table->isVisible());
    for (int column = 0; column < table->model()->columnCount(); ++column) {
        const QString title = table->model()->headerData(column, Qt::Horizontal).toString();
        EXPECT_GE(table->columnWidth(column), table->fontMetrics().horizontalAdvance(title)) << title.toStdString();
    }
    table->setCurrentIndex(table->model()->index(2, 0)); // A at 3 chunks
    table->setFocus();
    QTest::keyClick(table, Qt::Key_Return);
    EXPECT_TRUE(becomes([&] { return m_window->preferences().page == "view.field"; }));
    EXPECT_EQ(m_window->session().setup().stream.distance, 3);
    EXPECT_EQ(m_window->session().setup().mesh.mesher, "greedy-bits");
    m_window->session().edited().undo();
    EXPECT_EQ(m_window->session().setup().stream.distance, 2) << "one step takes it back";
    waitUntilThere();
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
    EXPECT_TRUE(findings().contains("within 2.00 ms at p95")) << findings().toStdString();
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
    EXPECT_TRUE(findings().contains("pays for one block")) << findings().toStdString();
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
