// SPDX-License-Identifier: Apache-2.0
#include <fell/exchange/export_mesh.h>

#include <algorithm>
#include <array>
#include <charconv>

namespace fell::exchange {
namespace {

void append(std::string& out, float value)
{
    std::array<char, 32> text{};
    const auto end = std::to_chars(text.data(), text.data() + text.size(), value + 0.0f); // no "-0"
    out.append(text.data(), end.ptr);
}

void appendLine(std::string& out, const char* key, std::initializer_list<float> values)
{
    out += key;
    for (const float value : values) {
        out += ' ';
        append(out, value);
    }
    out += '\n';
}

/// A name without what ends it in OBJ.
std::string plainName(std::string name)
{
    std::replace_if(
        name.begin(), name.end(), [](unsigned char c) { return c <= ' ' || c == '#'; }, '-');
    return name;
}

} // namespace

ExportFile toObj(const BoxSurface& surface, const Recipe& recipe, const std::string& materialFile)
{
    const std::vector<ExportPart> parts = exportParts(surface, recipe.blocks);
    ExportFile file;
    file.count = countOf(parts);
    std::string& out = file.bytes;
    std::string title = recipe.name; // a line break in it would start a new statement
    std::replace_if(
        title.begin(), title.end(), [](unsigned char c) { return c < ' '; }, ' ');
    out = "# one box of " + title + ", in voxels from its lower corner, y up\nmtllib " + plainName(materialFile) + "\n";
    std::uint32_t first = 1;
    for (const ExportPart& part : parts) {
        const std::string name = plainName(part.name);
        file.materials += "newmtl " + name + "\n";
        appendLine(file.materials, "Kd",
            {static_cast<float>(part.colour.r) / 255, static_cast<float>(part.colour.g) / 255,
                static_cast<float>(part.colour.b) / 255});
        appendLine(file.materials, "d", {part.opacity});
        out += "usemtl " + name + "\n";
        for (const ExportVertex& v : part.vertices) {
            appendLine(out, "v", {v.place.x, v.place.y, v.place.z});
            appendLine(out, "vt", {v.uv[0], -v.uv[1]}); // v points up in OBJ
            appendLine(out, "vn", {v.normal.x, v.normal.y, v.normal.z});
        }
        for (std::size_t i = 0; i < part.indices.size(); ++i) {
            const std::string at = std::to_string(first + part.indices[i]);
            out += (i % 3 == 0 ? "f " : " ") + at + "/" + at + "/" + at + (i % 3 == 2 ? "\n" : "");
        }
        first += static_cast<std::uint32_t>(part.vertices.size());
    }
    file.count.bytes = out.size();
    if (std::any_of(parts.begin(), parts.end(), [](const ExportPart& part) { return !part.texture.empty(); }))
        file.leftOut.emplace_back("OBJ embeds no textures: its materials have the blocks' colours");
    return file;
}

} // namespace fell::exchange
