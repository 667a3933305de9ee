// SPDX-License-Identifier: Apache-2.0
#include <fell/save/world_pack.h>

#include <fell/input/json_reader.h>
#include <fell/input/text_file.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cstdlib>
#include <fstream>
#include <set>
#include <sstream>

namespace fell::save {
namespace {

namespace fs = std::filesystem;

bool isRegular(const fs::path& file)
{
    std::error_code error;
    return fs::is_regular_file(file, error);
}

/// What a model's file names next to it.
std::vector<std::string> namedBy(const fs::path& model)
{
    std::vector<std::string> out;
    const auto text = readFile(model);
    if (!text)
        return out;
    if (model.extension() == ".gltf") {
        const auto root = parseJson(text.value(), model.string());
        if (!root || !root.value().is_object())
            return out;
        for (const char* list : {"buffers", "images"})
            if (root.value().contains(list) && root.value()[list].is_array())
                for (const auto& one : root.value()[list])
                    if (one.is_object() && one.contains("uri") && one["uri"].is_string())
                        if (const auto uri = one["uri"].get<std::string>(); uri.rfind("data:", 0) != 0)
                            out.push_back(uri);
    } else if (model.extension() == ".obj") {
        std::istringstream lines(text.value());
        std::string line;
        while (std::getline(lines, line))
            if (line.rfind("mtllib ", 0) == 0) {
                const std::size_t end = line.find_last_not_of(" \r\t");
                out.push_back(line.substr(7, end - 6));
            }
    }
    return out;
}

/// The part that two folders share.
fs::path sharedPart(const fs::path& a, const fs::path& b)
{
    fs::path out;
    for (auto i = a.begin(), j = b.begin(); i != a.end() && j != b.end() && *i == *j; ++i, ++j)
        out /= *i;
    return out;
}

} // namespace

PackList blockFilesOf(const BlockSet& blocks)
{
    PackList out;
    if (blocks.folder.empty())
        return out;
    std::error_code error;
    const fs::path folder = fs::absolute(blocks.folder, error).lexically_normal();
    std::set<fs::path> files;
    const auto add = [&files](const fs::path& file) {
        const fs::path plain = file.lexically_normal();
        return isRegular(plain) && files.insert(plain).second;
    };
    for (const BlockKind& kind : blocks.kinds) {
        for (const std::string& texture : kind.textures)
            if (!texture.empty())
                add(folder / texture);
        const bool isModel = kind.shape && kind.shapeName.find('.') != std::string::npos;
        if (isModel && add(folder / kind.shapeName))
            for (const std::string& named : namedBy((folder / kind.shapeName).lexically_normal()))
                add((folder / kind.shapeName).parent_path() / named);
    }
    if (files.empty())
        return out;
    fs::path root = folder;
    for (const fs::path& file : files)
        root = sharedPart(root, file.parent_path());
    for (const fs::path& file : files)
        out.files.push_back({file.lexically_relative(root).generic_string(), file});
    const std::string within = folder.lexically_relative(root).generic_string();
    out.folder = within == "." ? "" : within;
    return out;
}

bool isPackedName(const std::string& name)
{
    if (name.empty() || name.size() > 400 || name.front() == '/')
        return false;
    if (std::any_of(name.begin(), name.end(), [](unsigned char c) { return c < ' ' || c == 127 || c == '\\'; }))
        return false;
    std::istringstream parts(name + "/");
    std::string part;
    while (std::getline(parts, part, '/'))
        if (part.empty() || part == "." || part == "..")
            return false;
    return true;
}

std::optional<Problem> putPacked(const fs::path& folder, const std::string& name, const std::string& bytes)
{
    if (!isPackedName(name))
        return Problem{"a packed file", "", "has a name that leads out of the world: it is refused"};
    std::error_code error;
    fs::create_directories((folder / name).parent_path(), error);
    // Not flushed to the disk: the file is temporary, and worlds are opened often.
    std::ofstream out(folder / name, std::ios::binary | std::ios::trunc);
    out.write(bytes.data(), static_cast<std::streamsize>(bytes.size()));
    out.close();
    if (!out)
        return Problem{(folder / name).string(), "",
            "cannot be written, there is no space for temporary files: free some, or set TMPDIR"};
    return std::nullopt;
}

} // namespace fell::save
