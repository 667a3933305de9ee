// SPDX-License-Identifier: GPL-3.0-or-later
// fell-tour: opens the window, shows every view once, and keeps pictures of them: for machines without a screen, and
// for the README. It is no part of the window's program.
#include "driver.h"

#include <fell/app/start.h>

#include <QApplication>
#include <QTimer>

#include <filesystem>
#include <iostream>

namespace {

int tour(fell::app::MainWindow& window, const std::string& folder)
{
    window.ledger().openElsewhere(std::filesystem::path(folder) / "ledger.db"); // not among the user's own trials
    int code = 0;
    QTimer::singleShot(0, &window, [&] {
        try {
            fell::tour::Driver driver(window, QDir(QString::fromStdString(folder)));
            fell::tour::showEveryView(driver);
            std::cout << "fell: pictures, transect.csv and transect-plots.png are in " << folder << "\n";
        } catch (const fell::tour::Stopped& stopped) {
            std::cerr << "fell: the tour ended early: " << stopped.what() << "\n";
            code = 1;
        }
        // Not quit(), which asks the window whether it may close.
        QMetaObject::invokeMethod(
            qApp, [&code] { QCoreApplication::exit(code); }, Qt::QueuedConnection);
    });
    (void)QApplication::exec();
    return code;
}

} // namespace

int main(int argc, char** argv)
{
    return fell::app::start(argc, argv,
        {"fell-tour", "Shows every view of Fell's window once, keeps pictures of them, and ends.", "--pictures",
            "the folder that the pictures go into", false, tour});
}
