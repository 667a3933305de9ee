// SPDX-License-Identifier: Apache-2.0
// Two commands in turn: their documents are made by the shell here, so every ratio is known.
#include "cli_runner.h"

#include <thread>

namespace fell::duel_cli_test {
namespace {

using test::Ran;
using test::runCli;

/// A command that prints a document with these members next to a format, and notes that it ran.
std::string prints(const std::string& members, const std::string& note = "")
{
    return "'" + (note.empty() ? "" : "printf " + note + " >>order; ") + R"(echo "{\"format\":\"fell-mesh\",)" + members
        + R"(}")" + "'";
}

TEST(CliDuel, RatiosAreThoseOfTheDocumentsAndTheOrderAlternates)
{
    const test::TempFolder folder;
    const std::string a = prints(R"(\"rows\":[{\"chunk_ns\":{\"p50\":300,\"p5\":1},\"vertex_bytes\":64}])", "A"),
                      b = prints(R"(\"rows\":[{\"chunk_ns\":{\"p50\":200,\"p5\":2},\"vertex_bytes\":128}])", "B");
    const Ran ran = runCli(folder.path(), "duel " + a + " " + b + " --rounds 3 --json");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const auto costs = ran.parsed()["costs"];
    ASSERT_EQ(costs.size(), 2u) << "p5 is no cost to compare";
    EXPECT_EQ(costs[0]["path"], "rows[0].chunk_ns.p50");
    for (const char* key : {"ratio", "low", "high"}) {
        EXPECT_NEAR(costs[0][key].get<double>(), 1.5, 1e-12) << key;
        EXPECT_NEAR(costs[1][key].get<double>(), 0.5, 1e-12) << key;
    }
    EXPECT_EQ(test::textOf(folder.path() / "order"), "ABBAAB");

    const Ran one = runCli(folder.path(), "duel " + a + " " + b + " --rounds 3 --what rows[0].vertex_bytes");
    EXPECT_EQ(one.out, "rows[0].vertex_bytes: A needs 0.50x of B (0.50 to 0.50, 95 % over 3 rounds)\n");
    const Ran none = runCli(folder.path(), "duel " + a + " " + b + " --rounds 3 --what rows[0].chunk_us --quiet");
    EXPECT_EQ(none.code, 2);
    test::expectOneSentence(none, "allowed are rows[0].chunk_ns.p50, rows[0].vertex_bytes");
}

TEST(CliDuel, CountsThatDifferAreSaidAndAnotherDigestIsExitCode1)
{
    const test::TempFolder folder;
    const std::string a = prints(R"(\"mesh_ns\":1,\"quads\":7,\"digest\":\"aa\")"),
                      b = prints(R"(\"mesh_ns\":1,\"quads\":9,\"digest\":\"aa\")"),
                      c = prints(R"(\"mesh_ns\":1,\"quads\":7,\"digest\":\"ab\")"),
                      d = prints(R"(\"mesh_ns\":1,\"quads\":$$,\"digest\":\"aa\")"); // $$: of each process
    const Ran quads = runCli(folder.path(), "duel " + a + " " + b + " --rounds 3");
    EXPECT_EQ(quads.code, 0) << quads.err;
    EXPECT_NE(quads.out.find("quads: A 7, B 9\n"), std::string::npos) << quads.out;
    const Ran digests = runCli(folder.path(), "duel " + a + " " + c + " --rounds 3");
    EXPECT_EQ(digests.code, 1);
    EXPECT_NE(digests.out.find("digest: A aa, B ab; THEIR RESULTS DIFFER\n"), std::string::npos) << digests.out;
    const Ran unsteady = runCli(folder.path(), "duel " + a + " " + d + " --rounds 3");
    EXPECT_EQ(unsteady.out.find("quads"), std::string::npos) << "it changes from round to round of one side";
}

TEST(CliDuel, WhatIsNoMeasurementIsRefusedInOneSentence)
{
    const test::TempFolder folder;
    const std::string good = prints(R"(\"mesh_ns\":1)");
    const std::pair<std::string, const char*> kCases[]{{"'exit 3'", "ended with 3, 0 is expected"},
        {"'echo much >&2; exit 2'", "ended with 2, 0 is expected; it says: much"}, {"'kill -9 $$'", "ended with 137"},
        {"'echo hello'", "prints no Fell document: add --json"}, {"'echo [1]'", "prints no Fell document"},
        {prints(R"(\"quads\":1)"), "prints no time and no memory"}, {"gone-command", "ended with 127"},
        {"yes", "prints more than 64 MiB"}};
    for (const auto& [command, part] : kCases) {
        const Ran ran = runCli(folder.path(), "duel " + good + " " + command + " --rounds 3 --quiet");
        EXPECT_EQ(ran.code, 2) << command;
        test::expectOneSentence(ran, part);
    }
    const Ran other = runCli(folder.path(),
        "duel " + good + " 'echo \"{\\\"format\\\":\\\"fell-light\\\",\\\"a_ns\\\":1}\"' --rounds 3 --quiet");
    test::expectOneSentence(other, "print fell-mesh and fell-light: two commands of one kind are expected");
    test::expectOneSentence(runCli(folder.path(), "duel true true --rounds 2"), "3 to 100 rounds are allowed");
}

TEST(CliDuel, StoppingEndsTheCommandThatRuns)
{
    const test::TempFolder folder;
    const Ran ran = runCli(folder.path(), "duel 'echo $$ >pid; exec sleep 100' true", "", "timeout -s INT 2");
    EXPECT_EQ(ran.code, 124) << "what timeout gives"; // and not after the 100 s
    const std::string pid = test::textOf(folder.path() / "pid");
    ASSERT_FALSE(pid.empty());
    const auto isThere = [&pid] { return std::filesystem::exists("/proc/" + pid.substr(0, pid.find('\n'))); };
    for (int i = 0; i < 100 && isThere(); ++i)
        std::this_thread::sleep_for(std::chrono::milliseconds(20));
    EXPECT_FALSE(isThere());
}

TEST(CliDuel, TwoBuildsOfAMesherThroughTheirOwnProcesses)
{
    const test::TempFolder folder;
    const std::string methods = buildFolder() + "/tests/methods/lib",
                      mesh = buildFolder() + "/fell-cli mesh --chunks 2 --repeat 2 --json --quiet --method " + methods;
    const Ran ran = runCli(
        folder.path(), "duel '" + mesh + "own-mesher.so' '" + mesh + "faulty-build-2.so' --rounds 3 --json --quiet");
    ASSERT_EQ(ran.code, 0) << ran.err;
    EXPECT_EQ(ran.parsed()["same"], true);
    EXPECT_TRUE(ran.parsed()["counts"].empty()) << "the same quads";
    EXPECT_EQ(ran.parsed()["costs"][0]["path"], "rows[0].chunk_ns.p50");
}

/// Old build A, new build B: what both commands print is what a gate judges.
TEST(CliDuel, AGateJudgesTwoBuilds)
{
    const test::TempFolder folder;
    const std::string fast = prints(R"(\"mesh_ns\":100,\"quads\":7)"), slow = prints(R"(\"mesh_ns\":150,\"quads\":7)");
    const auto duel = [&](const std::string& a, const std::string& b) {
        EXPECT_EQ(runCli(folder.path(), "duel " + a + " " + b + " --rounds 3 --json --quiet", " >d.json").code, 0);
    };
    duel(slow, fast);
    const Ran better = runCli(folder.path(), "gate --comparison d.json");
    EXPECT_EQ(better.code, 0) << better.err;
    EXPECT_EQ(better.out, "mesh_ns of the new build is 0.67x the old one's (0.67 to 0.67): within\n");
    duel(fast, slow);
    const Ran worse = runCli(folder.path(), "gate --comparison d.json --json --junit g.xml");
    EXPECT_EQ(worse.code, 1) << worse.err;
    EXPECT_EQ(worse.parsed()["costs"][0]["verdict"], "slower");
    EXPECT_NEAR(worse.parsed()["costs"][0]["ratio"].get<double>(), 1.5, 1e-9);
    EXPECT_NE(test::textOf(folder.path() / "g.xml").find("failures=\"1\""), std::string::npos);
    EXPECT_EQ(runCli(folder.path(), "gate --comparison d.json --allow 60%").code, 0);

    const std::string method = " --method " + buildFolder() + "/tests/methods/lib";
    const Ran mesh = runCli(folder.path(),
        "mesh --chunks 2 --repeat 3 --json --quiet" + method + "own-mesher.so" + method + "faulty-build-2.so",
        " >m.json");
    ASSERT_EQ(mesh.code, 0) << mesh.err;
    const Ran gate = runCli(folder.path(), "gate --comparison m.json --allow 900%");
    EXPECT_TRUE(gate.code == 0 || gate.code == 5) << gate.code << gate.err; // the machine may be very uneven
    EXPECT_NE(gate.out.find("mesh_ns_per_voxel of the new build is "), std::string::npos) << gate.out;

    test::expectOneSentence(runCli(folder.path(), "gate"), "needs either --baseline FILE or --comparison FILE");
    test::expectOneSentence(runCli(folder.path(), "gate --comparison d.json --rounds 3"), "excludes");
    test::expectOneSentence(runCli(folder.path(), "gate --comparison d.json --junit d.json"), "d.json");
    test::expectOneSentence(runCli(folder.path(), "gate --comparison gone.json"), "gone.json");
}

} // namespace
} // namespace fell::duel_cli_test
