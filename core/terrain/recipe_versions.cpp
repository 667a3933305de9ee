// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/recipe_versions.h>

#include <nlohmann/json.hpp>

namespace fell::terrain {
namespace {

void fromVersion1(nlohmann::ordered_json& recipe, std::vector<std::string>& said)
{
    recipe["version"] = 2;
    said.emplace_back("/version: 1 is 2 now");
    const nlohmann::ordered_json::json_pointer layers("/height/layers");
    if (!recipe.contains(layers) || !recipe[layers].is_array())
        return;
    std::size_t i = 0;
    for (nlohmann::ordered_json& layer : recipe[layers]) {
        if (layer.is_object() && layer.contains("kind") && layer["kind"] == "ridges") {
            layer["kind"] = "least";
            said.push_back("/height/layers/" + std::to_string(i)
                + "/kind: \"ridges\" is called \"least\" now, the least of two noises");
        }
        ++i;
    }
}

} // namespace

std::vector<std::string> bringUpToDate(nlohmann::ordered_json& recipe)
{
    std::vector<std::string> said;
    if (recipe.is_object() && recipe.contains("format") && recipe["format"] == "fell-recipe"
        && recipe.contains("version") && recipe["version"] == 1)
        fromVersion1(recipe, said);
    return said;
}

} // namespace fell::terrain
