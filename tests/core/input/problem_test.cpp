// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/input/problem.h>

#include <gtest/gtest.h>

namespace fell::problem_test {
namespace {

TEST(Utf8, IsWhatRfc3629Allows)
{
    for (const char* good : {"", "Corrowdale", "\xC3\xA4", "\xE2\x82\xAC", "\xF0\x9F\x8F\x94", "\xF4\x8F\xBF\xBF",
             "\xED\x9F\xBF", "\xEE\x80\x80", "\x7F"})
        EXPECT_TRUE(isUtf8(good)) << good;
    for (const char* bad : {"\x80", "a\xFF", "\xC3", "\xC3(", "\xC0\xAF", "\xC1\xBF", "\xE0\x9F\xBF", "\xE2\x82",
             "\xED\xA0\x80", "\xF0\x8F\xBF\xBF", "\xF4\x90\x80\x80", "\xF5\x80\x80\x80", "\xF8\x88\x80\x80\x80"})
        EXPECT_FALSE(isUtf8(bad)) << bad;
}

TEST(Utf8, IsCutBetweenCharacters)
{
    EXPECT_EQ(cutText("abc", 3), "abc");
    EXPECT_EQ(cutText("ab\xC3\xA4", 3), "ab");
    EXPECT_EQ(cutText("ab\xC3\xA4"
                      "c",
                  4),
        "ab\xC3\xA4");
    for (std::size_t max = 0; max < 9; ++max)
        EXPECT_TRUE(isUtf8(cutText("\xE2\x82\xAC\xC3\xA4\xF0\x9F\x8F\x94", max))) << max;
}

TEST(Counted, HasAnSWhereThereIsNotOne)
{
    EXPECT_EQ(counted(0, "chunk"), "0 chunks");
    EXPECT_EQ(counted(1, "chunk"), "1 chunk");
    EXPECT_EQ(counted(2, "round"), "2 rounds");
}

TEST(Sentence, HasThePlaceThePointerAndWhatIsWrong)
{
    EXPECT_EQ(sentence({"a.json", "/x", "is missing"}), "a.json, at /x: is missing");
    EXPECT_EQ(sentence({"", "/x", "is missing"}), "at /x: is missing");
    EXPECT_EQ(sentence({"a.json", "", "is missing"}), "a.json: is missing");
    EXPECT_EQ(sentence({"", "", "is missing"}), "is missing");
}

} // namespace
} // namespace fell::problem_test
