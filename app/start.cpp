// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/start.h>

#include <fell/app/arguments.h>
#include <fell/app/check_method.h>
#include <fell/app/views/main_window.h>
#include <fell/app/views/theme.h>
#include <fell/gpu/shader_library.h>
#include <fell/input/text_file.h>
#include <fell/save/world_file.h>

#include <QApplication>
#include <QIcon>
#include <QPalette>
#include <spdlog/sinks/stdout_color_sinks.h>
#include <spdlog/spdlog.h>

#include <iostream>

namespace fell::app {
namespace {

int fail(const Problem& problem, int code)
{
    std::cerr << "fell: " << sentence(problem) << "\n";
    return code;
}

/// As it is before a theme is applied.
bool isDesktopDark()
{
    constexpr int kMiddle = 128;
    return QGuiApplication::palette().color(QPalette::Window).lightness() < kMiddle;
}

int openWindow(const Arguments& arguments, QApplication& app, const Program& program)
{
    auto recipe = findWorldOrFile(arguments.world, demoFolder());
    if (!recipe)
        return fail(recipe.problem(), 2);
    const std::string standard = program.remembers ? "valley" : "near";
    auto setup = findSetup(arguments.setup.empty() ? standard : arguments.setup, demoFolder() / "setups");
    if (!setup)
        return fail(setup.problem(), 2);
    Setup chosen = setup.take();
    for (const auto& assignment : arguments.set)
        if (auto problem = applyOverride(chosen, assignment))
            return fail(*problem, 2);
    if (auto problem = checkSetup(chosen))
        return fail(*problem, 2);
    if (!program.folderOption.empty())
        if (auto problem = makeFolder(arguments.folder))
            return fail(*problem, 4);
    const Preferences last = program.remembers ? readPreferences() : Preferences();
    const QString theme = arguments.theme.empty() ? last.theme : QString::fromStdString(arguments.theme);
    const bool isDark = theme.isEmpty() ? isDesktopDark() : theme == slate().name;
    applyTheme(app, isDark ? slate() : limewash());
    MainWindow window(makeTerrain(recipe.take(), arguments.seed), chosen);
    window.setDark(isDark);
    if (program.remembers)
        window.restore(last);
    if (program.remembers && arguments.setup.empty() && arguments.set.empty())
        window.fitDistance();
    window.show();
    for (const std::string& file : arguments.methods)
        window.methods().load(QString::fromStdString(file));
    if (isDatabase(arguments.world)) // its changes are read in the background
        window.world().open(QString::fromStdString(arguments.world));
    return program.run(window, arguments.folder);
}

int parseAndOpen(int argc, char** argv, const Program& program)
{
    spdlog::set_default_logger(spdlog::stderr_color_mt("fell"));
    Arguments arguments;
    if (const auto code = parse(argc, argv, program, arguments))
        return *code;
    if (!arguments.checkMethod.empty()) // first: nothing has made a thread yet
        return checkMethodFile(arguments.checkMethod);
    if (!arguments.writeShaders.empty()) {
        if (const auto problem = writeShaders(arguments.writeShaders))
            return fail(*problem, 4);
        return 0;
    }
    if (!arguments.shaders.empty())
        qputenv("FELL_SHADERS", QByteArray::fromStdString(arguments.shaders));
    if (const auto folder = shaderFolder(); !folder.empty())
        if (const auto problem = checkShaderFolder(folder))
            return fail(*problem, 2);
    if (!qEnvironmentVariableIsSet("DISPLAY") && !qEnvironmentVariableIsSet("WAYLAND_DISPLAY")
        && !qEnvironmentVariableIsSet("QT_QPA_PLATFORM"))
        return fail(
            {"this machine", "", "has no display; ./fell without a display starts a virtual one and shows a tour"}, 3);
    followTextSize(argc, argv);
    QApplication app(argc, argv);
    QApplication::setApplicationName(QStringLiteral("Fell"));
    QGuiApplication::setDesktopFileName(QStringLiteral("net.corrowdale.fell"));
    QApplication::setWindowIcon(QIcon(QStringLiteral(":/icons/fell.png")));
    return openWindow(arguments, app, program);
}

} // namespace

int start(int argc, char** argv, const Program& program)
{
    try {
        return parseAndOpen(argc, argv, program);
    } catch (const std::exception& error) { // out of memory, or a library that throws
        return fail({"", "", std::string("stopped by an internal error: ").append(error.what())}, 3);
    }
}

} // namespace fell::app
