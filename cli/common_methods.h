// SPDX-License-Identifier: Apache-2.0
// The template of common.h.
#pragma once

#include <fell/input/json_reader.h>
#include <fell/input/nearest.h>

namespace fell::cli {

template <typename Method>
Outcome<std::vector<const Method*>> chooseMethods(
    const std::string& option, const std::string& text, std::span<const Method> table)
{
    std::vector<const Method*> chosen;
    for (const std::string& id : splitList(text)) {
        const auto found = std::find_if(table.begin(), table.end(), [&id](const Method& m) { return m.id == id; });
        if (found == table.end()) {
            std::vector<std::string> known;
            for (const Method& method : table)
                known.emplace_back(method.id);
            return Problem{std::string(option).append(" ").append(text), "",
                std::string("\"").append(id).append("\" is not known, ").append(allowedNames(id, known))};
        }
        chosen.push_back(&*found);
    }
    return chosen;
}

} // namespace fell::cli
