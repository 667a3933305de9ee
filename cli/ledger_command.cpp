// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "common.h"
#include <fell/input/text_file.h>
#include <fell/measure/findings.h>
#include <fell/measure/ledger.h>
#include <fell/measure/report.h>
#include <fell/measure/results.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <iostream>
#include <set>

namespace fell::cli {
namespace {

struct LedgerArguments {
    std::string ledger = homeLedger().string(), what, search, tags, file, format = "json";
    std::int64_t id = 0; // of tag
    std::vector<std::int64_t> ids; // of the others
    bool json = false, given = false; // given: --ledger was
};

nlohmann::ordered_json jsonOf(const TrialEntry& entry)
{
    return {{"id", entry.id}, {"key", entry.key}, {"date", entry.date}, {"world", entry.world}, {"seed", entry.seed},
        {"route", entry.route}, {"varied", entry.varied}, {"setups", entry.setups}, {"processor", entry.processor},
        {"driver", entry.driver}, {"compiler", entry.compiler}, {"commit", entry.commit}, {"tags", entry.tags},
        {"finding", entry.finding}, {"pinned", entry.isPinned}, {"stopped", entry.isStopped},
        {"audit_differences",
            entry.auditDifferences ? nlohmann::ordered_json(*entry.auditDifferences) : nlohmann::ordered_json()},
        {"frame_ms", entry.frameMs}, {"mesh_ns", entry.meshNs}};
}

int list(const Ledger& ledger, const LedgerArguments& arguments)
{
    const auto entries = ledger.find(arguments.search);
    if (!entries)
        return fail(entries.problem());
    nlohmann::ordered_json all{{"trials", nlohmann::ordered_json::array()}};
    for (const TrialEntry& entry : entries.value()) {
        all["trials"].push_back(jsonOf(entry));
        if (!arguments.json)
            std::cout << entry.id << (entry.isPinned ? " (baseline)" : "") << "  " << entry.date << "  " << entry.world
                      << ", " << entry.route << "  " << entry.varied << "  " << entry.setups << "  frame "
                      << shownFigure(entry.frameMs) << " ms, mesh " << shownFigure(entry.meshNs / 1000) << " us  "
                      << entry.finding
                      << (entry.auditDifferences.value_or(0) > 0 ? "  AUDIT FAILED"
                                 : entry.isStopped               ? "  stopped"
                                                                 : "")
                      << (entry.tags.empty() ? "" : "  [" + entry.tags + "]") << "\n";
    }
    if (arguments.json)
        printDocument("fell-ledger-list", all);
    else if (entries.value().empty())
        std::cout << "no trial"
                  << (arguments.search.empty() ? "; fell-cli transect --keep adds one" : " of these words") << "\n";
    return kDone;
}

int printLedger(const TransectResult& trial, const LedgerArguments& arguments)
{
    std::cout << (arguments.json ? toJson(trial).dump(2) + "\n" : toMarkdown(reportOf(trial)));
    return kDone;
}

int show(const Ledger& ledger, const LedgerArguments& arguments)
{
    const auto trial = ledger.load(arguments.ids.at(0));
    return trial ? printLedger(trial.value(), arguments) : fail(trial.problem());
}

int compare(const Ledger& ledger, const LedgerArguments& arguments)
{
    const auto first = ledger.load(arguments.ids.at(0)), second = ledger.load(arguments.ids.at(1));
    for (const auto* one : {&first, &second})
        if (!*one)
            return fail(one->problem());
    const auto both = asComparison(first.value(), second.value());
    return both ? printLedger(both.value(), arguments) : fail(both.problem());
}

int exportTrials(const Ledger& ledger, LedgerArguments arguments)
{
    std::set<std::int64_t> once;
    std::erase_if(arguments.ids, [&once](std::int64_t id) { return !once.insert(id).second; });
    if (arguments.ids.empty()) {
        const auto entries = ledger.find();
        if (!entries)
            return fail(entries.problem());
        for (const TrialEntry& entry : entries.value())
            arguments.ids.push_back(entry.id);
    }
    WorldArguments inputs;
    inputs.world = arguments.ledger.empty() ? homeLedger().string() : arguments.ledger;
    if (const int code = refuseOutput(arguments.file, inputs); code != kDone)
        return code;
    const auto text = arguments.format == "csv" ? ledger.exportCsv(arguments.ids) : ledger.exportJson(arguments.ids);
    if (!text)
        return fail(text.problem());
    if (auto problem = writeFile(arguments.file, text.value()))
        return fail(*problem, kCannotWrite);
    std::cerr << "written: " << arguments.ids.size() << (arguments.ids.size() == 1 ? " trial to " : " trials to ")
              << arguments.file << "\n";
    if (arguments.json)
        printDocument("fell-ledger-change", {{"did", arguments.what}});
    return kDone;
}

int importTrials(Ledger& ledger, const LedgerArguments& arguments)
{
    const auto text = readFile(arguments.file, std::size_t{1} << 30);
    if (!text)
        return fail(text.problem());
    const auto counts = ledger.importJson(text.value(), arguments.file);
    if (!counts)
        return fail(counts.problem());
    if (arguments.json)
        printDocument("fell-ledger-import", {{"added", counts.value().added}, {"known", counts.value().known}});
    else
        std::cout << counts.value().added << " added, " << counts.value().known << " were there already\n";
    return kDone;
}

/// Of a command that changes trials and has nothing else to say.
int change(const std::optional<Problem>& problem, const LedgerArguments& arguments)
{
    if (problem)
        return fail(*problem);
    if (arguments.json)
        printDocument("fell-ledger-change", {{"did", arguments.what}});
    return kDone;
}

/// All of them, or none where one is not there.
int removeTrials(Ledger& ledger, const LedgerArguments& arguments)
{
    const auto entries = ledger.find();
    if (!entries)
        return fail(entries.problem());
    for (const std::int64_t id : arguments.ids)
        if (std::none_of(entries.value().begin(), entries.value().end(),
                [id](const TrialEntry& entry) { return entry.id == id; }))
            return fail({"trial " + std::to_string(id), "", "is not in this ledger, so nothing was removed"});
    return change(ledger.remove(arguments.ids), arguments);
}

int runLedger(const LedgerArguments& arguments)
{
    // Reading makes no ledger: a mistyped name is said.
    const bool reads = arguments.what != "import";
    std::error_code error;
    const std::filesystem::path file
        = arguments.ledger.empty() ? homeLedger() : std::filesystem::path(arguments.ledger);
    if (reads && arguments.given && !std::filesystem::exists(file, error))
        return fail({"--ledger " + arguments.ledger, "", "there is no such file"});
    auto opened = Ledger::open(arguments.ledger);
    if (!opened)
        return fail(opened.problem());
    const std::unique_ptr<Ledger> ledger = opened.take();
    if (arguments.what == "list")
        return list(*ledger, arguments);
    if (arguments.what == "show")
        return show(*ledger, arguments);
    if (arguments.what == "compare")
        return compare(*ledger, arguments);
    if (arguments.what == "tag")
        return change(ledger->setTags(arguments.id, arguments.tags), arguments);
    if (arguments.what == "pin" || arguments.what == "unpin")
        return change(ledger->pin(arguments.ids.at(0), arguments.what == "pin"), arguments);
    if (arguments.what == "remove")
        return removeTrials(*ledger, arguments);
    return arguments.what == "export" ? exportTrials(*ledger, arguments) : importTrials(*ledger, arguments);
}

} // namespace

Run addLedger(CLI::App& parser)
{
    auto* command = parser.add_subcommand("ledger", "saved runs: find, compare, pin, export, import");
    auto arguments = std::make_shared<LedgerArguments>();
    command->require_subcommand(1);
    const auto action = [&](const char* name, const char* does) {
        auto* one = command->add_subcommand(name, does);
        one->add_option("--ledger", arguments->ledger, "the ledger file; not given: that of the user");
        one->add_flag("--json", arguments->json, "print one JSON document");
        one->callback([arguments, name, one] {
            arguments->what = name;
            arguments->given = one->count("--ledger") > 0;
        });
        return one;
    };
    const auto ids = [&](CLI::App* to, int min, int max, const char* which) {
        to->add_option("trials", arguments->ids, which)->expected(min, max)->required(min > 0);
    };
    action("list", "list runs, the newest first")
        ->add_option("search", arguments->search, "words that a run must contain");
    ids(action("show", "print the report of one run"), 1, 1, "its number");
    ids(action("compare", "compare setup A of two runs"), 2, 2, "their numbers");
    auto* tag = action("tag", "set the tags of a run");
    tag->add_option("trial", arguments->id, "its number")->required();
    tag->add_option("words", arguments->tags, "the tags; they replace the present ones")->required();
    ids(action("pin", "make a run the baseline of its world, route and settings"), 1, 1, "its number");
    ids(action("unpin", "remove the mark of a baseline"), 1, 1, "its number");
    ids(action("remove", "delete runs permanently"), 1, 10000, "their numbers");
    auto* out = action("export", "write runs with raw samples as JSON, or their rows as CSV");
    out->add_option("file", arguments->file, "the file to write")->required();
    ids(out, 0, 100000, "their numbers; none: all");
    out->add_option("--format", arguments->format, "json or csv")->check(CLI::IsMember({"json", "csv"}));
    action("import", "read runs that export wrote, or the JSON of one transect")
        ->add_option("file", arguments->file, "the file to read")
        ->required();
    return [arguments](const std::stop_token&) { return runLedger(*arguments); };
}

} // namespace fell::cli
