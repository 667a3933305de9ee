// SPDX-License-Identifier: Apache-2.0
// Finding setups on the disk.
#include "setup/setup.h"

#include "input/json_reader.h"
#include "input/text_file.h"

#include <algorithm>

namespace fs = std::filesystem;

namespace fell {

Outcome<Setup> findSetup(const std::string& nameOrFile, const fs::path& folder)
{
    std::error_code error;
    const bool plainName = nameOrFile.find('/') == std::string::npos && !nameOrFile.empty();
    const fs::path named = folder / (nameOrFile + ".json");
    const fs::path file = plainName && fs::exists(named, error) ? named : fs::path(nameOrFile);
    if (!fs::exists(file, error)) {
        std::vector<std::string> names;
        for (const auto& entry : fs::directory_iterator(folder, error))
            if (entry.path().extension() == ".json")
                names.push_back(entry.path().stem().string());
        std::sort(names.begin(), names.end());
        return Problem{"--setup " + nameOrFile, "", "there is no such setup, allowed are a file or " + listOf(names)};
    }
    const auto text = readFile(file);
    if (!text)
        return text.problem();
    return parseSetup(text.value(), file.string());
}

} // namespace fell
