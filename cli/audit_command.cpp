// SPDX-License-Identifier: Apache-2.0
#include "audit/audit.h"
#include "commands.h"
#include "common.h"

#include <nlohmann/json.hpp>

#include <iostream>

namespace fell::cli {
namespace {

struct Arguments {
    WorldArguments world;
    std::vector<std::string> audits{"mesh"};
    std::int64_t cases = 2000;
};

int run(const Arguments& arguments, const std::stop_token& stop)
{
    for (const auto& audit : arguments.audits)
        if (audit != "mesh")
            return fail({"audit " + audit, "", "is no audit, allowed is mesh"});
    if (arguments.cases < 1 || arguments.cases > 10000000)
        return fail({"--cases", "", "1 to 10000000 are allowed"});
    const auto terrain = openWorld(arguments.world);
    if (!terrain)
        return fail(terrain.problem());
    MeshAuditSpec spec;
    spec.blocks = terrain.value()->recipe.blocks;
    spec.cases = static_cast<std::uint64_t>(arguments.cases);
    spec.seed = terrain.value()->recipe.seed;
    spec.progress = [](double share) { showProgress(share, "mesh"); };
    const AuditRow row = auditMesh(spec, stop);
    if (row.stopped)
        return kStopped;
    showProgress(1, "mesh");
    if (arguments.world.json)
        std::cout << nlohmann::ordered_json{{"rows",
                                                {{{"audit", row.audit}, {"cases", row.cases},
                                                    {"differences", row.differences}, {"first", row.first}}}}}
                         .dump(2)
                  << "\n";
    else
        std::cout << row.audit << ": " << row.cases << " cases, " << row.differences << " differences"
                  << (row.first.empty() ? "" : "; the first: " + row.first) << "\n";
    return row.differences == 0 ? kDone : kDoesNotHold;
}

} // namespace

Run addAudit(CLI::App& parser)
{
    auto* command
        = parser.add_subcommand("audit", "the slow plain way against the live one; exit code 1 where they differ");
    auto arguments = std::make_shared<Arguments>();
    addWorldOptions(*command, arguments->world);
    command->add_option("audits", arguments->audits, "which: mesh")->capture_default_str()->delimiter(',');
    command->add_option("--cases", arguments->cases, "how many random neighbourhoods")->capture_default_str();
    return [arguments](const std::stop_token& stop) { return run(*arguments, stop); };
}

} // namespace fell::cli
