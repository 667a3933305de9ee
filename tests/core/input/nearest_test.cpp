// SPDX-License-Identifier: Apache-2.0
#include <fell/input/nearest.h>

#include <gtest/gtest.h>

#include <vector>

namespace fell::input {
namespace {

const std::vector<std::string> kMeshers{"every", "exposed", "greedy", "greedy-bits", "bevelled"};

TEST(Nearest, OneTypingErrorOfEachKindIsForgiven)
{
    EXPECT_EQ(nearestName("exposd", kMeshers), "exposed"); // left out
    EXPECT_EQ(nearestName("exxposed", kMeshers), "exposed"); // added
    EXPECT_EQ(nearestName("exposet", kMeshers), "exposed"); // changed
    EXPECT_EQ(nearestName("epxosed", kMeshers), "exposed"); // swapped
    EXPECT_EQ(nearestName("Greedy_Bits", kMeshers), "greedy-bits"); // another spelling
}

TEST(Nearest, ANameOfAnotherKindIsNotSuggested)
{
    EXPECT_EQ(nearestName("marching", kMeshers), "");
    EXPECT_EQ(nearestName("x", kMeshers), "");
    EXPECT_EQ(nearestName("", kMeshers), "");
    EXPECT_EQ(nearestName(std::string(100000, 'e'), kMeshers), "");
    EXPECT_EQ(nearestName("every", {}), "");
}

TEST(Nearest, AThirdOfTheLettersMayBeWrong)
{
    const std::vector<std::string> names{"abcdef"};
    EXPECT_EQ(nearestName("abcdxy", names), "abcdef"); // two of six
    EXPECT_EQ(nearestName("abcxyz", names), ""); // three of six
    EXPECT_EQ(nearestName("badcef", names), "abcdef"); // two swaps
}

TEST(Nearest, ThePartAfterTheDotAndABeginningAreNamesToo)
{
    const std::vector<std::string> paths{"mesh.mesher", "mesh.shade", "stream.distance"};
    EXPECT_EQ(nearestName("mesher", paths), "mesh.mesher");
    EXPECT_EQ(nearestName("distnace", paths), "stream.distance");
    EXPECT_EQ(nearestName("bev", kMeshers), "bevelled");
    EXPECT_EQ(nearestName("be", kMeshers), "");
}

TEST(Nearest, TheFirstOfEqualsIsTaken)
{
    const std::vector<std::string> names{"cart", "card"};
    EXPECT_EQ(nearestName("carx", names), "cart");
}

TEST(Nearest, AnErrorListsWhatIsAllowedAndAsksForTheNearest)
{
    EXPECT_EQ(allowedNames("evry", kMeshers),
        "allowed are every, exposed, greedy, greedy-bits or bevelled: did you mean \"every\"?");
    EXPECT_EQ(allowedNames("none", kMeshers), "allowed are every, exposed, greedy, greedy-bits or bevelled");
}

} // namespace
} // namespace fell::input
