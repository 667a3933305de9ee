// SPDX-License-Identifier: Apache-2.0
#include <fell/save/world_header.h>

#include <fell/assets/block_set_file.h>
#include <fell/input/json_reader.h>

#include <nlohmann/json.hpp>

namespace fell::save {

namespace fs = std::filesystem;

Outcome<Recipe> recipeOf(const WorldHeader& header, const std::string& where)
{
    auto recipe = parseRecipe(header.recipe, where, [&](const std::string& name) {
        return parseBlockSet(header.blocks, where + ", " + name, header.folder, header.root);
    });
    if (!recipe)
        return recipe.problem();
    Recipe out = recipe.take();
    out.blocks.unpacked = header.unpacked;
    out.seed = header.seed;
    return out;
}

Outcome<Recipe> findWorldOrFile(const std::string& world, const fs::path& demos)
{
    if (!isDatabase(world))
        return findWorld(world, demos);
    const auto file = WorldFile::open(world, WorldAccess::Read);
    return file ? recipeOf(file.value()->header(), world) : Outcome<Recipe>(file.problem());
}

bool hasMapFile(const nlohmann::ordered_json& recipe)
{
    return recipe.is_object() && recipe.contains("height") && recipe["height"].is_object()
        && recipe["height"].contains("map") && recipe["height"]["map"].is_object()
        && recipe["height"]["map"].contains("file") && recipe["height"]["map"]["file"].is_string();
}

StoredHeader storedFor(const fs::path& file, const WorldHeader& header, const Recipe& recipe, bool pack)
{
    StoredHeader out{header, {}};
    std::error_code error;
    const fs::path home = fs::absolute(file, error).parent_path().lexically_normal();
    PackList blocks = blockFilesOf(recipe.blocks);
    out.files = std::move(blocks.files);
    for (PackedFile& one : out.files)
        one.name = "blocks/" + one.name;
    const fs::path folder = fs::absolute(header.folder, error).lexically_normal().lexically_relative(home);
    if (!out.files.empty())
        out.header.folder = "packed:blocks" + (blocks.folder.empty() ? "" : "/" + blocks.folder);
    else // nothing to read there; one that lies elsewhere is of no use to the receiver of the file
        out.header.folder
            = header.folder.empty() || folder.empty() || *folder.begin() == ".." ? "" : folder.generic_string();
    auto document = parseOrderedJson(header.recipe, file.string());
    if (!document)
        return out;
    auto root = document.take();
    if (!hasMapFile(root))
        return out;
    auto& name = root["height"]["map"]["file"];
    const fs::path heights
        = fs::absolute(fs::path(header.folder) / name.get<std::string>(), error).lexically_normal(); // or absolute
    const fs::path relative = heights.lexically_relative(home);
    const bool isBeside = !relative.empty() && *relative.begin() != "..";
    if (isBeside && !pack) {
        name = relative.generic_string();
    } else if (fs::is_regular_file(heights, error)) {
        out.files.push_back({"heights/" + heights.filename().string(), heights});
        name = "packed:" + out.files.back().name;
    }
    out.header.recipe = root.dump(2);
    return out;
}

std::size_t typesIn(const std::string& blocks)
{
    const auto parsed = parseJson(blocks, "");
    if (!parsed || !parsed.value().is_object() || !parsed.value().contains("blocks"))
        return 0;
    std::size_t types = 1;
    for (const auto& block : parsed.value()["blocks"])
        types += block.is_object() && block.contains("turns") && block["turns"] == true ? 4 : 1;
    return types;
}

} // namespace fell::save
