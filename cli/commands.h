// SPDX-License-Identifier: Apache-2.0
// One function a command: adds its arguments to the parser; the returned function runs it and gives the exit code.
#pragma once

#include <fell/namespaces.h>

#include <CLI/CLI.hpp>

#include <functional>
#include <stop_token>

namespace fell::cli {

using Run = std::function<int(const std::stop_token&)>;

Run addStages(CLI::App& parser);
Run addMesh(CLI::App& parser);
Run addTransect(CLI::App& parser);
Run addReach(CLI::App& parser);
Run addTrust(CLI::App& parser);
Run addGate(CLI::App& parser);
Run addLedger(CLI::App& parser);
Run addExport(CLI::App& parser);
Run addPicture(CLI::App& parser);
Run addFly(CLI::App& parser);
Run addStore(CLI::App& parser);
Run addLight(CLI::App& parser);
Run addAudit(CLI::App& parser);
Run addWorld(CLI::App& parser);
Run addRecipe(CLI::App& parser);
Run addWhy(CLI::App& parser);
Run addMethod(CLI::App& parser);
Run addDuel(CLI::App& parser);
Run addReference(CLI::App& parser);

} // namespace fell::cli
