// SPDX-License-Identifier: GPL-3.0-or-later
// With a window manager, whose title bar and frame take their place: run as CTest does, next to openbox on 1280x800.
#include "window_fixture.h"

#include <QWindow>

namespace fell::manager_window_test {
namespace {

class ManagerWindowTest : public WindowTest { };

TEST_F(ManagerWindowTest, AllOfTheWindowIsOnTheScreen)
{
    if (qgetenv("FELL_WITH_MANAGER").isEmpty())
        GTEST_SKIP() << "run with a window manager and FELL_WITH_MANAGER=1, as CTest does";
    ASSERT_TRUE(becomes([&] { return m_window->windowHandle()->frameMargins().top() > 0; })) << "there is no title bar";
    const QRect free = m_window->screen()->availableGeometry();
    EXPECT_TRUE(becomes([&] { return free.contains(m_window->frameGeometry()); }))
        << m_window->frameGeometry().height() << " of " << free.height();
    // The keys go to the field without a click: W flies.
    ASSERT_TRUE(becomes([&] { return m_window->isActiveWindow() || field()->isActive(); }));
    QWindow* focus = nullptr;
    EXPECT_TRUE(becomes([&] { return (focus = QGuiApplication::focusWindow()) != nullptr; }));
    const VoxelPos from = m_window->session().eye.cell;
    QTest::keyPress(focus, Qt::Key_W);
    EXPECT_TRUE(becomes([&] { return !(m_window->session().eye.cell == from); }));
    QTest::keyRelease(focus, Qt::Key_W);
}

} // namespace
} // namespace fell::manager_window_test
