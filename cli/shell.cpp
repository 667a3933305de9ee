// SPDX-License-Identifier: Apache-2.0
#include "shell.h"

#include <cerrno>
#include <chrono>
#include <csignal>
#include <cstdio>
#include <cstring>
#include <memory>
#include <spawn.h>
#include <sys/wait.h>
#include <thread>
#include <unistd.h>

namespace fell::cli {
namespace {

struct Close {
    void operator()(std::FILE* file) const { std::fclose(file); }
};
using File = std::unique_ptr<std::FILE, Close>; // a temporary one, which has no name and goes with its handle

std::string contentsOf(const File& file)
{
    std::string text;
    std::rewind(file.get());
    char part[65536];
    for (std::size_t got; (got = std::fread(part, 1, sizeof part, file.get())) > 0;)
        text.append(part, got);
    return text;
}

} // namespace

Outcome<ShellResult> runShell(const std::string& command, const std::stop_token& stop)
{
    const File out(std::tmpfile()), err(std::tmpfile());
    if (!out || !err)
        return Problem{"temporary files", "", std::string("cannot be made: ") + std::strerror(errno) + "; free space"};
    posix_spawn_file_actions_t actions;
    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_addopen(&actions, STDIN_FILENO, "/dev/null", 0, 0);
    posix_spawn_file_actions_adddup2(&actions, ::fileno(out.get()), STDOUT_FILENO);
    posix_spawn_file_actions_adddup2(&actions, ::fileno(err.get()), STDERR_FILENO);
    posix_spawnattr_t attributes;
    posix_spawnattr_init(&attributes);
    sigset_t none; // stopOnSignals has blocked some in this process
    sigemptyset(&none);
    posix_spawnattr_setsigmask(&attributes, &none);
    posix_spawnattr_setflags(&attributes, POSIX_SPAWN_SETSIGMASK | POSIX_SPAWN_SETPGROUP);
    std::string shell = "sh", option = "-c", line = command;
    char* const arguments[]{shell.data(), option.data(), line.data(), nullptr};
    pid_t child = 0;
    const int failed = posix_spawn(&child, "/bin/sh", &actions, &attributes, arguments, environ);
    posix_spawn_file_actions_destroy(&actions);
    posix_spawnattr_destroy(&attributes);
    if (failed != 0)
        return Problem{
            "/bin/sh", "", std::string("cannot be started: ") + std::strerror(failed) + "; a shell is expected"};
    ShellResult result;
    int status = 0;
    bool isTooLong = false;
    auto pause = std::chrono::milliseconds(1);
    constexpr std::chrono::milliseconds kLongest(20);
    while (::waitpid(child, &status, WNOHANG) == 0) {
        isTooLong |= std::ftell(out.get()) >= 0
            && ::lseek(::fileno(out.get()), 0, SEEK_CUR) > static_cast<off_t>(kMaxShellOutput);
        result.stopped = stop.stop_requested();
        if (result.stopped || isTooLong)
            ::kill(-child, SIGKILL);
        std::this_thread::sleep_for(pause);
        pause = std::min(pause * 2, kLongest);
    }
    if (isTooLong || ::lseek(::fileno(out.get()), 0, SEEK_END) > static_cast<off_t>(kMaxShellOutput))
        return Problem{command, "",
            "prints more than " + std::to_string(kMaxShellOutput >> 20U) + " MiB, a Fell document is expected"};
    constexpr int kSignalled = 128;
    result.code = WIFEXITED(status) ? WEXITSTATUS(status) : kSignalled + WTERMSIG(status);
    result.out = contentsOf(out);
    result.err = contentsOf(err);
    return result;
}

} // namespace fell::cli
