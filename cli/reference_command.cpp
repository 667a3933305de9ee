// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "common.h"
#include "reference_text.h"
#include <fell/input/text_file.h>

#include <iostream>

namespace fell::cli {
namespace {

int runReference(const CLI::App& parser, const std::filesystem::path& folder)
{
    for (const ReferencePage& page : referencePages(parser)) {
        const std::filesystem::path file = folder / page.file;
        if (const auto problem = makeFolder(file.parent_path()))
            return fail(*problem, kCannotWrite);
        if (const auto problem = writeFile(file, page.text))
            return fail(*problem, kCannotWrite);
        std::cout << file.string() << "\n";
    }
    return kDone;
}

} // namespace

Run addReference(CLI::App& parser)
{
    auto* command = parser.add_subcommand(
        "reference", "write the reference from the program: commands, settings, manual page, shell completions");
    auto out = std::make_shared<std::string>();
    command->add_option("--out", *out, "the folder that gets reference/, man/ and completions/")->required();
    return [&parser, out](const std::stop_token&) { return runReference(parser, *out); };
}

} // namespace fell::cli
