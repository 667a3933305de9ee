// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "common.h"
#include "reference_text.h"
#include <fell/setup/stages.h>

#include <nlohmann/json.hpp>

#include <iostream>

namespace fell::cli {
namespace {

int printStagesJson()
{
    nlohmann::ordered_json root{{"stages", nlohmann::json::array()}, {"fields", nlohmann::json::array()}};
    for (const Stage& stage : stages()) {
        nlohmann::ordered_json one{{"id", stage.id}, {"title", stage.title}, {"note", stage.note}, {"path", stage.path},
            {"methods", nlohmann::json::array()}};
        for (const auto& method : stage.methods())
            one["methods"].push_back({{"id", method.id}, {"title", method.title}, {"note", method.note}});
        root["stages"].push_back(one);
    }
    for (const SetupField& field : setupFields())
        root["fields"].push_back({{"path", field.path}, {"title", field.title}, {"unit", field.unit},
            {"note", field.note}, {"allowed", field.allowed}, {"low", field.low}, {"high", field.high}});
    printDocument("fell-stages", root);
    return kDone;
}

int printStagesText()
{
    for (const Stage& stage : stages()) {
        std::cout << stage.title << ": " << stage.note << "  (--set " << stage.path << "=...)\n";
        for (const auto& method : stage.methods())
            std::printf("  %-12s %s\n", method.id.c_str(), method.note.c_str());
    }
    std::cout << "\nChoices of a setup (--set path=value):\n";
    for (const SetupField& field : setupFields())
        std::printf("  %-18s %s%s\n", field.path.c_str(), field.title.c_str(),
            field.unit.empty() ? "" : (", " + field.unit).c_str());
    return kDone;
}

} // namespace

Run addStages(CLI::App& parser)
{
    auto* command = parser.add_subcommand("stages", "list every stage and its methods");
    auto json = std::make_shared<bool>(false);
    auto table = std::make_shared<bool>(false);
    auto* asJson = command->add_flag("--json", *json, "print one JSON document");
    command->add_flag("--markdown", *table, "print the table of methods that the README shows")->excludes(asJson);
    return [json, table](const std::stop_token&) {
        if (!*table)
            return *json ? printStagesJson() : printStagesText();
        std::cout << methodTable();
        return static_cast<int>(kDone);
    };
}

} // namespace fell::cli
