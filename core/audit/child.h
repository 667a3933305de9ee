// SPDX-License-Identifier: Apache-2.0
// Work that may crash, hang or fill the memory, in a separate process.
#pragma once

#include <array>
#include <cstddef>
#include <functional>
#include <string>

namespace fell::audit {

/// What both processes see: the child writes, the parent reads when it has ended.
struct ChildReport {
    int step = 0; // how far the work is
    int beat = 0; // the child's time limit begins again when this changes
    bool isUnlimited = false; // for the time being the child does what may take longer
    bool isDone = false;
    bool isOutOfMemory = false; // the child knows that it used up what it may
    bool isInGuard = false; // it touched memory next to its input, or wrote to the input
    bool isWrite = false; // known on x86-64 alone
    std::array<char, 1000> text{}; // what the child says, null-terminated

    void say(const std::string& sentence);
};

enum class ChildEnd { Done, Crashed, Hung };

struct ChildResult {
    ChildEnd end = ChildEnd::Done;
    int signal = 0; // of a crash; 0 where it called exit
    ChildReport report;
};

struct ChildLimits {
    double seconds = 1; // of processor time without a beat; three times as much of any time
    std::size_t bytes = std::size_t{1} << 29U; // of address space next to what the process has now
};

/// Memory whose ends are guarded: what lies before and after it cannot be touched, and in a child's work it cannot be
/// written.
class GuardedInput {
public:
    /// `isAtEnd`: the bytes end where the guard begins, else they begin where the other guard ends.
    GuardedInput(const void* bytes, std::size_t count, bool isAtEnd);
    ~GuardedInput();
    GuardedInput(const GuardedInput&) = delete;
    GuardedInput& operator=(const GuardedInput&) = delete;
    [[nodiscard]] const void* data() const { return m_data; }

private:
    void* m_map = nullptr;
    std::size_t m_size = 0;
    const void* m_data = nullptr;
};

/// Runs `work` in a child that has a copy of everything, writes nothing to standard output or error, and ends with this
/// process. The child must not be needed for anything but its report.
/// Errors   Throws std::runtime_error where the system starts no process.
/// Threads  From a process that has one thread, or whose other threads only wait for signals.
/// Cost     about 1 ms.
ChildResult runInChild(const std::function<void(ChildReport&)>& work, const ChildLimits& limits);

} // namespace fell::audit
