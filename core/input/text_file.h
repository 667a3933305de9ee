// SPDX-License-Identifier: Apache-2.0
// Whole files in and out. Writing goes to a neighbour first and is renamed, so that no half-written file is left.
#pragma once

#include <fell/input/problem.h>

#include <filesystem>
#include <optional>
#include <span>
#include <string>
#include <string_view>

namespace fell::input {

/// Reads a whole file. Errors: missing, a folder, unreadable, larger than `limit` bytes.
Outcome<std::string> readFile(const std::filesystem::path& path, std::size_t limit = 64u << 20);

/// Writes `bytes` to a temporary file in the same folder, flushes it to the disk and renames it over `path`. An
/// existing file keeps its permissions; of a symbolic link the target is replaced. To a character device or a pipe it
/// writes in place. Any thread. Errors: an empty name, the folder is missing or cannot be written, the disk is full,
/// nothing reads from the pipe. On an error a file `path` is as it was.
std::optional<Problem> writeFile(const std::filesystem::path& path, std::string_view bytes);

/// Says whether `writeFile(path)` could begin, before any work is done for it.
std::optional<Problem> checkWritable(const std::filesystem::path& path);
/// The same for a command that reads `inputs`: the output may be none of them, by whatever name. Empty inputs are
/// skipped.
std::optional<Problem> checkOutput(const std::filesystem::path& output, std::span<const std::filesystem::path> inputs);

/// Flushes the entries of a folder to the disk, so that a new or renamed file survives a power cut. False if it could
/// not.
bool syncFolder(const std::filesystem::path& folder);

/// Makes sure that `folder` exists and can be written to. Errors: it is a file, or it cannot be made.
std::optional<Problem> makeFolder(const std::filesystem::path& folder);

} // namespace fell::input
