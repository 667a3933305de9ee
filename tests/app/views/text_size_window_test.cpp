// SPDX-License-Identifier: GPL-3.0-or-later
// A desktop that asks for text of 15 points: run as CTest does, with a desktop's settings and a larger screen.
#include "window_fixture.h"

#include <QTextDocument>

namespace fell::text_size_window_test {
namespace {

class TextSizeWindowTest : public WindowTest { };

TEST_F(TextSizeWindowTest, TextHasTheSizeOfTheDesktopAndAllIsOnTheScreen)
{
    if (qgetenv("FELL_DESKTOP_POINTS").isEmpty())
        GTEST_SKIP() << "run with FELL_DESKTOP_POINTS=15, as CTest does";
    // 15 points of 96 / 72 pixels are 20 pixels, and the window's text is 13 units high.
    EXPECT_NEAR(m_window->devicePixelRatioF() * m_window->font().pixelSize(), 20, 0.1);
    EXPECT_TRUE(becomes([&] { return m_window->screen()->availableGeometry().contains(m_window->frameGeometry()); }))
        << m_window->frameGeometry().width() << "x" << m_window->frameGeometry().height();
    for (const QLabel* label : m_window->findChildren<QLabel*>()) {
        if (!label->isVisible() || label->wordWrap() || Qt::mightBeRichText(label->text()))
            continue;
        EXPECT_GE(label->width() + 1, label->fontMetrics().size(0, label->text()).width())
            << label->text().toStdString();
    }
}

} // namespace
} // namespace fell::text_size_window_test
