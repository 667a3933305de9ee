// SPDX-License-Identifier: Apache-2.0
// Finding setups on the disk.
#include <fell/setup/setup.h>

#include <fell/input/nearest.h>
#include <fell/input/text_file.h>

#include <algorithm>

namespace fs = std::filesystem;

namespace fell::setup {

namespace {

/// `depth`: how many setups have named the next one as their base.
Outcome<Setup> findBased(const std::string& nameOrFile, const fs::path& folder, int depth)
{
    constexpr int kDeepest = 8;
    if (depth > kDeepest)
        return Problem{"", "", "there are more than 8 bases, one on the other; does one lead back to itself?"};
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
        return Problem{"--setup " + nameOrFile, "",
            "there is neither a file nor a setup of this name; " + allowedNames(nameOrFile, names)};
    }
    const auto text = readFile(file);
    if (!text)
        return text.problem();
    return parseSetup(text.value(), file.string(), [&](const std::string& base) {
        const fs::path sibling = file.parent_path() / base; // a file next to this one comes before a name
        std::error_code none;
        return findBased(fs::is_regular_file(sibling, none) ? sibling.string() : base, folder, depth + 1);
    });
}

} // namespace

Outcome<Setup> findSetup(const std::string& nameOrFile, const fs::path& folder)
{
    return findBased(nameOrFile, folder, 0);
}

std::vector<std::string> useMesher(Setup& setup, const Mesher& mesher)
{
    std::vector<std::string> said;
    const auto say = [&said, &mesher](const std::string& now, const char* why) {
        said.push_back(now + ", because " + mesher.id + " " + why);
    };
    setup.mesh.mesher = mesher.id;
    if (!mesher.traits.takesOcclusion && setup.mesh.ambientOcclusion != "none") {
        setup.mesh.ambientOcclusion = "none";
        say("mesh.shade=none", "ignores ambient occlusion");
    }
    if (!mesher.traits.takesSeams && hasLevels(setup.lod)) {
        setup.lod.scheme = "off";
        say("lod.scheme=off", "has no seams between levels of detail");
    }
    if (!mesher.traits.keepsCubes && std::erase(setup.cull.steps, "hidden") > 0)
        say("cull.steps without hidden", "cuts cubes, so that what is behind one shows");
    return said;
}

} // namespace fell::setup
