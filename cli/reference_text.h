// SPDX-License-Identifier: Apache-2.0
// The reference of fell-cli, made from its parser and from the tables of settings and methods: documents, a manual page
// and completions cannot say something else than the program.
#pragma once

#include <fell/namespaces.h>

#include <CLI/CLI.hpp>

#include <string>
#include <vector>

namespace fell::cli {

struct OptionText {
    std::string names; // "--world"; of a positional argument its name in capitals
    std::string value; // "TEXT"; empty for a flag
    std::string note, standard; // what it does; the value where it is not given, or nothing
    bool isPositional = false, isRequired = false;
    std::vector<std::string> choices; // values to complete; empty where anything may follow
};

struct CommandText {
    std::string path; // "world pack"
    std::string note;
    std::vector<OptionText> options; // without --help and --quiet, which all have
    std::vector<std::string> below; // names of the commands under it
};

/// Every command of `parser`, each before those below it, without the parser itself.
std::vector<CommandText> commandTexts(const CLI::App& parser);

/// One file of the reference.
struct ReferencePage {
    std::string file; // relative to the folder of the documents
    std::string text;
};
/// docs/reference/commands.md and settings.md, the manual page, and completions for bash, zsh and fish.
std::vector<ReferencePage> referencePages(const CLI::App& parser);

/// The table of stages and their methods, as the README shows it.
std::string methodTable();

std::string bashCompletion(const std::vector<CommandText>& commands);
std::string zshCompletion(const std::vector<CommandText>& commands);
std::string fishCompletion(const std::vector<CommandText>& commands);

} // namespace fell::cli
