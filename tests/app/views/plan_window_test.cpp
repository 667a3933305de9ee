// SPDX-License-Identifier: GPL-3.0-or-later
// The plan, routes and recordings. The real window: real mouse and key events, then what the user would see.
#include "window_fixture.h"
#include <fell/app/models/text.h>

#include "support/all_names.h"
#include "support/sample_setups.h"

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace fell::plan_window_test {
namespace {

class PlanWindowTest : public WindowTest { };

TEST_F(PlanWindowTest, ARouteIsRecordedByFlyingKeptWalkedAndFlownAgain)
{
    WorldSession& session = m_window->session();
    QTest::keyClick(field(), Qt::Key_R, Qt::ControlModifier);
    ASSERT_TRUE(becomes([&] { return session.recorder.has_value(); }));
    const Eye from = session.eye;
    QTest::keyPress(field(), Qt::Key_W);
    ASSERT_TRUE(becomes([&] { return session.recorder->points() >= 4; }));
    QTest::keyRelease(field(), Qt::Key_W);
    EXPECT_FALSE(m_window->routes().keepRecorded("../outside")) << "a name is no path";
    EXPECT_TRUE(m_window->banner().text().contains("no name for a route"));
    ASSERT_TRUE(m_window->routes().keepRecorded("a test flight"));
    EXPECT_EQ(m_window->transect().sentence().route, "a test flight");
    const auto kept = routeNamed("a test flight");
    ASSERT_TRUE(kept) << sentence(kept.problem());
    EXPECT_GE(kept.value().points.size(), 4u);
    session.recorder.reset();
    // Flown again it begins where the recording did, and a key ends it.
    session.flyAlong(kept.value());
    ASSERT_TRUE(becomes([&] { return chunkOf(session.eye.cell, 16) == chunkOf(from.cell, 16); }));
    EXPECT_TRUE(session.isFlyingAlong());
    QTest::keyClick(field(), Qt::Key_S, {}, 50);
    EXPECT_TRUE(becomes([&] { return !session.isFlyingAlong(); }));
}

TEST_F(PlanWindowTest, ARecordingIsLostOnlyByDiscard)
{
    WorldSession& session = m_window->session();
    QTest::keyClick(field(), Qt::Key_R, Qt::ControlModifier);
    ASSERT_TRUE(becomes([&] { return session.recorder.has_value(); }));
    QTest::keyPress(field(), Qt::Key_W);
    ASSERT_TRUE(becomes([&] { return session.recorder->points() >= 4; }));
    QTest::keyRelease(field(), Qt::Key_W);
    // A name with a slash, then Cancel, then "Name it", then a good name: as a person in a hurry.
    int step = 0;
    QTimer answers;
    QObject::connect(&answers, &QTimer::timeout, [&] {
        QWidget* dialog = QApplication::activeModalWidget();
        if (!dialog || !dialog->isVisible())
            return;
        auto* edit = dialog->findChild<QLineEdit*>();
        if (step == 0 && edit) {
            ++step;
            edit->setText(QStringLiteral("over/the beck"));
            QTest::keyClick(edit, Qt::Key_Return);
        } else if (step == 1 && edit) {
            EXPECT_EQ(edit->text(), "over/the beck") << "the typed text is there again";
            ++step;
            QTest::keyClick(edit, Qt::Key_Escape);
        } else if (step == 2 && dialog->objectName() == QLatin1String("discardRecordingQuestion")) {
            ++step;
            EXPECT_TRUE(press(dialog, "decline"));
        } else if (step == 3 && edit) {
            ++step;
            edit->setText(QStringLiteral("over the beck"));
            QTest::keyClick(edit, Qt::Key_Return);
        }
    });
    answers.start(50);
    QTest::keyClick(field(), Qt::Key_R, Qt::ControlModifier);
    ASSERT_TRUE(becomes([&] { return !session.recorder.has_value(); }));
    EXPECT_EQ(step, 4);
    const auto kept = routeNamed("over the beck");
    ASSERT_TRUE(kept) << sentence(kept.problem());
    EXPECT_GE(kept.value().points.size(), 4u);
}

TEST_F(PlanWindowTest, ARouteIsChangedOnThePlan)
{
    WorldSession& session = m_window->session();
    QTest::mouseClick(child<QWidget>("showPlan"), Qt::LeftButton);
    auto* routes = child<QComboBox>("planRoute");
    routes->setCurrentText("beck-to-summit");
    emit routes->activated(routes->currentIndex());
    ASSERT_TRUE(session.routeEditor.route().has_value());
    const Route before = *session.routeEditor.route();
    PlanCanvas& above = m_window->plan().above();
    ASSERT_TRUE(becomes([&] { return above.routePoints() == before.points.size(); }));
    // The point nearest to the viewer is on the plan.
    int point = 0;
    const QPointF middle(above.width() / 2.0, above.height() / 2.0);
    for (int i = 0; i < static_cast<int>(before.points.size()); ++i)
        if (QLineF(above.routePoint(i), middle).length() < QLineF(above.routePoint(point), middle).length())
            point = i;
    const auto index = static_cast<std::size_t>(point);
    const QPoint from = above.routePoint(point).toPoint();
    ASSERT_TRUE(above.rect().contains(from)) << from.x() << " " << from.y();
    const Eye eye = session.eye;
    QTest::mousePress(&above, Qt::LeftButton, {}, from);
    QTest::mouseMove(&above, from + QPoint(20, 0));
    QTest::mouseMove(&above, from + QPoint(40, 30));
    QTest::mouseRelease(&above, Qt::LeftButton, {}, from + QPoint(40, 30));
    const RoutePoint moved = session.routeEditor.route()->points[index];
    EXPECT_GT(moved.at[0], before.points[index].at[0] + 1) << "to the east";
    EXPECT_GT(moved.at[2], before.points[index].at[2] + 1) << "and to the south";
    EXPECT_EQ(moved.at[1], before.points[index].at[1]);
    EXPECT_EQ(session.eye, eye) << "the viewer was not dragged";
    EXPECT_NEAR(QLineF(above.routePoint(point), from + QPoint(40, 30)).length(), 0, 6) << "under the pointer";
    // A new point on the way, and away with it; all can be taken back.
    QTest::mouseClick(&above, Qt::RightButton, {}, above.routePoint(point).toPoint());
    EXPECT_EQ(session.routeEditor.route()->points.size(), before.points.size() - 1);
    const fell::Setup setup = session.setup();
    QTest::mouseClick(child<QPushButton>("undoRoute"), Qt::LeftButton);
    EXPECT_EQ(session.routeEditor.route()->points.size(), before.points.size());
    trigger("redo");
    EXPECT_EQ(session.routeEditor.route()->points.size(), before.points.size() - 1);
    trigger("undo"); // Ctrl+Z is the route's while the plan is shown
    EXPECT_EQ(session.setup(), setup);
    EXPECT_EQ(session.routeEditor.route()->points.size(), before.points.size());
    session.routeEditor.add(index, 0.5);
    EXPECT_EQ(session.routeEditor.route()->points.size(), before.points.size() + 1);
    EXPECT_TRUE(m_window->routes().keepEdited("changed on the plan"));
    EXPECT_EQ(routeNamed("changed on the plan").value().points.size(), before.points.size() + 1);
    EXPECT_EQ(m_window->transect().sentence().route, "changed on the plan");
    QTest::mouseClick(child<QPushButton>("undoRoute"), Qt::LeftButton);
    QTest::mouseClick(child<QPushButton>("undoRoute"), Qt::LeftButton);
    EXPECT_EQ(session.routeEditor.route()->points[index].at, before.points[index].at);
    EXPECT_FALSE(child<QPushButton>("undoRoute")->isEnabled());
}

TEST_F(PlanWindowTest, ThePlanShowsEveryChunkAndAClickTellsItsLife)
{
    trigger("plan");
    PlanPanel& plan = m_window->plan();
    ASSERT_TRUE(plan.isVisible());
    EXPECT_FALSE(m_window->bench().isVisible());
    ASSERT_TRUE(becomes([&] { return plan.above().chunkAt(plan.above().rect().center()).has_value(); }));
    const ChunkPos viewer = chunkOf(m_window->session().eye.cell, 32);
    // By hand: a chunk of the south view is where its offset says, one square a chunk.
    PlanCanvas& side = plan.side();
    const QPointF here = side.pointOf(viewer), below = side.pointOf(viewer + ChunkPos{0, -1, 0});
    EXPECT_EQ(here.x(), below.x());
    EXPECT_GT(below.y(), here.y());
    QTest::mouseClick(&side, Qt::LeftButton, {}, below.toPoint());
    QEvent leave(QEvent::Leave); // the pointer may rest on the field: its chunk would be shown
    QCoreApplication::sendEvent(field(), &leave);
    const QString title = QStringLiteral("Chunk %1, %2, %3").arg(viewer.x).arg(viewer.y - 1).arg(viewer.z);
    EXPECT_TRUE(QTest::qWaitFor([&] { return child<QLabel>("storyTitle")->text() == title; }, kPatienceMs))
        << child<QLabel>("storyTitle")->text().toStdString();
    ASSERT_FALSE(plan.story().life.empty());
    EXPECT_EQ(plan.story().life.back().what, QStringLiteral("generating")) << "a life begins with it";
    EXPECT_TRUE(child<QLabel>("storyLife")->text().contains(QStringLiteral("generated")));
    EXPECT_TRUE(child<QLabel>("arenaText")->text().contains(QStringLiteral("in use")));
    // A chunk beyond the distance says so.
    QTest::mouseClick(&side, Qt::LeftButton, {}, side.pointOf(viewer + ChunkPos{-4, 0, 0}).toPoint());
    const auto why = [&] { return child<QLabel>("storyWhy")->text(); };
    EXPECT_TRUE(
        QTest::qWaitFor([&] { return why().contains(QStringLiteral("beyond the render distance")); }, kPatienceMs))
        << why().toStdString();
    trigger("plan");
    EXPECT_FALSE(plan.isVisible());
    EXPECT_TRUE(m_window->bench().isVisible());
}

TEST_F(PlanWindowTest, DraggingOnThePlanMovesTheViewerAndTheWorldFollows)
{
    child<QToolButton>("showPlan")->click();
    PlanCanvas& above = m_window->plan().above();
    ASSERT_TRUE(becomes([&] { return above.chunkAt(above.rect().center()).has_value(); })) << "the map is looked at";
    const ChunkPos before = chunkOf(m_window->session().eye.cell, 32);
    const QPoint from = above.rect().center();
    const double square = above.pointOf(before + ChunkPos{1, 0, 0}).x() - above.pointOf(before).x();
    ASSERT_GT(square, 5);
    const QPoint to = from + QPoint(static_cast<int>(std::lround(3 * square)), 0);
    QTest::mousePress(&above, Qt::LeftButton, {}, from);
    QTest::mouseMove(&above, from + QPoint(20, 0));
    QTest::mouseMove(&above, to);
    QTest::mouseRelease(&above, Qt::LeftButton, {}, to);
    const ChunkPos after = chunkOf(m_window->session().eye.cell, 32);
    EXPECT_NEAR(static_cast<double>(after.x - before.x), 3, 1);
    EXPECT_EQ(after.z, before.z);
    waitUntilThere();
    const auto isThere = [&] { // a probe tells nothing while a worker has the map
        const auto probe = m_window->session().streamer()->probe(after);
        return probe && (probe->stage == ChunkProgress::Meshed || probe->stage == ChunkProgress::Bare);
    };
    EXPECT_TRUE(QTest::qWaitFor(isThere, kPatienceMs));
}

TEST_F(PlanWindowTest, ARecordingIsSavedAsTraceEvents)
{
    const test::TempFolder folder;
    m_window->saveRecording(QString::fromStdString((folder / "lives.json").string()));
    ASSERT_TRUE(
        QTest::qWaitFor([&] { return m_window->banner().text().contains(QStringLiteral("events to")); }, kPatienceMs))
        << m_window->banner().text().toStdString();
    const std::string text = test::textOf(folder / "lives.json");
    EXPECT_NE(text.find("\"traceEvents\""), std::string::npos);
    EXPECT_NE(text.find("\"worker 1\""), std::string::npos);
    EXPECT_NE(text.find("\"upload\""), std::string::npos);
    m_window->saveRecording(QStringLiteral("/nowhere/lives.json"));
    EXPECT_TRUE(QTest::qWaitFor(
        [&] { return m_window->banner().text().contains(QStringLiteral("/nowhere/lives.json")); }, kPatienceMs));
}

} // namespace
} // namespace fell::plan_window_test
