// SPDX-License-Identifier: Apache-2.0
// A mesher of one's own, from a terminal.
#include "cli_runner.h"

namespace fell::method_cli_test {
namespace {

using test::Ran;
using test::runAlone;
using test::runCli;

std::string library(const std::string& name)
{
    return buildFolder() + "/tests/methods/lib" + name + ".so";
}

const std::string kSmall = " --set stream.distance=1 --set chunk.edge=16 --set light.mode=none";

TEST(CliMethod, MeshComparesItWithTheSetupsOwnMesher)
{
    const Ran ran = runAlone("mesh --method " + library("own-mesher") + " --chunks 4 --repeat 3 --json");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const auto found = ran.parsed();
    EXPECT_EQ(found["same_surface"], true);
    EXPECT_EQ(found["rows"][0]["mesher"].get<std::string>().rfind("rows@", 0), 0u);
    EXPECT_EQ(found["rows"][1]["mesher"], "greedy-bits");
    EXPECT_GT(found["rows"][0]["quads"], found["rows"][1]["quads"]) << "rows are not joined to rectangles";
    EXPECT_NE(ran.err.find("mesh.shade=none, because rows@"), std::string::npos) << ran.err;
}

TEST(CliMethod, TwoBuildsAreComparedChunkByChunk)
{
    const Ran ran = runAlone("mesh --method " + library("own-mesher") + " --method " + library("faulty-build-2")
        + " --chunks 4 --repeat 3 --json");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const auto found = ran.parsed();
    EXPECT_EQ(found["same_surface"], true);
    EXPECT_EQ(found["rows"][0]["quads"], found["rows"][1]["quads"]);
    EXPECT_NE(found["rows"][0]["mesher"], found["rows"][1]["mesher"]);
    EXPECT_EQ(found["differences"][0]["path"], "mesh.mesher");
}

TEST(CliMethod, EveryCommandThatMeshesUsesIt)
{
    const test::TempFolder folder;
    const std::string method = " --method " + library("own-mesher");
    const Ran transect = runCli(folder.path(),
        "transect --vary mesh.layout=corners,packed --rounds 2 --frames 1 --no-draw --no-audit --json --out t" + kSmall
            + method);
    ASSERT_EQ(transect.code, 0) << transect.err;
    const auto setups = transect.parsed()["setups"];
    const std::string id = setups["A"]["mesh"]["mesher"];
    EXPECT_EQ(id.rfind("rows@", 0), 0u);
    EXPECT_EQ(setups["B"]["mesh"]["mesher"], "greedy-bits");
    EXPECT_NE(test::textOf(folder.path() / "t" / "report.md").find(id), std::string::npos)
        << "the report names the build";

    // The result names this build; without it nothing can be measured again.
    const Ran without = runCli(folder.path(), "gate --baseline t/transect.json --allow 900%");
    EXPECT_EQ(without.code, 2);
    test::expectOneSentence(without, id);
    const Ran gate = runCli(folder.path(), "gate --baseline t/transect.json --allow 900%" + method);
    EXPECT_TRUE(gate.code == 0 || gate.code == 5) << gate.code << gate.err;
    const Ran newer
        = runCli(folder.path(), "gate --baseline t/transect.json --allow 900% --method " + library("faulty-build-2"));
    EXPECT_TRUE(newer.code == 0 || newer.code == 5) << newer.code << newer.err;

    for (const char* command : {"audit mesh,stream --cases 20 --world level", "fly --frames 2 --size 32x32",
             "picture --width 32 --height 32 --out p.png", "why --chunk=0,0,0",
             "reach --budget 900 --farthest 1 --frames 1 --size 32x32",
             "export mesh --world level --box 0,-2,0,4,2,4 --out m.glb"}) {
        const std::string set = std::string(command).rfind("reach", 0) == 0
            ? " --set chunk.edge=16 --set light.mode=none"
            : std::string(command).rfind("export", 0) == 0 ? ""
                                                           : kSmall;
        const Ran ran = runCli(folder.path(), command + set + method);
        EXPECT_EQ(ran.code, 0) << command << ran.err;
        EXPECT_NE(ran.err.find("passed 70 cases"), std::string::npos) << command << ran.err;
    }
}

TEST(CliMethod, WhereNothingIsMeshedItIsRefused)
{
    const std::string method = " --method " + library("own-mesher");
    EXPECT_EQ(runAlone("light" + method).code, 2);
    EXPECT_EQ(runAlone("store" + method).code, 2);
    EXPECT_EQ(runAlone("export voxels --out v.nrrd" + method).code, 2);
    test::expectOneSentence(runAlone("audit light,keep" + method), "mesh, stream and seams use a mesher");
}

TEST(CliMethod, AFaultyOneIsNotLoadedAndItsCaseIsSaved)
{
    const test::TempFolder folder;
    const Ran used = runCli(folder.path(), "mesh --method " + library("faulty-wrong_face"));
    EXPECT_EQ(used.code, 2);
    test::expectOneSentence(used, "emits a wrong surface: the face +x of voxel (15, ");

    const Ran checked
        = runCli(folder.path(), "method check " + library("faulty-wrong_face") + " --save case.nrrd --json");
    ASSERT_EQ(checked.code, 1) << checked.err;
    const auto row = checked.parsed()["rows"][0];
    EXPECT_EQ(row["passed"], false);
    EXPECT_EQ(row["fault"]["kind"], "wrong surface");
    ASSERT_EQ(row["fault"]["voxels"].size(), 1u);
    // The file holds 18 x 18 x 18 voxels of two bytes, of which one is not air: the one that the sentence names.
    const std::string file = test::textOf(folder.path() / "case.nrrd");
    const std::string voxels = file.substr(file.find("\n\n") + 2);
    ASSERT_EQ(voxels.size(), 18U * 18 * 18 * 2);
    const auto at = row["fault"]["voxels"][0]["at"];
    const auto index
        = static_cast<std::size_t>(((at[1].get<int>() + 1) * 18 + at[2].get<int>() + 1) * 18 + at[0].get<int>() + 1);
    EXPECT_NE(voxels[2 * index], 0);
    EXPECT_EQ(voxels.size() - static_cast<std::size_t>(std::count(voxels.begin(), voxels.end(), '\0')), 1u);
}

TEST(CliMethod, ChunksThatItFailsOnLaterAreSaidAndTheTransectDoesNotHold)
{
    const std::string method = " --method " + library("faulty-late");
    const Ran ran
        = runAlone("transect --vary stream.distance=8,9 --rounds 3 --frames 1 --no-draw --no-audit --json --set "
                   "chunk.edge=16 --set light.mode=none --quiet"
            + method);
    EXPECT_EQ(ran.code, 1) << ran.err;
    std::uint64_t failed = 0;
    const auto document = ran.parsed();
    for (const auto& row : document["rows"])
        if (row.contains("failed_chunks")) {
            failed += row["failed_chunks"].get<std::uint64_t>();
            EXPECT_EQ(row["first_error"], "faulty reports failure 9");
            EXPECT_EQ(row["side"], "A");
        }
    EXPECT_GT(failed, 0u);
    const Ran text = runAlone("transect --vary stream.distance=9 --rounds 3 --frames 1 --no-draw --no-audit --set "
                              "chunk.edge=16 --set light.mode=none --quiet"
        + method);
    EXPECT_EQ(text.code, 1);
    EXPECT_NE(text.out.find("could not be built and are missing in every figure: faulty reports failure 9."),
        std::string::npos)
        << text.out;
}

TEST(CliMethod, TheCheckSaysWhatItFoundOfEachLibrary)
{
    const Ran ran = runAlone("method check " + library("own-mesher") + " " + library("faulty-crash"));
    EXPECT_EQ(ran.code, 1);
    EXPECT_NE(ran.out.find("libown-mesher.so: rows passed 70 cases"), std::string::npos) << ran.out;
    EXPECT_NE(
        ran.out.find("libfaulty-crash.so: faulty crashes (Segmentation fault) in a chunk of edge 16 with 2 voxels"),
        std::string::npos)
        << ran.out;
    const Ran none = runAlone("method check gone.so");
    EXPECT_EQ(none.code, 2);
    test::expectOneSentence(none, "gone.so: is no file: a shared library is expected");
    EXPECT_EQ(runAlone("method check a.so b.so --save case.nrrd").code, 2);
}

} // namespace
} // namespace fell::method_cli_test
