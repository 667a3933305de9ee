// SPDX-License-Identifier: Apache-2.0
// Planted faults (tests/core/plugin/faulty.c) are found in a separate process, and this one goes on.
#include "support/all_names.h"
#include "support/build_folders.h"
#include <fell/audit/method_check.h>
#include <fell/demo/demo_folder.h>
#include <fell/terrain/terrain.h>

#include <algorithm>
#include <fstream>
#include <gtest/gtest.h>

namespace fell::method_check_test {
namespace {

std::size_t solidOf(const PaddedVoxels& voxels)
{
    return voxels.voxels.size() - static_cast<std::size_t>(std::count(voxels.voxels.begin(), voxels.voxels.end(), 0));
}

const BlockSet& demoBlocks()
{
    static const BlockSet kBlocks = findWorld("corrowdale", demoFolder()).value().blocks;
    return kBlocks;
}

Outcome<MethodCheck> checked(const std::string& name, double shrinkSeconds = 60) // on a slow machine too
{
    MethodCheckSpec spec;
    spec.file = buildFolder() + "/tests/methods/lib" + name + ".so";
    spec.blocks = demoBlocks();
    spec.shrinkSeconds = shrinkSeconds;
    return checkMethod(spec);
}

/// Is the library mapped into this process? Its code must not run here.
bool isMappedHere(const std::string& name)
{
    std::ifstream maps("/proc/self/maps");
    const std::string text((std::istreambuf_iterator<char>(maps)), {});
    return text.find(name) != std::string::npos;
}

TEST(MethodCheck, TheExamplePasses)
{
    const auto found = checked("own-mesher");
    ASSERT_TRUE(found) << sentence(found.problem());
    EXPECT_FALSE(found.value().fault) << sentenceOf(*found.value().fault, demoBlocks());
    EXPECT_EQ(found.value().method.name, "rows");
    EXPECT_EQ(found.value().cases, 70);
    EXPECT_FALSE(isMappedHere("libown-mesher"));
}

struct Planted {
    const char* name;
    FaultKind kind;
    const char* part; // of the sentence
    std::size_t most; // voxels of the counterexample
};

void PrintTo(const Planted& planted, std::ostream* out)
{
    *out << planted.name;
}

class MethodCheckOf : public ::testing::TestWithParam<Planted> { };

TEST_P(MethodCheckOf, IsReportedWithAFewVoxels)
{
    const Planted& planted = GetParam();
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
    if (planted.kind == FaultKind::Leak || planted.kind == FaultKind::OutOfMemory)
        GTEST_SKIP() << "a sanitizer replaces malloc, and its shadow takes the address space that is limited";
#endif
    const auto found = checked(std::string("faulty-") + planted.name, planted.kind == FaultKind::Hang ? 2 : 60);
    ASSERT_TRUE(found) << sentence(found.problem());
    ASSERT_TRUE(found.value().fault);
    const MethodFault& fault = *found.value().fault;
    const std::string said = sentenceOf(fault, demoBlocks());
    EXPECT_EQ(fault.kind, planted.kind) << said;
    EXPECT_NE(said.find(planted.part), std::string::npos) << said;
    EXPECT_LE(solidOf(fault.counterexample), planted.most) << said;
    EXPECT_FALSE(isMappedHere("libfaulty"));
}

// crash, hang and leave need two voxels of material 2; a forgotten face needs the one voxel that has it.
INSTANTIATE_TEST_SUITE_P(All, MethodCheckOf,
    ::testing::Values(
        Planted{"crash", FaultKind::Crash, "crashes (Segmentation fault) in a chunk of edge 16 with 2", 2},
        Planted{"hang", FaultKind::Hang, "does not end within 1 s", 4096},
        Planted{"leave", FaultKind::Crash, "ends its process in a chunk of edge 16 with 2 voxels", 2},
        Planted{"overflow_high", FaultKind::OutOfBounds, "writes to the voxels or beyond", 0},
        Planted{"overflow_low", FaultKind::OutOfBounds, "reads beyond the voxels", 0},
        Planted{"write_voxels", FaultKind::OutOfBounds, "writes to the voxels or beyond", 0},
        Planted{"write_materials", FaultKind::Refused, "writes to the materials", 0},
        Planted{"wrong_face", FaultKind::WrongSurface, "the face +x of voxel (15, ", 1},
        Planted{"outside", FaultKind::Refused, "emits a quad outside the chunk: x 15, y 0, z 0, width 2", 0},
        Planted{"leak", FaultKind::Leak, "leaks about 1", 0}, // 100 bytes and malloc's own
        Planted{"memory", FaultKind::OutOfMemory, "needs more than 512 MiB", 0},
        Planted{"unsteady", FaultKind::Refused, "gives two surfaces for the same voxels", 0},
        Planted{"failure", FaultKind::Refused, "reports failure 7", 0}),
    [](const auto& at) { return std::string(at.param.name); });

TEST(MethodCheck, ALibraryThatCannotBeLoadedIsAProblem)
{
    const auto crashed = checked("faulty-load-crash");
    ASSERT_FALSE(crashed);
    EXPECT_NE(sentence(crashed.problem()).find("crashes while it is loaded"), std::string::npos);
    const auto other = checked("faulty-no-method");
    ASSERT_FALSE(other);
    EXPECT_NE(sentence(other.problem()).find("exports no function fell_method"), std::string::npos);
    EXPECT_FALSE(checked("gone"));
}

} // namespace
} // namespace fell::method_check_test
