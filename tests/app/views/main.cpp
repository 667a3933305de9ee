// SPDX-License-Identifier: GPL-3.0-or-later
// The tests of the window share one application on the display that xvfb-run gives.
#include "views/theme.h"

#include <QApplication>
#include <gtest/gtest.h>

int main(int argc, char** argv)
{
    ::testing::InitGoogleTest(&argc, argv);
    QApplication app(argc, argv);
    fell::applyTheme(app, fell::limewash());
    return RUN_ALL_TESTS();
}
