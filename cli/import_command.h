// SPDX-License-Identifier: Apache-2.0
// fell-cli world import.
#pragma once

#include <fell/namespaces.h>

#include "common.h"

namespace fell::cli {

struct ImportArguments {
    std::string in, out, like = "corrowdale", heights = "0,255", material, ids, at = "0,0,0";
    double metres = 1;
    std::optional<double> threshold;
    bool json = false;
    CLI::App* command = nullptr; // that they are of
};

void addImportOptions(CLI::App& command, ImportArguments& arguments);
/// Heights stand in a file next to the world's, of the same name with .heights. Nothing half-made is left.
int importWorld(const ImportArguments& arguments, const std::stop_token& stop);

} // namespace fell::cli
