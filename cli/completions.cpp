// SPDX-License-Identifier: Apache-2.0
// Completions for three shells, from the texts of the commands.
#include "reference_text.h"

#include <map>

namespace fell::cli {
namespace {

constexpr const char* kMade = "# fell-cli reference writes this file from the program; do not edit it.\n";

/// In single quotes, for any of the three shells.
std::string quoted(const std::string& text, bool isFish)
{
    std::string out = "'";
    for (const char letter : text)
        out += letter != '\'' ? std::string(1, letter) : isFish ? "\\'" : "'\\''";
    return out + "'";
}

std::string spaced(const std::vector<std::string>& parts)
{
    std::string out;
    for (const std::string& part : parts)
        out += (out.empty() ? "" : " ") + part;
    return out;
}

std::vector<std::string> optionNames(const CommandText& command)
{
    std::vector<std::string> names;
    for (const OptionText& option : command.options)
        if (!option.isPositional)
            names.push_back(option.names);
    names.insert(names.end(), {"--help", "--quiet"});
    return names;
}

/// The values of each option that has some; an option means the same in every command.
std::map<std::string, std::vector<std::string>> valuesOf(const std::vector<CommandText>& commands)
{
    std::map<std::string, std::vector<std::string>> out;
    for (const CommandText& command : commands)
        for (const OptionText& option : command.options)
            if (!option.choices.empty())
                out[option.names] = option.choices;
    return out;
}

std::string firstCommands(const std::vector<CommandText>& commands)
{
    std::vector<std::string> names;
    for (const CommandText& command : commands)
        if (command.path.find(' ') == std::string::npos)
            names.push_back(command.path);
    return spaced(names);
}

/// The two tables that bash and zsh read alike: the names that may follow a command, and the values of an option.
std::string tables(const std::vector<CommandText>& commands)
{
    std::string out
        = "    case $path in\n    '') below='" + firstCommands(commands) + "' options='--help --version' ;;\n";
    for (const CommandText& command : commands)
        out += "    '" + command.path + "') below='" + spaced(command.below) + "' options='"
            + spaced(optionNames(command)) + "' ;;\n";
    out += "    esac\n    case $before in\n";
    for (const auto& [option, values] : valuesOf(commands))
        out += "    " + option + ") values=" + quoted(spaced(values), false) + " ;;\n";
    return out + "    esac\n";
}

} // namespace

std::string bashCompletion(const std::vector<CommandText>& commands)
{
    std::string known;
    for (const CommandText& command : commands)
        known += (known.empty() ? "'" : "|'") + command.path + "'";
    return std::string("# bash completion of fell-cli\n") + kMade
        + "_fell_cli() {\n"
          "    # Split at spaces alone: bash would split at = and : too.\n"
          "    local line=${COMP_LINE:0:COMP_POINT} path= below= options= values= current before i\n"
          "    local -a typed\n"
          "    read -ra typed <<<\"$line\"\n"
          "    [[ $line == *' ' ]] && typed+=('')\n"
          "    current=${typed[-1]} before=${typed[-2]}\n"
          "    for ((i = 1; i < ${#typed[@]} - 1; i++)); do\n"
          "        case ${path:+$path }${typed[i]} in "
        + known + ") path=${path:+$path }${typed[i]} ;; esac\n    done\n" + tables(commands)
        + "    if [[ -n $values ]]; then\n"
          "        mapfile -t COMPREPLY < <(compgen -W \"$values\" -- \"$current\")\n"
          "    elif [[ $current == -* ]]; then\n"
          "        mapfile -t COMPREPLY < <(compgen -W \"$options\" -- \"$current\")\n"
          "    else\n"
          "        mapfile -t COMPREPLY < <(compgen -W \"$below\" -- \"$current\")\n"
          "    fi\n"
          "    [[ ${#COMPREPLY[@]} -eq 1 && ${COMPREPLY[0]} == *= ]] && compopt -o nospace 2>/dev/null\n"
          "    # Only what is behind the last = is replaced.\n"
          "    if [[ $current == *=* && $COMP_WORDBREAKS == *=* ]]; then\n"
          "        COMPREPLY=(\"${COMPREPLY[@]#\"${current%\"${current##*=}\"}\"}\")\n"
          "    fi\n"
          "}\n"
          "complete -o default -F _fell_cli fell-cli\n";
}

std::string zshCompletion(const std::vector<CommandText>& commands)
{
    std::string known;
    for (const CommandText& command : commands)
        known += (known.empty() ? "'" : "|'") + command.path + "'";
    return std::string("#compdef fell-cli\n") + kMade
        + "_fell_cli() {\n"
          "    local path='' below='' options='' values='' current=${words[CURRENT]} before=${words[CURRENT-1]} i\n"
          "    for ((i = 2; i < CURRENT; i++)); do\n"
          "        case ${path:+$path }${words[i]} in "
        + "(" + known + ") path=${path:+$path }${words[i]} ;; esac\n    done\n" + tables(commands)
        + "    if [[ -n $values ]]; then\n"
          "        compadd -- ${(s: :)values}\n"
          "    elif [[ $current == -* ]]; then\n"
          "        compadd -- ${(s: :)options}\n"
          "    elif [[ -n $below ]]; then\n"
          "        compadd -- ${(s: :)below}\n"
          "    else\n"
          "        _files\n"
          "    fi\n"
          "}\n"
          "(( ${+functions[compdef]} )) && compdef _fell_cli fell-cli\n";
}

std::string fishCompletion(const std::vector<CommandText>& commands)
{
    std::string out = std::string("# fish completion of fell-cli\n") + kMade
        + "function __fell_cli_at\n"
          "    set -l typed (commandline -opc)[2..]\n"
          "    set -l path\n"
          "    for word in $typed\n"
          "        string match -q -- '-*' $word; and break\n"
          "        set -a path $word\n"
          "    end\n"
          "    string match -q -- \"$argv[1]\" \"$path\"; or string match -q -- \"$argv[1] *\" \"$path\"\n"
          "end\n"
          "function __fell_cli_begins\n"
          "    test (count (commandline -opc)) -eq 1\n"
          "end\n";
    for (const CommandText& command : commands)
        if (command.path.find(' ') == std::string::npos)
            out += "complete -c fell-cli -f -n __fell_cli_begins -a " + command.path + " -d "
                + quoted(command.note, true) + "\n";
        else
            out += "complete -c fell-cli -f -n '__fell_cli_at \"" + command.path.substr(0, command.path.rfind(' '))
                + "\"' -a " + command.path.substr(command.path.rfind(' ') + 1) + " -d " + quoted(command.note, true)
                + "\n";
    for (const CommandText& command : commands)
        for (const OptionText& option : command.options) {
            if (option.isPositional)
                continue;
            out += "complete -c fell-cli -n '__fell_cli_at \"" + command.path + "\"' -l " + option.names.substr(2)
                + (option.value.empty() ? "" : " -r")
                + (option.choices.empty() ? "" : " -a " + quoted(spaced(option.choices), true)) + " -d "
                + quoted(option.note, true) + "\n";
        }
    return out;
}

} // namespace fell::cli
