// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/build_folders.h"
#include "support/sample_worlds.h"
#include "support/temp_folder.h"
#include <fell/plugin/loaded_mesher.h>
#include <fell/setup/setup.h>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>
#include <thread>

namespace fell::loaded_mesher_test {
namespace {

std::filesystem::path built(const std::string& name)
{
    return buildFolder() + "/tests/methods/lib" + name + ".so";
}

PaddedVoxels someVoxels(std::uint64_t seed)
{
    std::mt19937_64 dice(seed);
    PaddedVoxels out{16, 1, {}};
    for (int i = 0; i < 18 * 18 * 18; ++i)
        out.voxels.push_back(static_cast<Material>(dice() % 3 == 0 ? 1 + dice() % 4 : 0));
    return out;
}

TEST(LoadedMesher, EmitsTheSurfaceThatFellsOwnMesherEmits)
{
    const auto loaded = loadMesher(built("own-mesher"));
    ASSERT_TRUE(loaded) << sentence(loaded.problem());
    const SideRules rules = sideRulesOf(test::testBlocks());
    ChunkSurface own, theirs;
    for (std::uint64_t seed = 1; seed <= 5; ++seed) {
        own.clear();
        theirs.clear();
        const PaddedVoxels voxels = someVoxels(seed);
        meshExposedSides(voxels, {&rules, false}, own);
        loaded.value()->mesh(voxels, {&rules, false}, theirs);
        EXPECT_EQ(surfaceDigest(own.all()), surfaceDigest(theirs.all()));
        EXPECT_LT(theirs.count(), own.count()) << "faces are joined along a row";
    }
    EXPECT_TRUE(loaded.value()->traits.mergesFaces);
    EXPECT_FALSE(loaded.value()->traits.takesOcclusion);
}

TEST(LoadedMesher, IsUsedByManyThreadsAtOnce)
{
    const auto loaded = loadMesher(built("own-mesher"));
    ASSERT_TRUE(loaded);
    const SideRules rules = sideRulesOf(test::testBlocks());
    const PaddedVoxels voxels = someVoxels(9);
    ChunkSurface alone;
    loaded.value()->mesh(voxels, {&rules, false}, alone);
    std::vector<std::jthread> threads;
    std::atomic<int> same = 0;
    for (int t = 0; t < 4; ++t)
        threads.emplace_back([&] {
            for (int i = 0; i < 20; ++i) {
                ChunkSurface out;
                loaded.value()->mesh(voxels, {&rules, false}, out);
                same += out.all() == alone.all() ? 1 : 0;
            }
        });
    threads.clear();
    EXPECT_EQ(same, 80);
}

TEST(LoadedMesher, IsOneOfTheTableAndASetupNamesItWithItsHash)
{
    const auto first = loadMesher(built("own-mesher")), again = loadMesher(built("own-mesher"));
    ASSERT_TRUE(first && again);
    EXPECT_EQ(first.value(), again.value()) << "one file is one entry";
    const std::string id = first.value()->id;
    EXPECT_EQ(id, "rows@" + hashOf(built("own-mesher")).value());
    EXPECT_EQ(findMesher(id), first.value());
    EXPECT_EQ(findMesher("greedy-bits")->id, std::string("greedy-bits"));
    EXPECT_EQ(findMesher("nothing"), nullptr);
    EXPECT_EQ(findMesher("nothing@12345678"), nullptr);

    fell::Setup setup;
    ASSERT_FALSE(writeField(*findField("mesh.mesher"), setup, "rows@00000000")) << "another build of the same method";
    EXPECT_EQ(setup.mesh.mesher, id);
    EXPECT_TRUE(checkSetup(setup)) << "it ignores ambient occlusion, and the setup asks for it";
    setup.mesh.ambientOcclusion = "none";
    EXPECT_FALSE(checkSetup(setup));

    const auto second = loadMesher(built("faulty-build-2")); // another build, of the same name
    ASSERT_TRUE(second) << sentence(second.problem());
    EXPECT_NE(second.value(), first.value());
    EXPECT_EQ(findMesher("rows"), nullptr) << "of two builds the name does not say which";
    EXPECT_TRUE(writeField(*findField("mesh.mesher"), setup, "rows"));
    EXPECT_EQ(findMesher(second.value()->id), second.value());
}

TEST(LoadedMesher, WhatIsNoMethodIsRefusedInOneSentence)
{
    const test::TempFolder folder;
    const std::filesystem::path text = folder.write("text.so", "no library");
    const std::pair<std::filesystem::path, const char*> kCases[]{
        {folder.path() / "gone.so", "a shared library is expected"}, {folder.path(), "a shared library is expected"},
        {text, "no shared library that can be loaded"}, {built("faulty-no-method"), "exports no function fell_method"},
        {built("faulty-old-version"), "is built for version 99 of fell/method.h, 1 to 1 are known"},
        {built("faulty-bad-name"), "has the name \"Rows!\": 1 to 24 lower-case letters, digits and hyphens"},
        {built("faulty-taken-name"), "has the name of Fell's own mesher greedy"},
        {built("faulty-wide-apron"), "asks for an apron of 9, 1 to 8 are allowed"}};
    for (const auto& [file, part] : kCases) {
        const std::size_t before = meshers().size();
        const auto loaded = loadMesher(file);
        ASSERT_FALSE(loaded) << file;
        EXPECT_NE(sentence(loaded.problem()).find(part), std::string::npos) << sentence(loaded.problem());
        EXPECT_EQ(meshers().size(), before);
    }
}

/// The code of a library that is mapped in place changes or vanishes with its file.
TEST(LoadedMesher, AFileThatIsWrittenAgainIsASecondMesherAndTheFirstGoesOn)
{
    const test::TempFolder folder;
    const std::filesystem::path file = folder.path() / "mine.so";
    const auto overwrite = [&file](const char* name) { // the same file, not another of its name
        std::ifstream from(built(name), std::ios::binary);
        std::ofstream to(file, std::ios::binary | std::ios::trunc);
        to << from.rdbuf();
    };
    overwrite("own-mesher");
    const auto first = loadMesher(file, hashOf(file).value());
    ASSERT_TRUE(first) << sentence(first.problem());
    const SideRules rules = sideRulesOf(test::testBlocks());
    const PaddedVoxels voxels = someVoxels(3);
    ChunkSurface before, after;
    first.value()->mesh(voxels, {&rules, false}, before);
    const std::string checked = hashOf(file).value();
    overwrite("faulty-build-2");
    first.value()->mesh(voxels, {&rules, false}, after);
    EXPECT_EQ(before.all(), after.all());
    const auto changed = loadMesher(file, checked);
    ASSERT_FALSE(changed);
    EXPECT_EQ(
        sentence(changed.problem()), file.string() + ": was written again while it was checked: load it once more");
    const auto second = loadMesher(file);
    ASSERT_TRUE(second) << sentence(second.problem());
    EXPECT_STRNE(first.value()->id, second.value()->id);
    EXPECT_TRUE(std::filesystem::is_regular_file(file));
}

TEST(LoadedMesher, AFailureOfItsCodeIsAnErrorAndNotASurface)
{
    const auto library = Library::open(built("faulty-failure"));
    ASSERT_TRUE(library);
    const SideRules rules = sideRulesOf(test::testBlocks());
    ChunkSurface out;
    try {
        library.value().mesher().mesh(someVoxels(1), {&rules, false}, out);
        ADD_FAILURE();
    } catch (const std::runtime_error& error) {
        EXPECT_STREQ(error.what(), "faulty reports failure 7");
    }
}

} // namespace
} // namespace fell::loaded_mesher_test
