// SPDX-License-Identifier: Apache-2.0
// Runs the real fell-cli as a script would: exit codes, standard output, standard error.
#pragma once

#include "support/all_names.h"
#include "support/build_folders.h"
#include "support/temp_folder.h"

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <string>
#include <sys/wait.h>

namespace fell::test {

struct Ran {
    int code = -1; // -1: a signal ended it
    std::string out, err;
    [[nodiscard]] nlohmann::json parsed() const { return nlohmann::json::parse(out, nullptr, false); }
};

/// Runs it in the folder. `redirected`: where standard output goes, in the shell's words; without that it is read.
/// `before`: what is written before the command, e.g. a variable; without that it has two minutes.
inline Ran runCli(const std::filesystem::path& folder, const std::string& arguments, const std::string& redirected = "",
    const std::string& before = "")
{
    const std::filesystem::path out = folder / "stdout", err = folder / "stderr";
    const std::string command = "cd " + folder.string() + " && " + (before.empty() ? "timeout 120" : before) + " "
        + buildFolder() + "/fell-cli " + arguments + (redirected.empty() ? " >" + out.string() : redirected) + " 2>"
        + err.string() + " </dev/null";
    const int status
        = std::system(command.c_str()); // NOLINT(cert-env33-c,concurrency-mt-unsafe): a shell is what users have
    return {WIFEXITED(status) ? WEXITSTATUS(status) : -1, redirected.empty() ? textOf(out) : "", textOf(err)};
}

/// In a separate folder.
inline Ran runAlone(const std::string& arguments, const std::string& before = "")
{
    const TempFolder folder;
    return runCli(folder.path(), arguments, "", before);
}

/// What is said is one line.
inline void expectOneSentence(const Ran& ran, const std::string& part)
{
    EXPECT_NE(ran.err.find(part), std::string::npos) << ran.err;
    EXPECT_EQ(std::count(ran.err.begin(), ran.err.end(), '\n'), 1) << ran.err;
    EXPECT_TRUE(ran.out.empty()) << ran.out;
}

} // namespace fell::test
