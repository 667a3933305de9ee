// SPDX-License-Identifier: Apache-2.0
// Whole files in and out. Writing goes to a neighbour first and is renamed, so that no half-written file is left.
#pragma once

#include "input/problem.h"

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>

namespace fell {

/// Reads a whole file. Errors: missing, a folder, unreadable, larger than `limit` bytes.
Outcome<std::string> readFile(const std::filesystem::path& path, std::size_t limit = 64u << 20);

/// Writes `bytes` to a temporary neighbour, flushes it to the disk and renames it over `path`.
/// Errors: the folder is missing or cannot be written, the disk is full. On an error `path` is as it was.
std::optional<Problem> writeFile(const std::filesystem::path& path, std::string_view bytes);

/// Says whether `writeFile(path)` could begin, before any work is done for it.
std::optional<Problem> checkWritable(const std::filesystem::path& path);

/// Makes sure that `folder` exists and can be written to. Errors: it is a file, or it cannot be made.
std::optional<Problem> makeFolder(const std::filesystem::path& folder);

} // namespace fell
