// SPDX-License-Identifier: GPL-3.0-or-later
// fell-app: opens the window on a world.
#include <fell/app/views/main_window.h>
#include <fell/app/views/theme.h>
#include <fell/app/views/tour.h>
#include <fell/input/text_file.h>
#include <fell/measure/machine.h>
#include <fell/save/world_file.h>

#include <CLI/CLI.hpp>
#include <QApplication>
#include <spdlog/sinks/stdout_color_sinks.h>
#include <spdlog/spdlog.h>

#include <iostream>

namespace {

struct Arguments {
    std::string world = "corrowdale", setup = "near", tour, theme = "limewash";
    std::vector<std::string> set;
    std::optional<std::uint64_t> seed;
};

int fail(const fell::input::Problem& problem, int code)
{
    std::cerr << "fell: " << sentence(problem) << "\n";
    return code;
}

int runTour(fell::app::MainWindow& window, const std::string& folder)
{
    window.ledger().openElsewhere(std::filesystem::path(folder) / "ledger.db"); // not among the user's own trials
    fell::app::Tour tour(window, QString::fromStdString(folder));
    int code = 0;
    QObject::connect(&tour, &fell::app::Tour::ended, [&](const QString& trouble) {
        code = trouble.isEmpty() ? 0 : 1;
        if (code != 0)
            std::cerr << "fell: " << trouble.toStdString() << "\n";
        else
            std::cout << "fell: pictures, transect.csv and transect-plots.png are in " << folder << "\n";
        // Not quit(), which asks the window whether it may close.
        QMetaObject::invokeMethod(
            qApp, [&code] { QCoreApplication::exit(code); }, Qt::QueuedConnection);
    });
    tour.start();
    QApplication::exec();
    return code;
}

int run(const Arguments& arguments, QApplication& app)
{
    using namespace fell::app;
    auto recipe = findWorldOrFile(arguments.world, demoFolder());
    if (!recipe)
        return fail(recipe.problem(), 2);
    auto setup = findSetup(arguments.setup, demoFolder() / "setups");
    if (!setup)
        return fail(setup.problem(), 2);
    Setup chosen = setup.take();
    for (const auto& assignment : arguments.set)
        if (auto problem = applyOverride(chosen, assignment))
            return fail(*problem, 2);
    if (auto problem = checkSetup(chosen))
        return fail(*problem, 2);
    if (!arguments.tour.empty())
        if (auto problem = makeFolder(arguments.tour))
            return fail(*problem, 4);
    applyTheme(app, arguments.theme == "slate" ? slate() : limewash());
    MainWindow window(makeTerrain(recipe.take(), arguments.seed), chosen);
    window.setDark(arguments.theme == "slate");
    window.show();
    if (isDatabase(arguments.world)) // its changes are read in the background
        window.world().open(QString::fromStdString(arguments.world));
    return arguments.tour.empty() ? QApplication::exec() : runTour(window, arguments.tour);
}

int startUp(int argc, char** argv)
{
    spdlog::set_default_logger(spdlog::stderr_color_mt("fell"));
    CLI::App parser("Fell: a workbench for those who build voxel worlds.", "fell");
    Arguments arguments;
    parser.set_version_flag("--version", fell::measure::versionLine("fell"), "print version, commit and compiler");
    parser
        .add_option("--world,world", arguments.world,
            "a world file, a recipe file, or a demo: corrowdale, level, checker, dust, solid")
        ->capture_default_str();
    parser.add_option("--seed", arguments.seed, "replaces the recipe's seed");
    parser.add_option("--setup", arguments.setup, "a setup file, or one of demo/setups")->capture_default_str();
    parser.add_option("--set", arguments.set, "overrides one choice of the setup: path=value")->allow_extra_args(false);
    parser.add_option("--theme", arguments.theme, "limewash or slate")
        ->check(CLI::IsMember({"limewash", "slate"}))
        ->capture_default_str();
    parser.add_option("--tour", arguments.tour, "show every view once, keep pictures in this folder, and end");
    try {
        parser.parse(argc, argv);
    } catch (const CLI::CallForHelp&) {
        std::cout << parser.help();
        return 0;
    } catch (const CLI::CallForVersion& version) {
        std::cout << version.what() << "\n";
        return 0;
    } catch (const CLI::ParseError& error) {
        return fail({"arguments", "", error.what()}, 2);
    }
    if (!qEnvironmentVariableIsSet("DISPLAY") && !qEnvironmentVariableIsSet("WAYLAND_DISPLAY")
        && !qEnvironmentVariableIsSet("QT_QPA_PLATFORM"))
        return fail(
            {"this machine", "", "has no display; ./fell without arguments starts one of its own and shows a tour"}, 3);
    QApplication app(argc, argv);
    QApplication::setApplicationName(QStringLiteral("Fell"));
    return run(arguments, app);
}

} // namespace

int main(int argc, char** argv)
{
    try {
        return startUp(argc, argv);
    } catch (const std::exception& error) { // out of memory, or a library that throws
        return fail({"", "", std::string("stopped by an error of its own: ").append(error.what())}, 3);
    }
}
