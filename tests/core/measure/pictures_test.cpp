// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/measure/pictures.h>

#include <gtest/gtest.h>

#include <vector>

namespace fell::pictures_test {
namespace {

using Bytes = std::vector<std::uint8_t>;

Bytes grey(const std::vector<int>& values)
{
    Bytes out;
    for (const int v : values)
        for (int channel = 0; channel < 4; ++channel)
            out.push_back(static_cast<std::uint8_t>(channel < 3 ? v : 255));
    return out;
}

TEST(Pictures, DifferByTheMeanOverColoursAndNotByAlpha)
{
    const Bytes a{10, 20, 30, 0, 0, 0, 0, 255}, b{13, 20, 24, 255, 3, 0, 0, 0};
    EXPECT_DOUBLE_EQ(differenceOf(a, b), (3 + 0 + 6 + 3) / 6.0);
    EXPECT_DOUBLE_EQ(differenceOf(a, a), 0);
    EXPECT_DOUBLE_EQ(differenceOf(Bytes{}, Bytes{}), 0);
}

TEST(Pictures, ALevelIsBrighterByTheDifferenceOfItsMeans)
{
    // Six pixels in a row: two of the sky, two of level 0, two of level 1 far from them.
    const std::vector<std::int8_t> levels{kNoLevel, kNoLevel, 0, 0, 1, 1};
    const auto found = brightnessByLevel(grey({9, 9, 50, 60, 80, 90}), grey({0, 0, 52, 54, 70, 70}), levels, 6);
    EXPECT_EQ(found.levels[0].pixels, 2u);
    EXPECT_DOUBLE_EQ(found.levels[0].by, (-2 + 6) / 2.0);
    EXPECT_DOUBLE_EQ(found.levels[1].by, (10 + 20) / 2.0);
    EXPECT_EQ(found.levels[2].pixels, 0u);
}

/// Only the pixels within two of the line between the levels, on both sides, count as its border.
TEST(Pictures, ABrightRingStandsOutWhereTheLevelsAsAWholeDoNot)
{
    constexpr int kWide = 20;
    std::vector<std::int8_t> levels;
    std::vector<int> plain, ringed;
    for (int y = 0; y < 6; ++y)
        for (int x = 0; x < kWide; ++x) {
            levels.push_back(x < 10 ? 0 : 1);
            plain.push_back(100);
            ringed.push_back(x == 9 || x == 10 ? 130 : 100);
        }
    const auto found = brightnessByLevel(grey(ringed), grey(plain), levels, kWide);
    EXPECT_EQ(found.borders.pixels, 6u * 2 * kNear);
    EXPECT_DOUBLE_EQ(found.borders.by, 15) << "two of four columns are 30 brighter";
    EXPECT_DOUBLE_EQ(found.levels[0].by, 3);
    // Where one level lies above the other the line runs along a row.
    std::vector<std::int8_t> upright;
    for (int y = 0; y < 6; ++y)
        for (int x = 0; x < kWide; ++x)
            upright.push_back(y < 3 ? 2 : 3);
    EXPECT_EQ(brightnessByLevel(grey(plain), grey(plain), upright, kWide).borders.pixels, 2u * kNear * kWide);
}

} // namespace
} // namespace fell::pictures_test
