// SPDX-License-Identifier: Apache-2.0
// Finding recipes on the disk; recipe_json.cpp reads their text.
#include <fell/terrain/recipe.h>

#include <fell/assets/block_set_file.h>
#include <fell/input/json_reader.h>
#include <fell/input/nearest.h>
#include <fell/input/text_file.h>

#include <algorithm>

namespace fs = std::filesystem;

namespace fell::terrain {

std::optional<std::int64_t> topOf(const Pattern& pattern)
{
    if (pattern.kind == Pattern::Kind::Level)
        return 0;
    if (pattern.kind != Pattern::Kind::Built)
        return std::nullopt;
    std::int64_t top = pattern.top;
    for (const Pattern::Box& box : pattern.boxes)
        if (box.material != kOpen)
            top = std::max<std::int64_t>(top, box.high[1]);
    return top;
}

Outcome<Recipe> loadRecipe(const fs::path& file)
{
    const auto text = readFile(file);
    if (!text)
        return text.problem();
    const auto besides = [&file](const std::string& name) -> Outcome<BlockSet> {
        const fs::path path = file.parent_path() / name;
        const auto blocks = readFile(path);
        if (!blocks)
            return blocks.problem();
        return parseBlockSet(
            blocks.value(), path.string(), path.has_parent_path() ? path.parent_path() : fs::path("."));
    };
    return parseRecipe(text.value(), file.string(), besides);
}

Outcome<Recipe> findWorld(const std::string& world, const fs::path& demos)
{
    std::error_code error;
    const bool plainName = world.find('/') == std::string::npos && !world.empty();
    if (plainName && fs::exists(demos / world / "recipe.json", error))
        return loadRecipe(demos / world / "recipe.json");
    if (fs::exists(world, error))
        return loadRecipe(world);
    std::vector<std::string> names;
    for (const auto& entry : fs::directory_iterator(demos, error))
        if (fs::exists(entry.path() / "recipe.json", error))
            names.push_back(entry.path().filename().string());
    std::sort(names.begin(), names.end());
    return Problem{
        "--world " + world, "", "there is neither a file nor a demo of this name; " + allowedNames(world, names)};
}

} // namespace fell::terrain
