// SPDX-License-Identifier: Apache-2.0
#include "measure/route.h"
#include "support/sample_worlds.h"
#include "terrain/columns.h"

#include <cmath>

namespace fell {
namespace {

Route line()
{
    Route route;
    for (int i = 0; i < 5; ++i)
        route.points.push_back({{i * 10.0, 500, i * -20.0}, i * 10.0, -5});
    return route;
}

double metres(const Eye& eye, int axis)
{
    const double cell[]{
        static_cast<double>(eye.cell.x), static_cast<double>(eye.cell.y), static_cast<double>(eye.cell.z)};
    return cell[axis] + eye.within[axis];
}

TEST(Route, PassesThroughItsPointsAndRunsStraightBetweenEvenlySpacedOnes)
{
    const auto terrain = test::testTerrain();
    for (const double t : {0.0, 0.25, 0.4, 0.5, 0.625, 1.0}) {
        const Eye eye = eyeOn(line(), t, *terrain);
        if (t > 0.24 && t < 0.76) { // the spline of evenly spaced points on a line is the line; its ends ease in
            EXPECT_NEAR(metres(eye, 0), t * 40, 1e-9);
            EXPECT_NEAR(metres(eye, 2), t * -80, 1e-9);
        }
        EXPECT_NEAR(eye.yaw, t * 40, 1e-9);
        EXPECT_NEAR(metres(eye, 1), 500, 1e-9);
    }
    EXPECT_NEAR(metres(eyeOn(line(), 1, *terrain), 0), 40, 1e-9);
    EXPECT_NEAR(metres(eyeOn(line(), 0, *terrain), 0), 0, 1e-9);
    EXPECT_NEAR(metres(eyeOn(line(), 7, *terrain), 0), 40, 1e-9) << "beyond the end is the end";
}

TEST(Route, StaysAboveTheGround)
{
    const auto terrain = test::testTerrain();
    Route route = line();
    route.clear = 3;
    for (auto& point : route.points)
        point.at[1] = -1000;
    for (double t = 0; t <= 1; t += 0.05) {
        const Eye eye = eyeOn(route, t, *terrain);
        EXPECT_GE(metres(eye, 1) + 1e-4, groundHeight(*terrain, eye.cell.x, eye.cell.z) + 3);
        EXPECT_GE(metres(eye, 1) + 1e-4, 2 + 3) << "the water is ground too";
    }
}

TEST(Route, FilesSayWhatIsWrong)
{
    const std::pair<const char*, const char*> cases[]{
        {R"({"format": "fell-route", "version": 1, "name": "x", "points": [{"at": [0, 0, 0], "yaw": 0, "pitch": 0}]})",
            "/points"},
        {R"({"format": "fell-route", "version": 1, "name": "x", "points": [{"at": [0, 0], "yaw": 0, "pitch": 0}]})",
            "/points/0/at"},
        {R"({"format": "fell-route", "version": 1, "name": "x", "points": [{"at": [0, 0, 0], "yaw": 0, "pitch": 100}]})",
            "/points/0/pitch"},
        {R"({"format": "fell-route", "version": 1, "name": "x", "points": [{"yaw": 0, "pitch": 0}]})", "/points/0/at"},
        {R"({"format": "fell-route", "version": 1, "name": "x", "speed": 1, "points": []})", "/speed"},
    };
    for (const auto& [text, pointer] : cases) {
        const auto route = parseRoute(text, "r.json");
        ASSERT_FALSE(route) << text;
        EXPECT_EQ(route.problem().pointer, pointer) << sentence(route.problem());
    }
}

TEST(Route, TheDemosAreFoundByName)
{
    const std::string folder = std::string(FELL_DEMO_DIR) + "/routes";
    ASSERT_TRUE(findRoute("beck-to-summit", folder));
    EXPECT_EQ(findRoute("beck-to-summit", folder).value().title, "beck to summit");
    EXPECT_TRUE(findRoute("round-the-tarn", folder));
    EXPECT_FALSE(findRoute("to-the-moon", folder));
}

} // namespace
} // namespace fell
