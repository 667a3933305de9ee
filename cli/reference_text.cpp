// SPDX-License-Identifier: Apache-2.0
#include "reference_text.h"

#include "common.h"
#include <fell/setup/stages.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <map>

namespace fell::cli {
namespace {

std::vector<std::string> namesIn(const std::filesystem::path& folder)
{
    std::vector<std::string> names;
    std::error_code error;
    for (const auto& entry : std::filesystem::directory_iterator(folder, error))
        if (entry.path().extension() == ".json")
            names.push_back(entry.path().stem().string());
    std::sort(names.begin(), names.end());
    return names;
}

std::vector<std::string> worldNames()
{
    std::vector<std::string> names;
    std::error_code error;
    for (const auto& entry : std::filesystem::directory_iterator(demoFolder(), error))
        if (std::filesystem::exists(entry.path() / "recipe.json", error))
            names.push_back(entry.path().filename().string());
    std::sort(names.begin(), names.end());
    return names;
}

/// "path=value" of every choice, "path=" of every number.
std::vector<std::string> assignments()
{
    std::vector<std::string> out;
    for (const SetupField& field : setupFields())
        if (field.allowed.empty())
            out.push_back(field.path + "=");
        else
            for (const std::string& value : field.allowed)
                out.push_back(field.path + "=" + value);
    return out;
}

/// What can follow an option of this name, whichever command it belongs to.
std::vector<std::string> choicesOf(const std::string& option)
{
    static const std::map<std::string, std::vector<std::string>> kChoices = [] {
        std::map<std::string, std::vector<std::string>> all{{"--world", worldNames()}, {"--like", worldNames()},
            {"--setup", namesIn(demoFolder() / "setups")}, {"--route", namesIn(demoFolder() / "routes")},
            {"--set", assignments()}};
        for (const char* same : {"--a", "--b", "--vary"})
            all[same] = all["--set"];
        for (const auto& [name, path] : {std::pair("--mesher", "mesh.mesher"), std::pair("--layout", "mesh.layout"),
                 std::pair("--form", "store.form")})
            if (const SetupField* field = findField(path))
                all[name] = field->allowed;
        return all;
    }();
    const auto found = kChoices.find(option);
    return found == kChoices.end() ? std::vector<std::string>{} : found->second;
}

OptionText textOf(const CLI::Option& option)
{
    OptionText out;
    out.isPositional = !option.nonpositional();
    out.isRequired = option.get_required();
    out.names = out.isPositional ? option.get_name(true) : option.get_name(false, true);
    if (out.isPositional)
        std::transform(out.names.begin(), out.names.end(), out.names.begin(),
            [](unsigned char letter) { return static_cast<char>(std::toupper(letter)); });
    out.names = out.names.substr(0, out.names.find('{')); // "--no-audit{false}"
    out.note = option.get_description();
    if (option.get_items_expected_max() > 0) {
        out.value = option.get_type_name();
        // "INT:INT in [1 - 50]" says its type twice.
        if (const std::size_t colon = out.value.find(':'); colon != std::string::npos)
            out.value = out.value.substr(colon + 1);
        out.standard = option.get_default_str();
    }
    out.choices = choicesOf(out.names);
    return out;
}

void addCommands(const CLI::App& app, const std::string& path, std::vector<CommandText>& out)
{
    for (const CLI::App* command : app.get_subcommands({})) {
        CommandText text;
        text.path = path.empty() ? command->get_name() : path + " " + command->get_name();
        text.note = command->get_description();
        text.note[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(text.note[0])));
        for (const CLI::Option* option : command->get_options())
            if (const std::string name = option->get_name(); name != "--help" && name != "--quiet")
                text.options.push_back(textOf(*option));
        std::stable_sort(text.options.begin(), text.options.end(),
            [](const OptionText& a, const OptionText& b) { return a.isPositional > b.isPositional; });
        for (const CLI::App* below : command->get_subcommands({}))
            text.below.push_back(below->get_name());
        const std::string here = text.path;
        out.push_back(std::move(text));
        addCommands(*command, here, out);
    }
}

/// For a cell of a table.
std::string cell(std::string text)
{
    for (std::size_t at = 0; (at = text.find_first_of("|<", at)) != std::string::npos; at += 2)
        text.insert(at, "\\");
    return text;
}

std::string joined(const std::vector<std::string>& parts, const std::string& between)
{
    std::string out;
    for (const std::string& part : parts)
        out += (out.empty() ? "" : between) + part;
    return out;
}

std::string usage(const CommandText& command)
{
    std::string out = "fell-cli " + command.path;
    for (const OptionText& option : command.options)
        if (option.isPositional)
            out += " " + (option.isRequired ? option.names : "[" + option.names + "]");
    if (!command.below.empty())
        out += " COMMAND";
    for (const OptionText& option : command.options)
        if (option.isRequired && !option.isPositional)
            out += " " + option.names + " ...";
    return out;
}

std::string commandsPage(const std::vector<CommandText>& commands)
{
    std::string out
        = "# Commands and their options\n\n"
          "`fell-cli reference` writes this page from the program; do not edit it. [The command line](cli.md) "
          "has examples and exit codes, [settings](settings.md) what `--set` takes. Every command also takes "
          "`--help` and `--quiet`.\n";
    for (const CommandText& command : commands) {
        out += "\n## " + command.path + "\n`" + usage(command) + "`\n\n" + command.note + ".\n";
        if (!command.below.empty())
            out += "Commands below it: " + joined(command.below, ", ") + ".\n";
        if (command.options.empty())
            continue;
        out += "\n| option | value | meaning |\n| --- | --- | --- |\n";
        for (const OptionText& option : command.options)
            out += "| `" + option.names + "` | " + cell(option.value)
                + (option.standard.empty() ? "" : (option.value.empty() ? "`" : ", `") + option.standard + "`") + " | "
                + cell(option.note) + " |\n";
    }
    return out;
}

std::string settingsPage()
{
    std::string out
        = "# Settings of a setup\n\n"
          "`fell-cli reference` writes this page from the program; do not edit it. A setup file contains these "
          "settings as `{\"stream\": {\"distance\": 4}}`; on the command line one is `--set "
          "stream.distance=4`. A setting that is not given has its standard value.\n";
    const Setup standard;
    std::string group;
    for (const SetupField& field : setupFields()) {
        if (const std::string own = field.path.substr(0, field.path.find('.')); own != group) {
            group = own;
            out += "\n## " + group + "\n| setting | standard | allowed | meaning |\n| --- | --- | --- | --- |\n";
        }
        const nlohmann::json value = field.read(standard);
        const auto number = [](double of) { return nlohmann::json(of).dump(); };
        const auto whole = [](double of) { return std::to_string(static_cast<long>(of)); };
        const bool isWhole = field.kind == SetupField::Kind::Whole;
        const std::string range
            = isWhole ? whole(field.low) + " to " + whole(field.high) : number(field.low) + " to " + number(field.high);
        out += "| `" + field.path + "` | `"
            + (value.is_string()       ? value.get<std::string>()
                    : value.is_array() ? joined(value.get<std::vector<std::string>>(), ",")
                                       : value.dump())
            + "` | " + (field.allowed.empty() ? range : "`" + joined(field.allowed, "`, `") + "`")
            + (field.unit.empty() ? "" : " " + field.unit) + " | " + field.title + ": " + cell(field.note) + " |\n";
    }
    out += "\n# Methods\n";
    for (const Stage& stage : stages()) {
        out += "\n## " + stage.title + " (`" + stage.path + "`)\n" + stage.note
            + "\n\n| method | title | what it does |\n" + "| --- | --- | --- |\n";
        for (const StageMethod& method : stage.methods())
            out += "| `" + method.id + "` | " + cell(method.title) + " | " + cell(method.note) + " |\n";
    }
    return out;
}

/// Text for troff: no letter of it is a command.
std::string troff(const std::string& text)
{
    std::string out;
    for (const char letter : text)
        out += letter == '\\' ? "\\e" : letter == '-' ? "\\-" : std::string(1, letter);
    return out.empty() || (out[0] != '.' && out[0] != '\'') ? out : "\\&" + out;
}

std::string manualPage(const std::vector<CommandText>& commands)
{
    std::string out
        = ".\\\" fell-cli reference writes this page from the program; do not edit it.\n"
          ".TH FELL-CLI 1 \"\" \"Fell\" \"User Commands\"\n"
          ".SH NAME\nfell\\-cli \\- build voxel worlds and measure every stage of their pipeline\n"
          ".SH SYNOPSIS\n.B fell\\-cli\n.I COMMAND\n[\\fIOPTIONS\\fR]\n"
          ".SH DESCRIPTION\nResults go to standard output, everything else to standard error. A world, a setup or "
          "a route is a file, or the name of a demo. Every command also takes\n.B \\-\\-help\nand\n.BR "
          "\\-\\-quiet .\n.SH COMMANDS\n";
    for (const CommandText& command : commands) {
        out += ".SS \"" + troff(usage(command).substr(std::string("fell-cli ").size())) + "\"\n" + troff(command.note)
            + ".\n";
        for (const OptionText& option : command.options)
            out += ".TP\n.B \"" + troff(option.names)
                + (option.value.empty() ? "" : " \\fI" + troff(option.value) + "\\fB") + "\"\n" + troff(option.note)
                + (option.standard.empty() ? "" : " (standard: " + troff(option.standard) + ")") + "\n";
    }
    out += ".SH \"EXIT STATUS\"\n";
    for (const auto& [code, meaning] :
        {std::pair("0", "done"), std::pair("1", "done, and what was checked does not hold"),
            std::pair("2", "wrong arguments or input"), std::pair("3", "the machine lacks something"),
            std::pair("4", "out of space, or an output cannot be written"),
            std::pair("5", "the measurement is inconclusive"), std::pair("130", "stopped by Ctrl+C")})
        out += std::string(".TP\n.B ") + code + "\n" + meaning + "\n";
    return out
        + ".SH EXAMPLES\n.nf\nfell\\-cli mesh \\-\\-a mesh.mesher=exposed \\-\\-b mesh.mesher=greedy\\-bits\n"
          "fell\\-cli transect \\-\\-vary stream.distance=4,6,8 \\-\\-out results\n.fi\n.SH \"SEE ALSO\"\n.BR "
          "fell\\-app (1)\n";
}

} // namespace

std::vector<CommandText> commandTexts(const CLI::App& parser)
{
    std::vector<CommandText> out;
    addCommands(parser, "", out);
    return out;
}

std::string methodTable()
{
    std::string out = "| stage | setting | methods |\n| --- | --- | --- |\n";
    for (const Stage& stage : stages()) {
        std::vector<std::string> ids;
        for (const StageMethod& method : stage.methods())
            ids.push_back("`" + method.id + "`");
        out += "| " + stage.title + " | `" + stage.path + "` | " + joined(ids, ", ") + " |\n";
    }
    return out;
}

std::vector<ReferencePage> referencePages(const CLI::App& parser)
{
    const auto commands = commandTexts(parser);
    return {{"reference/commands.md", commandsPage(commands)}, {"reference/settings.md", settingsPage()},
        {"man/fell-cli.1", manualPage(commands)}, {"completions/fell-cli.bash", bashCompletion(commands)},
        {"completions/_fell-cli", zshCompletion(commands)}, {"completions/fell-cli.fish", fishCompletion(commands)}};
}

} // namespace fell::cli
