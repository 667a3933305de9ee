// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/sample_worlds.h"
#include <fell/demo/demo_folder.h>
#include <fell/measure/route.h>
#include <fell/terrain/columns.h>

#include <cmath>
#include <gtest/gtest.h>

namespace fell::route_test {
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

TEST(RouteRecorder, TheRouteGoesThroughTheFlightAtItsPace)
{
    const auto terrain = test::testTerrain();
    RouteRecorder recorder;
    EXPECT_FALSE(recorder.route("none", *terrain));
    // 20 metres a second along x, 300 metres up, turning past north from 350 to 30 degrees: 40 degrees, not 320 back.
    const auto eyeOf = [&terrain](double seconds) {
        RoutePoint at{{20 * seconds, 300, 5}, std::fmod(350 + 4 * seconds, 360), -10};
        return eyeAt(at, 0, *terrain);
    };
    constexpr int kFrames = 600; // 60 a second
    for (int i = 0; i <= kFrames; ++i) {
        recorder.note(eyeOf(i / 60.0), i == 0 ? 0 : 1 / 60.0, *terrain);
        recorder.note(eyeOf(i / 60.0), 5, *terrain); // standing still: no time passes
    }
    const auto made = recorder.route("my flight", *terrain);
    ASSERT_TRUE(made) << sentence(made.problem());
    EXPECT_NEAR(static_cast<double>(made.value().points.size()), 21, 1) << "ten seconds, two points each";
    EXPECT_EQ(made.value().clear, 2);
    const auto read = parseRoute(toJson(made.value()), "r.json");
    ASSERT_TRUE(read) << sentence(read.problem());
    EXPECT_EQ(read.value().name, "my flight");
    for (const double t : {0.1, 0.33, 0.5, 0.81}) { // the pace: a part of the route is that part of the time
        const Eye eye = eyeOn(read.value(), t, *terrain);
        const RoutePoint at = pointAt(eye, *terrain);
        EXPECT_NEAR(at.at[0], 200 * t, 6) << t;
        EXPECT_NEAR(at.at[1], 300, 0.1);
        EXPECT_NEAR(std::remainder(at.yaw - (350 + 40 * t), 360), 0, 1.5) << t;
    }
}

TEST(RouteRecorder, ALongFlightKeepsFewerPointsAndUnderTheGroundNothingIsLifted)
{
    const auto terrain = test::testTerrain();
    RouteRecorder recorder;
    for (int i = 0; i < 5000; ++i)
        recorder.note(eyeAt({{i * 1.0, -40, 0}, 0, 0}, -1e6, *terrain), 0.5, *terrain);
    EXPECT_LE(recorder.points(), RouteRecorder::kMax);
    const auto made = recorder.route("deep", *terrain);
    ASSERT_TRUE(made);
    EXPECT_NEAR(pointAt(eyeOn(made.value(), 1, *terrain), *terrain).at[0], 4999, 1e-6) << "it ends where the eye was";
    EXPECT_NEAR(pointAt(eyeOn(made.value(), 0.5, *terrain), *terrain).at[1], -40, 0.01) << "not lifted to the ground";
    ASSERT_TRUE(parseRoute(toJson(made.value()), "r.json"));
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
    const std::string folder = demoFolder() / "routes";
    ASSERT_TRUE(findRoute("beck-to-summit", folder));
    EXPECT_EQ(findRoute("beck-to-summit", folder).value().title, "beck to summit");
    EXPECT_TRUE(findRoute("round-the-tarn", folder));
    EXPECT_FALSE(findRoute("to-the-moon", folder));
}

} // namespace
} // namespace fell::route_test
