// SPDX-License-Identifier: GPL-3.0-or-later
// fell-app: opens the window on a world.
#include <fell/app/start.h>

#include <QApplication>

int main(int argc, char** argv)
{
    return fell::app::start(argc, argv,
        {"fell", "Fell: a workbench for voxel terrain engines.", "", "", true,
            [](fell::app::MainWindow&, const std::string&) { return QApplication::exec(); }});
}
