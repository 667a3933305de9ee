// SPDX-License-Identifier: Apache-2.0
// Block sets read from JSON, with their models.
#pragma once

#include <fell/blocks/block_set.h>
#include <fell/input/json_reader.h>

namespace fell::assets {

/// The colour under `key`, as "#4F6B3A". Errors: reported to the reader, then black.
Rgb readColour(JsonReader& from, const char* key);

/// Reads a block set. A block with `turns` becomes four materials: name, name-90, name-180, name-270.
/// `where` names the source in errors. Models are looked for in `folder`; one that is missing or broken is replaced by
/// a stand-in and told in `warnings`. `root`: textures and models must lie in it, or are left out with a warning;
/// empty: anywhere.
/// Errors  one sentence with a JSON pointer.
Outcome<BlockSet> parseBlockSet(std::string_view json, const std::string& where,
    const std::filesystem::path& folder = {}, const std::filesystem::path& root = {});

} // namespace fell::assets
