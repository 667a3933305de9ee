// SPDX-License-Identifier: GPL-3.0-or-later
// The form of a stage: its controls follow the setup and stay the same controls. The real window: real mouse and key
// events, then what the user sees.
#include "window_fixture.h"

#include "support/all_names.h"

#include <QPointer>
#include <gtest/gtest.h>

namespace fell::stage_window_test {
namespace {

class StageWindowTest : public WindowTest { };

TEST_F(StageWindowTest, ControlsOfAStageStayWhileTheSetupChangesUnderThem)
{
    WorldSession& session = m_window->session();
    emit m_window->rail().stageClicked("mesh", false);
    const QPointer<QRadioButton> exposed = child<QRadioButton>("mesh.mesher=exposed");
    const QPointer<QWidget> shade = child<QWidget>("mesh.shade");
    QTest::mouseClick(exposed, Qt::LeftButton, {}, QPoint(8, exposed->height() / 2));
    QTest::qWait(50);
    ASSERT_TRUE(exposed && shade);
    EXPECT_EQ(m_window->focusWidget(), exposed);
    EXPECT_TRUE(exposed->isChecked());
    trigger("undo");
    QTest::qWait(50);
    ASSERT_TRUE(exposed);
    EXPECT_FALSE(exposed->isChecked());
    EXPECT_TRUE(child<QRadioButton>(("mesh.mesher=" + session.setup().mesh.mesher).c_str())->isChecked());
    waitUntilThere();
    // A number that is being typed stays as it is while something else changes.
    emit m_window->rail().stageClicked("generate", false);
    auto* workers = child<QSpinBox>("stream.workers");
    const int before = workers->value();
    workers->setFocus();
    workers->selectAll();
    QTest::keyClick(workers, Qt::Key_3);
    session.edited().set("stream.distance", 3);
    QTest::qWait(50);
    EXPECT_EQ(workers->text(), "3") << "half typed";
    EXPECT_EQ(session.setup().stream.workers, before);
    QTest::keyClick(workers, Qt::Key_Return);
    EXPECT_EQ(session.setup().stream.workers, 3);
    // What a scheme does not ask for is not shown.
    emit m_window->rail().stageClicked("levels", false);
    QTest::qWait(50);
    const auto isShown = [&](const char* name) { return child<QWidget>(name)->isVisible(); };
    session.edited().set("lod.scheme", "off");
    EXPECT_FALSE(isShown("lod.detail") || isShown("lod.error"));
    session.edited().set("lod.scheme", "rings");
    EXPECT_TRUE(isShown("lod.detail") && !isShown("lod.error"));
    session.edited().set("lod.scheme", "error");
    EXPECT_TRUE(!isShown("lod.detail") && isShown("lod.error"));
}

/// Every change of the setup deleted the control that made it, and a look-alike got the focus.
TEST_F(StageWindowTest, AStepIsMovedByItsOwnButtonAgainAndAgain)
{
    emit m_window->rail().stageClicked("cull", false);
    child<QTabBar>("cullTabs")->setCurrentIndex(static_cast<int>(CullPanel::Tab::Steps));
    WorldSession& session = m_window->session();
    const std::vector<std::string> before = session.setup().cull.steps;
    ASSERT_GE(before.size(), 3u);
    const QPointer<QToolButton> later = child<QToolButton>(("later=" + before[0]).c_str());
    auto* box = child<QCheckBox>(("cull.steps=" + before[0]).c_str());
    later->setFocus();
    int top = box->mapTo(m_window.get(), QPoint()).y();
    for (std::size_t i = 1; i < before.size(); ++i) {
        QTest::keyClick(later, Qt::Key_Space);
        QTest::qWait(30);
        ASSERT_TRUE(later) << "the button that was pressed is still there";
        EXPECT_EQ(session.setup().cull.steps[i], before[0]);
        EXPECT_TRUE(box->text().startsWith(QString::number(i + 1)));
        EXPECT_GT(box->mapTo(m_window.get(), QPoint()).y(), top) << "and has moved down";
        top = box->mapTo(m_window.get(), QPoint()).y();
        EXPECT_EQ(m_window->focusWidget() == later, i + 1 < before.size()) << "the last one cannot go on";
    }
    EXPECT_FALSE(later->isEnabled());
    // Switched off it lies below those in use, without a place and without buttons.
    QTest::mouseClick(box, Qt::LeftButton, {}, QPoint(8, box->height() / 2));
    QTest::qWait(30);
    EXPECT_EQ(session.setup().cull.steps.size(), before.size() - 1);
    EXPECT_FALSE(later->isVisible());
    EXPECT_FALSE(box->text().at(0).isDigit());
    trigger("undo");
    QTest::qWait(30);
    EXPECT_TRUE(later->isVisible());
    EXPECT_TRUE(box->isChecked());
}

TEST_F(StageWindowTest, ABenchNumberKeepsTheFocusWhileArrowKeysChangeIt)
{
    WorldSession& session = m_window->session();
    QTest::mouseClick(&m_window->rail(), Qt::LeftButton, {}, m_window->rail().plates().plate(3).center());
    ASSERT_EQ(m_window->bench().stage(), "upload");
    auto* spin = m_window->findChild<QSpinBox*>("upload.meshes");
    ASSERT_NE(spin, nullptr);
    spin->setFocus();
    const int before = session.setup().upload.meshes;
    for (int i = 1; i <= 3; ++i) {
        ASSERT_NE(m_window->focusWidget(), nullptr);
        QTest::keyClick(m_window->focusWidget(), Qt::Key_Up);
        ASSERT_EQ(session.setup().upload.meshes, before + i) << "arrow key " << i;
        QTest::qWait(50); // the bench is built again
        ASSERT_TRUE(becomes(
            [&] { return m_window->focusWidget() && m_window->focusWidget()->objectName() == "upload.meshes"; }));
    }
}

} // namespace
} // namespace fell::stage_window_test
