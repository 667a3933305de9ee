// SPDX-License-Identifier: Apache-2.0
#include "input/text_file.h"
#include "support/temp_folder.h"

#include <gtest/gtest.h>

namespace fell::text_file_test {
namespace {

using test::TempFolder;

TEST(TextFile, WritesAndReadsBytesAsTheyAre)
{
    const TempFolder folder;
    const std::string bytes("a\0b\r\n\xff", 6);
    EXPECT_FALSE(writeFile(folder / "f", bytes));
    const auto read = readFile(folder / "f");
    ASSERT_TRUE(read);
    EXPECT_EQ(read.value(), bytes);
}

TEST(TextFile, LeavesNothingButTheFile)
{
    const TempFolder folder;
    EXPECT_FALSE(writeFile(folder / "f", "one"));
    EXPECT_FALSE(writeFile(folder / "f", "two"));
    int count = 0;
    for ([[maybe_unused]] const auto& entry : std::filesystem::directory_iterator(folder.path()))
        ++count;
    EXPECT_EQ(count, 1);
    EXPECT_EQ(test::textOf(folder / "f"), "two");
}

TEST(TextFile, SaysWhatIsMissing)
{
    const TempFolder folder;
    const auto read = readFile(folder / "none");
    ASSERT_FALSE(read);
    EXPECT_NE(sentence(read.problem()).find("there is no such file"), std::string::npos);
    const auto written = writeFile(folder / "no" / "f", "x");
    ASSERT_TRUE(written);
    EXPECT_NE(written->what.find("does not exist"), std::string::npos);
    EXPECT_FALSE(readFile(folder.path()));
}

TEST(TextFile, ReadsNoMoreThanTheLimit)
{
    const TempFolder folder;
    const auto file = folder.write("big", std::string(3u << 20, 'x'));
    EXPECT_TRUE(readFile(file, 4u << 20));
    EXPECT_FALSE(readFile(file, 2u << 20));
}

TEST(TextFile, KnowsBeforehandWhetherItCanWrite)
{
    const TempFolder folder;
    EXPECT_FALSE(checkWritable(folder / "f"));
    EXPECT_TRUE(checkWritable(folder.path()));
    EXPECT_TRUE(checkWritable(folder / "no" / "f"));
    EXPECT_FALSE(std::filesystem::exists(folder / "f")) << "asking must not make the file";
}

TEST(TextFile, SaysThatTheDiskIsFullAndKeepsTheOldFile)
{
    // /dev/full takes no byte: what a full disk does, without filling one.
    if (!std::filesystem::exists("/dev/full"))
        GTEST_SKIP();
    const TempFolder folder;
    std::error_code error;
    const auto part = folder / ("f.part" + std::to_string(::getpid()));
    std::filesystem::create_symlink("/dev/full", part, error);
    ASSERT_FALSE(error);
    std::ofstream(folder / "f") << "old";
    const auto problem = writeFile(folder / "f", "new");
    ASSERT_TRUE(problem);
    EXPECT_NE(problem->what.find("No space left"), std::string::npos) << problem->what;
    EXPECT_EQ(test::textOf(folder / "f"), "old");
}

TEST(TextFile, MakesFoldersButNotOverFiles)
{
    const TempFolder folder;
    EXPECT_FALSE(makeFolder(folder / "a" / "b"));
    EXPECT_TRUE(std::filesystem::is_directory(folder / "a" / "b"));
    const auto file = folder.write("f", "");
    const auto problem = makeFolder(file);
    ASSERT_TRUE(problem);
    EXPECT_NE(problem->what.find("is a file"), std::string::npos);
}

} // namespace
} // namespace fell::text_file_test
