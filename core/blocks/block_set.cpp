// SPDX-License-Identifier: Apache-2.0
#include "blocks/block_set.h"

#include "input/json_reader.h"

namespace fell {
namespace {

int hexDigit(char c)
{
    return c >= '0' && c <= '9' ? c - '0'
        : c >= 'a' && c <= 'f'  ? c - 'a' + 10
        : c >= 'A' && c <= 'F'  ? c - 'A' + 10
                                : -1;
}

Rgb readColour(JsonReader& from, const char* key)
{
    const std::string text = from.text(key);
    int digits[6] = {};
    bool good = text.size() == 7 && text[0] == '#';
    for (std::size_t i = 0; good && i < 6; ++i)
        good = (digits[i] = hexDigit(text[i + 1])) >= 0;
    if (!good)
        from.fail(key, "is \"" + text + "\", a colour such as #4F6B3A is wanted");
    const auto byte = [&](int i) { return static_cast<std::uint8_t>(digits[i] * 16 + digits[i + 1]); };
    return good ? Rgb{byte(0), byte(2), byte(4)} : Rgb{};
}

BlockKind readKind(JsonReader& from)
{
    from.onlyKeys({"name", "top", "side", "bottom", "grain"});
    BlockKind kind;
    kind.name = from.text("name", 40);
    kind.side = readColour(from, "side");
    kind.top = from.has("top") ? readColour(from, "top") : kind.side;
    kind.bottom = from.has("bottom") ? readColour(from, "bottom") : kind.side;
    kind.grain = static_cast<float>(from.numberOr("grain", 0.06, {0, 0.5}));
    return kind;
}

} // namespace

std::optional<Material> findMaterial(const BlockSet& blocks, std::string_view name)
{
    for (std::size_t i = 0; i < blocks.kinds.size(); ++i)
        if (blocks.kinds[i].name == name)
            return static_cast<Material>(i);
    return std::nullopt;
}

Rgb lookOf(const BlockKind& kind, Side side)
{
    return side == Side::Up ? kind.top : side == Side::Down ? kind.bottom : kind.side;
}

Outcome<BlockSet> parseBlockSet(std::string_view json, const std::string& where)
{
    auto parsed = parseJson(json, where);
    if (!parsed)
        return parsed.problem();
    std::optional<Problem> problem;
    JsonReader root(parsed.value(), problem, where);
    root.onlyKeys({"format", "version", "note", "blocks"});
    const std::vector<std::string> format{"fell-blocks"};
    root.choice("format", format);
    root.integer("version", 1, 1);
    BlockSet blocks;
    root.each("blocks", kMostBlockKinds - 1, [&](JsonReader from) {
        BlockKind kind = readKind(from);
        if (findMaterial(blocks, kind.name))
            from.fail("name", "is \"" + kind.name + "\", which an earlier block (or open air) already has");
        blocks.kinds.push_back(std::move(kind));
    });
    if (!problem && blocks.kinds.size() < 2)
        root.fail("blocks", "holds no block, at least one is wanted");
    if (problem)
        return *problem;
    return blocks;
}

} // namespace fell
