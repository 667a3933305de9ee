// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/check_method.h>

#include <fell/audit/method_report.h>
#include <fell/demo/demo_folder.h>
#include <fell/terrain/terrain.h>

#include <nlohmann/json.hpp>

#include <iostream>

namespace fell::app {

int checkMethodFile(const std::string& file)
{
    const auto fail = [](const Problem& problem) {
        std::cout << nlohmann::json{{"problem", sentence(problem)}}.dump() << std::endl;
        return 2;
    };
    auto recipe = findWorld("corrowdale", demoFolder()); // whose blocks are of all kinds
    if (!recipe)
        return fail(recipe.problem());
    const auto hash = hashOf(file);
    if (!hash)
        return fail({file, "", "cannot be read: a shared library is expected"});
    MethodCheckSpec spec;
    spec.file = file;
    spec.blocks = recipe.value().blocks;
    const auto found = checkMethod(spec);
    if (!found)
        return fail(found.problem());
    std::cout << toJson(file, hash.value(), found.value(), spec.blocks).dump() << std::endl;
    return found.value().fault ? 1 : 0;
}

} // namespace fell::app
