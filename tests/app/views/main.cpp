// SPDX-License-Identifier: GPL-3.0-or-later
// The tests of the window share one application on the display that xvfb-run gives.
#include "support/all_names.h"
#include "support/temp_folder.h"
#include <fell/app/views/theme.h>

#include <QApplication>
#include <gtest/gtest.h>

int main(int argc, char** argv)
{
    ::testing::InitGoogleTest(&argc, argv);
    const fell::test::TempFolder home; // so that the user's ledger stays as it is
    qputenv("XDG_DATA_HOME", QByteArray::fromStdString(home.path().string()));
    qputenv("XDG_CONFIG_HOME", QByteArray::fromStdString(home.path().string()));
    if (const QByteArray points = qgetenv("FELL_DESKTOP_POINTS"); !points.isEmpty()) // a desktop with a text size
        (void)home.write("kdeglobals", "[General]\nfont=DejaVu Sans," + points.toStdString() + ",-1,5,50,0,0,0,0,0\n");
    fell::app::followTextSize(argc, argv);
    QApplication app(argc, argv);
    fell::applyTheme(app, fell::limewash());
    return RUN_ALL_TESTS();
}
