// SPDX-License-Identifier: Apache-2.0
// What the header of a fell-chunks says.
#include <fell/exchange/chunk_stream.h>

#include <fell/assets/block_set_file.h>
#include <fell/input/json_reader.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <set>

namespace fell::exchange {
namespace {

void readAxes(JsonReader& root, ForeignHeader& out)
{
    static const std::vector<std::string> kNames{"x", "-x", "y", "-y", "z", "-z"};
    const auto& list = root.json().at("axes");
    std::array<bool, 3> seen{};
    bool good = list.is_array() && list.size() == 3;
    for (std::size_t i = 0; good && i < 3; ++i) {
        const auto found
            = list[i].is_string() ? std::find(kNames.begin(), kNames.end(), list[i].get<std::string>()) : kNames.end();
        good = found != kNames.end();
        if (!good)
            break;
        const auto at = static_cast<int>(found - kNames.begin());
        out.axes[i] = {at / 2, at % 2 == 1};
        good = !std::exchange(seen[static_cast<std::size_t>(at / 2)], true);
    }
    if (!good)
        root.fail("axes", "names not each of x, y and z once, such as [\"x\", \"-z\", \"y\"]; y is up");
}

ForeignMaterial readMaterial(JsonReader one)
{
    static const std::vector<std::string> kMatters{"solid", "see-through", "liquid"};
    one.onlyKeys({"id", "name", "colour", "matter"});
    ForeignMaterial out;
    out.id = static_cast<std::uint16_t>(one.integer("id", 1, 65535));
    out.name = one.text("name", 200);
    if (one.has("colour"))
        out.colour = readColour(one, "colour");
    if (one.has("matter")) {
        const std::string matter = one.choice("matter", kMatters);
        out.matter = matter == "liquid" ? Matter::Liquid : matter == "see-through" ? Matter::SeeThrough : Matter::Solid;
    }
    return out;
}

/// "Dark Oak!" is "dark-oak"; what has no letter or digit is "block".
std::string slugOf(const std::string& name)
{
    constexpr std::size_t kLongest = 30;
    std::string out;
    for (const char c : name) {
        const bool isUpper = c >= 'A' && c <= 'Z';
        if (isUpper || (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9'))
            out += isUpper ? static_cast<char>(c - 'A' + 'a') : c;
        else if (!out.empty() && out.back() != '-')
            out += '-';
    }
    out.resize(std::min(out.size(), kLongest));
    while (!out.empty() && out.back() == '-')
        out.pop_back();
    return out.empty() ? "block" : out;
}

std::string hexOf(const Rgb& colour)
{
    constexpr std::string_view kDigits = "0123456789ABCDEF";
    std::string out = "#";
    for (const std::uint8_t byte : {colour.r, colour.g, colour.b}) {
        out += kDigits[byte >> 4U];
        out += kDigits[byte & 15U];
    }
    return out;
}

} // namespace

VoxelPos ForeignHeader::placeOf(const std::array<std::int64_t, 3>& at, const std::array<int, 3>& local) const
{
    std::array<std::int64_t, 3> out{};
    for (std::size_t i = 0; i < 3; ++i) {
        const std::int64_t along = at[i] * edge[i] + local[i];
        out[static_cast<std::size_t>(axes[i].to)] = axes[i].isBackward ? -1 - along : along;
    }
    return {out[0], out[1], out[2]};
}

Outcome<ForeignHeader> parseForeignHeader(std::string_view json, const std::string& where)
{
    const auto parsed = parseJson(json, where);
    if (!parsed)
        return parsed.problem();
    std::optional<Problem> problem;
    JsonReader root(parsed.value(), problem, where);
    root.onlyKeys({"name", "edge", "axes", "metres", "palette", "note"});
    ForeignHeader out;
    if (root.has("name"))
        out.name = root.text("name");
    const auto edges = root.integers("edge", 3, 1, kLongestForeignEdge);
    for (std::size_t i = 0; i < edges.size() && i < 3; ++i)
        out.edge[i] = edges[i];
    if (!root.failed() && out.voxels() > kLargestForeignChunk)
        root.fail("edge", "comes to more than " + std::to_string(kLargestForeignChunk) + " voxels");
    if (!root.failed() && root.has("axes"))
        readAxes(root, out);
    out.voxelMetres = root.numberOr("metres", 1, {0.01, 100});
    std::set<std::uint16_t> seen;
    root.each("palette", kMaxBlockKinds - 1, [&](JsonReader one) {
        ForeignMaterial material = readMaterial(one);
        if (!one.failed() && !seen.insert(material.id).second)
            one.fail("id", "is " + std::to_string(material.id) + " for the second time");
        out.palette.push_back(std::move(material));
    });
    if (!root.failed() && out.palette.empty())
        root.fail("palette", "is empty: one material or more is expected");
    if (problem)
        return *problem;
    return out;
}

Outcome<ForeignBlocks> blocksOf(const ForeignHeader& header, const std::string& where)
{
    nlohmann::ordered_json blocks = nlohmann::ordered_json::array();
    std::set<std::string> taken{"open"};
    std::vector<std::string> names;
    for (const ForeignMaterial& material : header.palette) {
        const std::string slug = slugOf(material.name);
        std::string name = slug;
        for (int i = 2; !taken.insert(name).second; ++i)
            name = slug + "-" + std::to_string(i);
        names.push_back(name);
        nlohmann::ordered_json block{{"name", name}, {"side", hexOf(material.colour)}};
        if (material.matter != Matter::Solid)
            block["matter"] = material.matter == Matter::Liquid ? "liquid" : "see-through";
        blocks.push_back(std::move(block));
    }
    ForeignBlocks out;
    out.json = nlohmann::ordered_json{{"format", "fell-blocks"}, {"version", 1}, {"blocks", blocks}}.dump(2);
    const auto set = parseBlockSet(out.json, where);
    if (!set)
        return set.problem();
    out.materials.assign(65536, kOpen);
    for (std::size_t i = 0; i < names.size(); ++i)
        out.materials[header.palette[i].id] = findMaterial(set.value(), names[i]).value_or(kOpen);
    return out;
}

} // namespace fell::exchange
