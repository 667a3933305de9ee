// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/assets/block_set_file.h>
#include <fell/demo/demo_folder.h>
#include <fell/input/text_file.h>

#include <gtest/gtest.h>

namespace fell::block_set_file_test {
namespace {

std::string withBlocks(const std::string& blocks)
{
    return R"({"format": "fell-blocks", "version": 1, "blocks": [)" + blocks + "]}";
}

TEST(BlockSet, BeginsWithOpenAir)
{
    const auto set = parseBlockSet(withBlocks(R"({"name": "slate", "side": "#5F6773"})"), "f");
    ASSERT_TRUE(set);
    EXPECT_EQ(set.value().kinds.size(), 2u);
    EXPECT_EQ(findMaterial(set.value(), "open"), kOpen);
    EXPECT_EQ(findMaterial(set.value(), "slate"), Material{1});
    EXPECT_EQ(findMaterial(set.value(), "marble"), std::nullopt);
}

TEST(BlockSet, GivesTopSidesAndBottomTheirOwnLook)
{
    const auto set = parseBlockSet(
        withBlocks(R"({"name": "turf", "side": "#010203", "top": "#A0B0C0", "bottom": "#0a0b0c"})"), "f");
    ASSERT_TRUE(set);
    const BlockKind& turf = set.value().kinds[1];
    EXPECT_EQ(lookOf(turf, Side::Up), (Rgb{160, 176, 192}));
    EXPECT_EQ(lookOf(turf, Side::Down), (Rgb{10, 11, 12}));
    for (const Side side : {Side::East, Side::West, Side::South, Side::North})
        EXPECT_EQ(lookOf(turf, side), (Rgb{1, 2, 3}));
}

TEST(BlockSet, TakesTheSideForWhatIsNotSaid)
{
    const auto set = parseBlockSet(withBlocks(R"({"name": "slate", "side": "#5F6773"})"), "f");
    EXPECT_EQ(set.value().kinds[1].top, set.value().kinds[1].side);
    EXPECT_EQ(set.value().kinds[1].bottom, set.value().kinds[1].side);
}

TEST(BlockSet, SaysWhatABlockDoesToLight)
{
    const auto set = parseBlockSet(R"({"format": "fell-blocks", "version": 1, "blocks": [
        {"name": "rock", "side": "#777777"},
        {"name": "pane", "side": "#AABBCC", "matter": "see-through", "light": {"tint": [0, 3, 9]}},
        {"name": "pool", "side": "#223344", "matter": "liquid"},
        {"name": "lamp", "side": "#FFEEDD", "light": {"opacity": 1, "gives": [15, 13, 10]}},
        {"name": "step", "side": "#777777", "shape": "half"}]})",
        "b.json");
    ASSERT_TRUE(set);
    const auto light = [&](const char* name) { return set.value().kinds[*findMaterial(set.value(), name)].light; };
    EXPECT_EQ(set.value().kinds[kOpen].light.opacity, 0);
    EXPECT_EQ(light("rock").opacity, 15);
    EXPECT_EQ(light("pane").opacity, 1);
    EXPECT_EQ(light("pane").tint, (std::array<int, 3>{0, 3, 9}));
    EXPECT_EQ(light("pool").opacity, 2);
    EXPECT_EQ(light("lamp").opacity, 1);
    EXPECT_EQ(light("lamp").emission, (std::array<std::uint8_t, 3>{15, 13, 10}));
    EXPECT_EQ(light("step").opacity, 0) << "light passes round it";
    const auto wrong = parseBlockSet(R"({"format": "fell-blocks", "version": 1, "blocks": [
        {"name": "lamp", "side": "#FFEEDD", "light": {"gives": [15, 13, 16]}}]})",
        "b.json");
    ASSERT_FALSE(wrong);
    EXPECT_EQ(sentence(wrong.problem()),
        "b.json, at /blocks/0/light/gives/2: is 16, a whole number from 0 to 15 is expected");
}

TEST(BlockSet, RefusesWhatIsWrongWithItsPlace)
{
    const std::pair<std::string, std::string> cases[]{
        {withBlocks(R"({"name": "a", "side": "red"})"), "/blocks/0/side"},
        {withBlocks(R"({"name": "a", "side": "#12345G"})"), "/blocks/0/side"},
        {withBlocks(R"({"name": "a", "side": "#123456"}, {"name": "a", "side": "#123456"})"), "/blocks/1/name"},
        {withBlocks(R"({"name": "open", "side": "#123456"})"), "/blocks/0/name"},
        {withBlocks(R"({"name": "a", "side": "#123456", "grain": 2})"), "/blocks/0/grain"},
        {withBlocks(R"({"name": "a", "side": "#123456", "glow": 2})"), "/blocks/0/glow"},
        {withBlocks(R"({"side": "#123456"})"), "/blocks/0/name"},
        {withBlocks(""), "/blocks"},
        {R"({"format": "other", "version": 1, "blocks": []})", "/format"},
        {R"({"format": "fell-blocks", "version": 2, "blocks": []})", "/version"},
    };
    for (const auto& [text, pointer] : cases) {
        const auto set = parseBlockSet(text, "blocks.json");
        ASSERT_FALSE(set) << text;
        EXPECT_EQ(set.problem().pointer, pointer) << sentence(set.problem());
        EXPECT_EQ(set.problem().where, "blocks.json");
    }
}

TEST(BlockSet, TheDemosReadTheirOwn)
{
    for (const char* world : {"corrowdale", "level", "checker", "dust", "solid"}) {
        const std::string file = demoFolder() / world / "blocks.json";
        const auto text = readFile(file);
        ASSERT_TRUE(text);
        EXPECT_TRUE(parseBlockSet(text.value(), file));
    }
}

TEST(BlockSet, WhatOnlyLooksOtherwiseIsTold)
{
    const auto setOf = [](const std::string& more) {
        auto set = parseBlockSet(R"({"format": "fell-blocks", "version": 1, "blocks": [
            {"name": "turf", "side": "#336633"}, {"name": "pane", "side": "#FFFFFF")"
                + more + "}]}",
            "x");
        EXPECT_TRUE(set) << (set ? "" : sentence(set.problem()));
        return set ? set.take() : BlockSet();
    };
    const BlockSet plain = setOf("");
    for (const char* look : {"", R"(, "grain": 0.3)", R"(, "top": "#000000")", R"(, "textures": {"side": "a.png"})"})
        EXPECT_TRUE(differOnlyInLook(plain, setOf(look))) << look;
    for (const char* more : {R"(, "matter": "see-through")", R"(, "shape": "half")", R"(, "light": {"opacity": 3})",
             R"(, "light": {"gives": [1, 0, 0]})"})
        EXPECT_FALSE(differOnlyInLook(plain, setOf(more))) << more;
    EXPECT_TRUE(haveSameKinds(plain, setOf(R"(, "light": {"gives": [1, 0, 0]})")));
    EXPECT_TRUE(haveSameKinds(plain, setOf(R"(, "light": {"opacity": 3}, "grain": 0.3)")));
    EXPECT_FALSE(haveSameKinds(plain, setOf(R"(, "matter": "see-through")")));
    BlockSet fewer = plain;
    fewer.kinds.pop_back();
    EXPECT_FALSE(differOnlyInLook(plain, fewer));
    EXPECT_FALSE(haveSameKinds(plain, fewer));
}

} // namespace
} // namespace fell::block_set_file_test
