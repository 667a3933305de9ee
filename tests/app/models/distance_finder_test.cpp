// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/distance_finder.h>

#include <functional>
#include <gtest/gtest.h>

namespace fell::app {
namespace {

/// Runs a search in which a frame costs what `cost` says of the distance; returns the frames that it took.
int search(DistanceFinder& finder, const std::function<double(double metres)>& cost)
{
    int frames = 0;
    while (!finder.found() && frames < 1000) {
        finder.addFrame(cost(finder.metres()));
        ++frames;
    }
    return frames;
}

TEST(DistanceFinder, TakesTheFarthestDoublingWithinTheBudget)
{
    // 0.02 ms per metre: 16.6 ms are spent at 830 m, between 512 and 1024.
    DistanceFinder finder(16.6);
    const int frames = search(finder, [](double metres) { return 0.02 * metres; });
    EXPECT_EQ(finder.found()->metres, 512);
    EXPECT_NEAR(finder.found()->frameMs, 10.24, 1e-9);
    EXPECT_FALSE(finder.found()->isOver);
    EXPECT_EQ(frames, 4 * (DistanceFinder::kFrames + 1)) << "128, 256, 512 and 1024 m, each with one dropped frame";
    EXPECT_EQ(finder.metres(), 512) << "what is to be shown";
}

TEST(DistanceFinder, EndsAtTheFarthestAndSaysWhereEvenTheNearestIsOver)
{
    DistanceFinder fast(50), slow(50);
    search(fast, [](double) { return 1.0; });
    EXPECT_EQ(fast.found()->metres, DistanceFinder::kFarthest);
    search(slow, [](double) { return 80.0; });
    EXPECT_EQ(slow.found()->metres, DistanceFinder::kFirst);
    EXPECT_TRUE(slow.found()->isOver);
    EXPECT_FALSE(slow.addFrame(1)) << "it has ended";
}

TEST(DistanceFinder, OneSlowFrameAndTheFirstOfADistanceDoNotDecide)
{
    DistanceFinder finder(20);
    int number = 0;
    search(finder, [&](double metres) {
        const int place = number++ % (DistanceFinder::kFrames + 1);
        if (place == 0 || place == 3)
            return 500.0; // compiling, or another program
        return metres > 1024 ? 30.0 : 10.0;
    });
    EXPECT_EQ(finder.found()->metres, 1024);
    EXPECT_EQ(finder.found()->frameMs, 10.0);
}

TEST(DistanceFinder, WhereNoFartherIsAllowedItTakesTheLastWithin)
{
    DistanceFinder finder(20);
    while (finder.metres() < 512)
        finder.addFrame(3);
    finder.end();
    ASSERT_TRUE(finder.found());
    EXPECT_EQ(finder.found()->metres, 256);
    EXPECT_EQ(finder.metres(), 256);
    finder.end();
    EXPECT_EQ(finder.found()->metres, 256);
}

} // namespace
} // namespace fell::app
