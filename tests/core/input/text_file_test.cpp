// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/temp_folder.h"
#include <fell/input/text_file.h>

#include <csignal>
#include <gtest/gtest.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <thread>

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
    // A limit on the size of files refuses a byte as a full disk does, without filling one.
    const TempFolder folder;
    std::ofstream(folder / "f") << "old";
    rlimit before{};
    ASSERT_EQ(::getrlimit(RLIMIT_FSIZE, &before), 0);
    const auto handler = std::signal(SIGXFSZ, SIG_IGN);
    const rlimit small{1000, before.rlim_max};
    ASSERT_EQ(::setrlimit(RLIMIT_FSIZE, &small), 0);
    const auto problem = writeFile(folder / "f", std::string(5000, 'x'));
    ::setrlimit(RLIMIT_FSIZE, &before);
    std::signal(SIGXFSZ, handler);
    ASSERT_TRUE(problem);
    EXPECT_NE(problem->what.find("cannot be written: File too large"), std::string::npos) << problem->what;
    EXPECT_EQ(test::textOf(folder / "f"), "old");
    EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder.path()), {}), 1)
        << "nothing half-written is left";
}

TEST(TextFile, ADeviceOrAPipeStaysWhatItIsAndGetsTheBytes)
{
    namespace fs = std::filesystem;
    const TempFolder folder;
    const auto pipe = folder / "pipe";
    ASSERT_EQ(::mkfifo(pipe.c_str(), 0600), 0);
    const auto unread = writeFile(pipe, "x");
    ASSERT_TRUE(unread) << "nothing reads from it: a sentence, not a wait without end";
    EXPECT_NE(unread->what.find("nothing reads"), std::string::npos) << unread->what;
    std::string read;
    std::thread reader([&] { read = test::textOf(pipe); });
    while (writeFile(pipe, "through the pipe")) // until the reader has opened it
        std::this_thread::yield();
    reader.join();
    EXPECT_EQ(read, "through the pipe");
    EXPECT_TRUE(fs::is_fifo(pipe));

    const auto device = folder / "null"; // a link, so that a fault would replace the link and not the device
    fs::create_symlink("/dev/null", device);
    EXPECT_FALSE(writeFile(device, "gone"));
    EXPECT_TRUE(fs::is_character_file(device));
}

TEST(TextFile, ASymbolicLinkStaysAndItsTargetGetsTheBytesWithItsPermissions)
{
    namespace fs = std::filesystem;
    const TempFolder folder;
    const auto target = folder.write("target", "old"), link = folder / "link";
    fs::permissions(target, fs::perms::owner_read | fs::perms::owner_write);
    fs::create_symlink("target", link);
    EXPECT_FALSE(writeFile(link, "new"));
    EXPECT_TRUE(fs::is_symlink(link));
    EXPECT_EQ(test::textOf(target), "new");
    EXPECT_EQ(fs::status(target).permissions(), fs::perms::owner_read | fs::perms::owner_write);
}

TEST(TextFile, AnOutputIsNoneOfTheInputs)
{
    const TempFolder folder;
    const auto input = folder.write("in", "old"), link = folder / "link";
    std::filesystem::create_symlink("in", link);
    const std::filesystem::path inputs[]{"", input};
    EXPECT_TRUE(checkOutput(input, inputs));
    EXPECT_TRUE(checkOutput(link, inputs)) << "by another name";
    EXPECT_TRUE(checkOutput(folder.path() / "." / "in", inputs));
    EXPECT_FALSE(checkOutput(folder / "out", inputs));
    EXPECT_TRUE(checkOutput("", inputs)) << "an empty name";
    EXPECT_TRUE(checkOutput(folder / std::string(256, 'n'), inputs)) << "a name longer than file systems take";
    EXPECT_FALSE(writeFile(folder / std::string(250, 'n'), "long")) << "one that they do take";
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
