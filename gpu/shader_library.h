// SPDX-License-Identifier: Apache-2.0
// The texts of gpu/shaders put together and linked.
#pragma once

#include <fell/input/problem.h>

#include <filesystem>
#include <map>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace fell::gpu {

/// A file of gpu/shaders as it was when this was built.
struct ShaderText {
    const char* name; // "terrain.vert.glsl"
    const char* text;
};
std::span<const ShaderText> shaderTexts(); // made by CMake

/// The folder that FELL_SHADERS names; empty: shaders are those that were built in.
std::filesystem::path shaderFolder();
/// Does the folder have every shader? Errors: the first that is missing.
std::optional<Problem> checkShaderFolder(const std::filesystem::path& folder);
/// Writes the shaders that were built in. Errors: one of the files is there already, then nothing is written; or the
/// folder cannot be written to.
std::optional<Problem> writeShaders(const std::filesystem::path& folder);

enum class ShaderStage { Vertex, Fragment, Compute };

/// What a program is made of.
struct ProgramSource {
    std::string label;
    std::vector<std::pair<ShaderStage, std::string>> stages; // files
    std::string defines; // lines before every stage
    /// Files that are included in place of others: one paint mode in place of another.
    std::map<std::string, std::string> inPlaceOf{};
};

/// A class because it remembers where its texts come from.
class ShaderLibrary {
public:
    /// From the files of the folder that FELL_SHADERS names, read again for each program, so that a shader can be
    /// worked on while the program runs; else as they were built in.
    ShaderLibrary();
    explicit ShaderLibrary(std::filesystem::path folder)
        : m_folder(std::move(folder))
    {
    }

    /// A file with everything that it includes, each once, and #line before each change of file: source number i is the
    /// i-th of `files`.
    /// Errors  a file that is missing, or includes itself.
    [[nodiscard]] Outcome<std::string> expanded(const std::string& file,
        const std::map<std::string, std::string>& inPlaceOf, std::vector<std::string>& files) const;

    /// Compiles and links for OpenGL 4.5 core. Returns the program's OpenGL name, which the caller deletes.
    /// Errors  what the driver's compiler says, with the names of files in place of their numbers.
    [[nodiscard]] Outcome<unsigned> link(const ProgramSource& source) const;

private:
    [[nodiscard]] Outcome<std::string> text(const std::string& file) const;
    [[nodiscard]] std::optional<Problem> append(const std::string& file,
        const std::map<std::string, std::string>& inPlaceOf, std::vector<std::string>& open,
        std::vector<std::string>& files, std::string& out) const;
    std::filesystem::path m_folder; // empty: those of the binary
};

} // namespace fell::gpu
