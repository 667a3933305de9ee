// SPDX-License-Identifier: Apache-2.0
#include <fell/assets/block_set_file.h>

#include <nlohmann/json.hpp>

#include <fell/assets/shape_file.h>
#include <fell/input/json_reader.h>

#include <algorithm>
#include <functional>

namespace fell::assets {
namespace {

int hexDigit(char c)
{
    return c >= '0' && c <= '9' ? c - '0'
        : c >= 'a' && c <= 'f'  ? c - 'a' + 10
        : c >= 'A' && c <= 'F'  ? c - 'A' + 10
                                : -1;
}

/// Does a file lie in the folder, whatever its name says? Links are not looked at.
bool isWithin(const std::filesystem::path& file, const std::filesystem::path& root)
{
    if (root.empty())
        return true;
    std::error_code error;
    const auto from = std::filesystem::absolute(root, error).lexically_normal(),
               to = std::filesystem::absolute(file, error).lexically_normal();
    const auto relative = to.lexically_relative(from);
    return !relative.empty() && *relative.begin() != "..";
}

/// A shape by name, or a model of the set's folder; a marked stand-in where that cannot be read.
std::shared_ptr<const BlockShape> findShape(
    const std::string& name, BlockSet& set, const std::function<bool(const std::string&)>& isAllowed)
{
    if (name == "cube")
        return nullptr;
    if (name == "half")
        return std::make_shared<const BlockShape>(halfShape());
    if (name == "slope")
        return std::make_shared<const BlockShape>(slopeShape());
    auto model = set.folder.empty()
        ? Outcome<BlockShape>(Problem{name, "", "models are only read next to a block set file"})
        : !isAllowed(name)
        ? Outcome<BlockShape>(Problem{name, "", "lies outside of the world's folder and is not read: copy it there"})
        : loadShape(set.folder / name);
    if (model)
        return std::make_shared<const BlockShape>(model.take());
    set.warnings.push_back(model.problem());
    return std::make_shared<const BlockShape>(standInShape());
}

std::array<std::string, 3> readTextures(JsonReader from)
{
    from.onlyKeys({"top", "side", "bottom"});
    std::array<std::string, 3> files;
    files[1] = from.text("side", 200);
    files[0] = from.has("top") ? from.text("top", 200) : files[1];
    files[2] = from.has("bottom") ? from.text("bottom", 200) : files[1];
    return files;
}

BlockLight readLight(JsonReader from, BlockLight light)
{
    constexpr int kMax = 15;
    from.onlyKeys({"opacity", "tint", "gives"});
    light.opacity = static_cast<int>(from.integerOr("opacity", light.opacity, 0, kMax));
    for (std::size_t i = 0; i < 3; ++i) {
        if (from.has("tint"))
            light.tint[i] = from.integers("tint", 3, 0, kMax)[i];
        if (from.has("gives"))
            light.emission[i] = static_cast<std::uint8_t>(from.integers("gives", 3, 0, kMax)[i]);
    }
    return light;
}

/// One entry of the list: one kind, or four where the block can be turned.
std::vector<BlockKind> readKinds(
    JsonReader& from, BlockSet& set, const std::function<bool(const std::string&)>& isAllowed)
{
    from.onlyKeys(
        {"name", "top", "side", "bottom", "grain", "matter", "opacity", "shape", "turns", "textures", "light"});
    static const std::vector<std::string> kMatters{"solid", "see-through", "liquid"};
    BlockKind kind;
    kind.name = from.text("name", 40);
    kind.side = readColour(from, "side");
    kind.top = from.has("top") ? readColour(from, "top") : kind.side;
    kind.bottom = from.has("bottom") ? readColour(from, "bottom") : kind.side;
    kind.grain = static_cast<float>(from.numberOr("grain", 0.06, {0, 0.5}));
    if (from.has("matter")) {
        const std::string matter = from.choice("matter", kMatters);
        kind.matter = matter == "liquid" ? Matter::Liquid
            : matter == "see-through"    ? Matter::SeeThrough
                                         : Matter::Solid;
    }
    kind.opacity = static_cast<float>(from.numberOr("opacity", kind.matter == Matter::Solid ? 1 : 0.5, {0, 1}));
    if (from.has("textures"))
        kind.textures = readTextures(from.object("textures"));
    if (from.has("shape"))
        kind.shapeName = from.text("shape", 200);
    if (kind.shapeName != "cube" && kind.matter != Matter::Solid)
        from.fail("shape", "is \"" + kind.shapeName + "\", only solid blocks can be other than a cube");
    kind.light = usualLight(kind.matter, kind.shapeName == "cube");
    if (from.has("light"))
        kind.light = readLight(from.object("light"), kind.light);
    if (from.failed())
        return {};
    kind.shape = findShape(kind.shapeName, set, isAllowed);
    std::vector<BlockKind> kinds{kind};
    if (from.has("turns") && from.flag("turns") && kind.shape)
        for (int turn = 1; turn < 4; ++turn) {
            BlockKind other = kind;
            other.name += "-" + std::to_string(turn * 90);
            other.turn = turn;
            other.shape = std::make_shared<const BlockShape>(turned(*kind.shape, turn));
            kinds.push_back(std::move(other));
        }
    return kinds;
}

bool isSolidCube(const BlockKind& kind)
{
    return kind.matter == Matter::Solid && !kind.shape;
}

} // namespace

Rgb readColour(JsonReader& from, const char* key)
{
    const std::string text = from.text(key);
    int digits[6] = {};
    bool good = text.size() == 7 && text[0] == '#';
    for (std::size_t i = 0; good && i < 6; ++i)
        good = (digits[i] = hexDigit(text[i + 1])) >= 0;
    if (!good)
        from.fail(key, "is \"" + text + "\", a colour such as #4F6B3A is expected");
    const auto byte = [&](int i) { return static_cast<std::uint8_t>(digits[i] * 16 + digits[i + 1]); };
    return good ? Rgb{byte(0), byte(2), byte(4)} : Rgb{};
}

Outcome<BlockSet> parseBlockSet(std::string_view json, const std::string& where, const std::filesystem::path& folder,
    const std::filesystem::path& root)
{
    auto parsed = parseJson(json, where);
    if (!parsed)
        return parsed.problem();
    std::optional<Problem> problem;
    JsonReader reader(parsed.value(), problem, where);
    reader.onlyKeys({"format", "version", "note", "blocks"});
    const std::vector<std::string> format{"fell-blocks"};
    reader.choice("format", format);
    reader.integer("version", 1, 1);
    BlockSet blocks;
    blocks.text = json;
    blocks.folder = folder;
    const auto isAllowed = [&](const std::string& name) { return isWithin(folder / name, root); };
    reader.each("blocks", kMaxBlockKinds - 1, [&](JsonReader from) {
        for (BlockKind& kind : readKinds(from, blocks, isAllowed)) {
            for (std::string& texture : kind.textures)
                if (!texture.empty() && !isAllowed(texture)) {
                    blocks.warnings.push_back({texture, "", "lies outside of the world's folder: it is not read"});
                    texture.clear();
                }
            if (findMaterial(blocks, kind.name))
                from.fail("name", "is \"" + kind.name + "\", which an earlier block (or open air) already has");
            blocks.kinds.push_back(std::move(kind));
        }
    });
    if (!problem && blocks.kinds.size() < 2)
        reader.fail("blocks", "holds no block; at least one is required");
    if (!problem && blocks.kinds.size() > kMaxBlockKinds)
        reader.fail("blocks", "holds more than 4095 blocks, turned ones counted four times");
    if (problem)
        return *problem;
    std::stable_partition(blocks.kinds.begin() + 1, blocks.kinds.end(), isSolidCube);
    return blocks;
}

} // namespace fell::assets
