// SPDX-License-Identifier: Apache-2.0
// What a world file says of its recipe, blocks and files, as it is stored. Private to save/.
#pragma once

#include <fell/save/world_file.h>
#include <fell/save/world_pack.h>

#include <nlohmann/json_fwd.hpp>

#include <vector>

namespace fell::save {

/// Does a recipe name a height map?
bool hasMapFile(const nlohmann::ordered_json& recipe);

/// A header as the file has it: with paths relative to it, and what is packed.
struct StoredHeader {
    WorldHeader header;
    std::vector<PackedFile> files;
};

/// `pack`: the files that the header names become part of the world file. Reads them whole then.
/// Units   paths are relative to the folder of `file`.
StoredHeader storedFor(const std::filesystem::path& file, const WorldHeader& header, const Recipe& recipe, bool pack);

/// How many block types a block set has, air included, without reading its models; 0 where it is none, which recipeOf
/// tells.
std::size_t typesIn(const std::string& blocks);

} // namespace fell::save
