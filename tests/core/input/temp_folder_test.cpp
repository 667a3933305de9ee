// SPDX-License-Identifier: Apache-2.0
#include <fell/input/temp_folder.h>

#include "support/all_names.h"
#include "support/temp_folder.h"

#include <gtest/gtest.h>

#include <csignal>
#include <sys/wait.h>

namespace fell::temp_folder_test {
namespace {

namespace fs = std::filesystem;
using Clock = fs::file_time_type::clock;

/// The folder that a child process made in `parent` before it was killed.
fs::path madeByAKilledChild(const fs::path& parent)
{
    const pid_t child = ::fork();
    if (child == 0) {
        const auto made = TempFolder::make(parent);
        if (!made)
            ::_exit(1);
        std::ofstream(made.value()->path() / "voxels") << "some";
        ::raise(SIGKILL);
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    EXPECT_TRUE(WIFSIGNALED(status));
    fs::path found;
    for (const auto& entry : fs::directory_iterator(parent))
        found = entry.path();
    return found;
}

/// What a new process finds in `parent` after it has made and removed another folder.
void makeInANewProcess(const fs::path& parent)
{
    const pid_t child = ::fork();
    if (child == 0)
        ::_exit(TempFolder::make(parent) ? 0 : 1);
    int status = 0;
    ::waitpid(child, &status, 0);
    ASSERT_EQ(WEXITSTATUS(status), 0);
}

TEST(TempFolder, IsForThisUserAloneAndIsRemovedWithItsLastOwner)
{
    const test::TempFolder parent;
    fs::path path;
    {
        const auto made = TempFolder::make(parent.path());
        ASSERT_TRUE(made);
        path = made.value()->path();
        EXPECT_EQ(fs::status(path).permissions() & (fs::perms::others_all | fs::perms::group_all), fs::perms::none);
        std::ofstream(path / "a.png") << "x";
    }
    EXPECT_FALSE(fs::exists(path));
    EXPECT_NE(sentence(TempFolder::make(parent / "nowhere").problem()).find("TMPDIR"), std::string::npos);
}

TEST(TempFolder, OfAKilledProcessIsRemovedByTheNext)
{
    const test::TempFolder parent;
    const fs::path left = madeByAKilledChild(parent.path());
    ASSERT_TRUE(fs::exists(left / "voxels"));
    makeInANewProcess(parent.path());
    EXPECT_TRUE(fs::exists(left)) << "it is so young that its process may only just have made it";
    fs::last_write_time(left, Clock::now() - std::chrono::hours(1));
    makeInANewProcess(parent.path());
    EXPECT_FALSE(fs::exists(left));
}

TEST(TempFolder, OfALivingProcessAndWhatIsNoneOfOursStay)
{
    const test::TempFolder parent;
    const auto mine = TempFolder::make(parent.path());
    ASSERT_TRUE(mine);
    fs::create_directories(parent / "fell-world");
    fs::create_directory_symlink(parent / "fell-world", parent / "fell-temp-link");
    for (const fs::path& one : {mine.value()->path(), parent / "fell-world"})
        fs::last_write_time(one, Clock::now() - std::chrono::hours(1));
    makeInANewProcess(parent.path());
    EXPECT_TRUE(fs::exists(mine.value()->path()));
    EXPECT_TRUE(fs::exists(parent / "fell-world"));
    EXPECT_TRUE(fs::is_symlink(parent / "fell-temp-link"));
}

TEST(TempFolder, AllOfThemAreRemovedWhereAProcessEndsWithoutDestructors)
{
    const test::TempFolder parent;
    const pid_t child = ::fork();
    if (child == 0) {
        const auto one = TempFolder::make(parent.path()), two = TempFolder::make(parent.path());
        std::ofstream(two.value()->path() / "voxels") << "some";
        removeTempFolders();
        ::_exit(0);
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    EXPECT_TRUE(fs::is_empty(parent.path()));
}

} // namespace
} // namespace fell::temp_folder_test
