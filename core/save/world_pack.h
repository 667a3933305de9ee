// SPDX-License-Identifier: Apache-2.0
// The files that belong to a world's blocks and heights, so that one file can carry all of them.
#pragma once

#include <fell/terrain/recipe.h>

#include <filesystem>
#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace fell::save {

/// A file and the name that it has in the pack: relative, without "..".
struct PackedFile {
    std::string name;
    std::filesystem::path from;
};

/// What a pack takes along.
struct PackList {
    std::vector<PackedFile> files;
    std::string folder; // of the block set, among the names: "" or "corrowdale"
};

/// The textures and models of a block set that can be read, and what the models name in their turn (buffers, material
/// libraries). Names keep how the files lie to each other.
PackList blockFilesOf(const BlockSet& blocks);

constexpr std::uint64_t kMaxPackedBytes = std::uint64_t{1} << 30; // of all files of a pack together, unpacked
constexpr std::size_t kMaxPackedFiles = 4096;

/// May a packed file have this name? Relative, 1 to 400 bytes, no "..", no empty part, nothing that does not print.
bool isPackedName(const std::string& name);

/// Writes one file of a pack into the folder that the pack is unpacked to.
/// Errors  a name that isPackedName refuses; cannot be written.
std::optional<Problem> putPacked(
    const std::filesystem::path& folder, const std::string& name, const std::string& bytes);

} // namespace fell::save
