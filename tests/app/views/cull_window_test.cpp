// SPDX-License-Identifier: GPL-3.0-or-later
// The bench of culling. The real window: real mouse and key events, then what the user would see.
#include "window_fixture.h"
#include <fell/app/models/text.h>

#include "support/all_names.h"
#include "support/sample_setups.h"

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace fell::cull_window_test {
namespace {

class CullWindowTest : public WindowTest { };

TEST_F(CullWindowTest, CullStepsAreOrderedAndSayWhatTheyDo)
{
    const RailLayout plates = m_window->rail().plates();
    QTest::mouseClick(&m_window->rail(), Qt::LeftButton, {}, plates.plate(5).center());
    ASSERT_EQ(m_window->bench().stage(), "cull");
    const auto steps = [&] { return m_window->session().setup().cull.steps; };
    ASSERT_EQ(steps(), (std::vector<std::string>{"octree", "distance", "facing"}));
    EXPECT_TRUE(QTest::qWaitFor([&] { return child<QLabel>("counts=octree")->text().contains("kept"); }, kPatienceMs))
        << child<QLabel>("counts=octree")->text().toStdString();
    QTest::mouseClick(child<QToolButton>("earlier=facing"), Qt::LeftButton);
    EXPECT_EQ(steps(), (std::vector<std::string>{"octree", "facing", "distance"}));
    QTest::qWait(50); // until the page is laid out
    auto* hidden = child<QCheckBox>("cull.steps=hidden");
    QTest::mouseClick(hidden, Qt::LeftButton, {}, QPoint(8, hidden->height() / 2));
    EXPECT_EQ(steps().back(), "hidden");
    const std::uint64_t epoch = m_window->session().epoch();
    QTest::keyClick(field(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(QTest::qWaitFor([&] { return steps().size() == 3; }, kPatienceMs));
    EXPECT_EQ(m_window->session().epoch(), epoch) << "other steps need no other meshes";
}

TEST_F(CullWindowTest, WhatEachStepSavesIsMeasuredInTheView)
{
    emit m_window->rail().stageClicked("cull", false);
    child<QTabBar>("cullTabs")->setCurrentIndex(static_cast<int>(CullPanel::Tab::Savings));
    QTest::qWait(50);
    QTest::mouseClick(child<QPushButton>("measureSteps"), Qt::LeftButton);
    EXPECT_TRUE(m_window->session().stepTrial.isRunning());
    ASSERT_TRUE(QTest::qWaitFor([&] { return !m_window->session().stepTrial.isRunning(); }, kPatienceMs));
    const auto& rows = m_window->session().stepTrial.rows(StepTrial::Of::Steps);
    ASSERT_EQ(rows.size(), 5u) << "all, without each of three, none";
    EXPECT_LT(rows.front().triangles, rows.back().triangles);
    EXPECT_EQ(rows.back().triangles, field()->lastFrame().loadedTriangles) << "without any step everything is drawn";
    QTest::qWait(50);
    EXPECT_TRUE(child<QLabel>("savings")->text().contains(QString("no%1facing").arg(QChar(QChar::Nbsp))))
        << child<QLabel>("savings")->text().toStdString();
}

TEST_F(CullWindowTest, WhatEachPassCostsIsMeasuredInTheView)
{
    emit m_window->rail().stageClicked("draw", false);
    QTest::qWait(50);
    QTest::mouseClick(child<QPushButton>("measurePasses"), Qt::LeftButton);
    EXPECT_TRUE(m_window->session().stepTrial.isRunning());
    ASSERT_TRUE(becomes([this] { return !m_window->session().stepTrial.isRunning(); }));
    const auto& rows = m_window->session().stepTrial.rows(StepTrial::Of::Passes);
    ASSERT_EQ(rows.size(), 6u) << "all, without each of four, none";
    EXPECT_EQ(rows[1].step, "sky");
    EXPECT_EQ(rows[1].triangles, rows[0].triangles) << "the sky has no triangles of the world";
    EXPECT_LT(rows[2].triangles, rows[0].triangles) << "without solid sides";
    EXPECT_EQ(rows.back().triangles, 0u) << "without any pass nothing is drawn";
    EXPECT_LT(rows.back().frameMs.p50, rows.front().frameMs.p50);
    ASSERT_TRUE(becomes(
        [this] { return child<QLabel>("passCosts")->text().contains(QString("no%1solid").arg(QChar(QChar::Nbsp))); }));
    EXPECT_GT(field()->lastFrame().triangles, 0u) << "and everything is drawn again";
}

TEST_F(CullWindowTest, HeldCullingStaysWhileTheEyeTurnsAndGhostsAppear)
{
    emit m_window->rail().stageClicked("cull", false);
    const std::uint64_t kept = field()->lastFrame().chunks;
    QTest::keyClick(field(), Qt::Key_F6);
    ASSERT_TRUE(QTest::qWaitFor([&] { return m_window->session().look->frozen.has_value(); }, kPatienceMs));
    auto* hold = child<QCheckBox>("look.frozen");
    EXPECT_TRUE(hold->isChecked());
    m_window->session().eye.yaw += 180;
    QTest::qWait(400);
    EXPECT_EQ(field()->lastFrame().chunks, kept) << "culled as seen from where it was held";
    const QImage without = fieldPicture();
    auto* ghosts = child<QCheckBox>("look.ghosts");
    QTest::mouseClick(ghosts, Qt::LeftButton, {}, QPoint(8, ghosts->height() / 2));
    EXPECT_TRUE(becomes([&] { return fieldPicture() != without; }));
    QTest::keyClick(field(), Qt::Key_F6);
    ASSERT_TRUE(QTest::qWaitFor([&] { return !m_window->session().look->frozen; }, kPatienceMs));
    EXPECT_EQ(child<QCheckBox>("look.frozen"), hold) << "the control itself stays";
    EXPECT_FALSE(hold->isChecked());
    QTest::keyClick(field(), Qt::Key_F6);
    ASSERT_TRUE(QTest::qWaitFor([&] { return m_window->session().look->frozen.has_value(); }, kPatienceMs));
    m_window->world().open(QStringLiteral("level"));
    EXPECT_FALSE(m_window->session().look->frozen) << "it was held in another world";
    EXPECT_FALSE(child<QCheckBox>("look.frozen")->isChecked());
}

TEST_F(CullWindowTest, TheAuditListsWhatIsLostAndAClickLooksAtIt)
{
    emit m_window->rail().stageClicked("cull", false);
    child<QTabBar>("cullTabs")->setCurrentIndex(static_cast<int>(CullPanel::Tab::Audit));
    QTest::qWait(50);
    QTest::mouseClick(child<QPushButton>("auditCull"), Qt::LeftButton);
    EXPECT_TRUE(m_window->bench().cullAudit().isRunning());
    ASSERT_TRUE(QTest::qWaitFor([&] { return !m_window->bench().cullAudit().isRunning(); }, kPatienceMs));
    QTest::qWait(50);
    EXPECT_TRUE(child<QLabel>("auditState")->text().contains("No exact step loses any"))
        << child<QLabel>("auditState")->text().toStdString();
    auto* list = child<QListView>("lostChunks");
    ASSERT_GT(list->model()->rowCount(), 0) << "the corner tests lose some";
    const Eye before = m_window->session().eye;
    clickRow(*list, 0);
    ASSERT_TRUE(m_window->session().look->marked);
    const auto& lost = m_window->bench().cullAudit().result()->lost;
    const auto found = std::find_if(
        lost.begin(), lost.end(), [&](const LostChunk& one) { return one.chunk == *m_window->session().look->marked; });
    ASSERT_NE(found, lost.end());
    EXPECT_NE(m_window->session().eye, before);
    EXPECT_GT(m_window->session().look->fieldOfView, 0) << "seen through the lens of the audit";
    QTest::keyClick(field(), Qt::Key_Escape);
    EXPECT_TRUE(QTest::qWaitFor([&] { return !m_window->session().look->marked; }, kPatienceMs));
}

TEST_F(CullWindowTest, TheOctreeIsShownInTheFieldAndOnThePlan)
{
    const QImage plain = fieldPicture();
    QTest::keyClick(field(), Qt::Key_F8);
    ASSERT_TRUE(QTest::qWaitFor([&] { return m_window->session().look->octree; }, kPatienceMs));
    EXPECT_TRUE(becomes([&] { return fieldPicture() != plain; }));
    const OctreeFigures figures = field()->octree();
    EXPECT_EQ(figures.chunks, field()->lastFrame().residentChunks);
    EXPECT_EQ(figures.leaves, figures.chunks) << "a leaf is a chunk here";
    emit m_window->rail().stageClicked("cull", false);
    child<QTabBar>("cullTabs")->setCurrentIndex(static_cast<int>(CullPanel::Tab::Options));
    ASSERT_TRUE(QTest::qWaitFor(
        [&] {
            const auto* text = m_window->findChild<QLabel*>("octreeFigures");
            return text && text->text().contains("walked in");
        },
        kPatienceMs));
    auto* leaf = child<QComboBox>("cull.leaf");
    EXPECT_EQ(leaf->count(), 3) << "1, 2 and 4 chunks";
    m_window->session().look.change([&](FieldLook& look) { look.octree = false; });
    m_window->showPlan(true);
    QTest::qWait(400);
    const QImage without = m_window->plan().above().grab().toImage();
    auto* box = child<QCheckBox>("planOctree");
    QTest::mouseClick(box, Qt::LeftButton, {}, QPoint(8, box->height() / 2));
    EXPECT_TRUE(becomes([&] { return m_window->plan().above().grab().toImage() != without; }));
}

} // namespace
} // namespace fell::cull_window_test
