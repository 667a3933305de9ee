// SPDX-License-Identifier: Apache-2.0
#include <fell/audit/child.h>

#include <algorithm>
#include <cerrno>
#include <chrono>
#include <csignal>
#include <cstdlib>
#include <cstring>
#include <ctime>
#include <fcntl.h>
#include <new>
#include <stdexcept>
#include <sys/mman.h>
#include <sys/prctl.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <thread>
#include <ucontext.h>
#include <unistd.h>
#include <utility>

namespace fell::audit {
namespace {

constexpr int kLeftByItself = 97;

// Of the one child that this process is, for its signal handler, which can be given nothing.
ChildReport* childReport = nullptr;
std::size_t childBytes = 0; // of address space that it may have
std::pair<const char*, const char*> guarded; // the input and its guards, in parent and child

/// Pages of address space, by what the system says; without allocating.
std::size_t addressSpace()
{
    std::array<char, 64> text{};
    const int file = open("/proc/self/statm", O_RDONLY | O_CLOEXEC);
    if (file < 0)
        return 0;
    const ssize_t read = ::read(file, text.data(), text.size() - 1);
    close(file);
    return read > 0 ? std::strtoull(text.data(), nullptr, 10) * static_cast<std::size_t>(sysconf(_SC_PAGESIZE)) : 0;
}

bool isWriting([[maybe_unused]] const void* context)
{
#if defined(__x86_64__)
    constexpr greg_t kWriteBit = 2; // of a page fault's error code
    return (static_cast<const ucontext_t*>(context)->uc_mcontext.gregs[REG_ERR] & kWriteBit) != 0;
#else
    return false;
#endif
}

void onCrash(int signal, siginfo_t* info, void* context)
{
    const auto* at = static_cast<const char*>(info->si_addr);
    if (childReport) {
        childReport->isInGuard = signal == SIGSEGV && at >= guarded.first && at < guarded.second;
        childReport->isWrite = childReport->isInGuard && isWriting(context);
        constexpr std::size_t kNearly = std::size_t{16} << 20U;
        childReport->isOutOfMemory = !childReport->isInGuard && addressSpace() + kNearly > childBytes;
    }
    ::signal(signal, SIG_DFL);
    ::raise(signal);
}

void limit(decltype(RLIMIT_AS) what, std::size_t to)
{
    const rlimit both{to, to};
    setrlimit(what, &both);
}

double secondsOf(std::chrono::steady_clock::duration time)
{
    return std::chrono::duration<double>(time).count();
}

/// Processor time of another process so far; 0 where it has ended.
double busySecondsOf(pid_t process)
{
    clockid_t clock{};
    timespec time{};
    if (clock_getcpuclockid(process, &clock) != 0 || clock_gettime(clock, &time) != 0)
        return 0;
    return static_cast<double>(time.tv_sec) + static_cast<double>(time.tv_nsec) * 1e-9;
}

[[noreturn]] void beChild(const std::function<void(ChildReport&)>& work, ChildReport& report, const ChildLimits& limits)
{
    prctl(PR_SET_PDEATHSIG, SIGKILL);
    const int nowhere = open("/dev/null", O_RDWR);
    for (const int stream : {0, 1, 2})
        dup2(nowhere, stream);
    limit(RLIMIT_CORE, 0);
#if !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__) // whose shadow is address space
    childBytes = addressSpace() + limits.bytes;
    limit(RLIMIT_AS, childBytes);
#else
    (void)limits;
    childBytes = SIZE_MAX;
#endif
    childReport = &report;
    static std::array<char, 65536> stack; // a stack that has overflowed cannot handle its signal
    const stack_t other{.ss_sp = stack.data(), .ss_flags = 0, .ss_size = stack.size()};
    sigaltstack(&other, nullptr);
    struct sigaction action { };
    action.sa_sigaction = onCrash;
    action.sa_flags = SA_SIGINFO | SA_ONSTACK;
    for (const int signal : {SIGSEGV, SIGBUS, SIGILL, SIGFPE, SIGABRT})
        sigaction(signal, &action, nullptr);
    try {
        work(report);
        report.isDone = true;
    } catch (const std::bad_alloc&) {
        report.isOutOfMemory = true;
    } catch (const std::exception& error) {
        report.say(error.what());
        report.isDone = true;
    }
    _exit(report.isDone ? 0 : kLeftByItself);
}

} // namespace

void ChildReport::say(const std::string& sentence)
{
    const std::size_t length = std::min(sentence.size(), text.size() - 1);
    std::copy_n(sentence.begin(), length, text.begin());
    text[length] = 0;
}

GuardedInput::GuardedInput(const void* bytes, std::size_t count, bool isAtEnd)
{
    const auto page = static_cast<std::size_t>(sysconf(_SC_PAGESIZE));
    const std::size_t guard = 16 * page, inner = (count + page - 1) / page * page;
    m_size = inner + 2 * guard;
    m_map = mmap(nullptr, m_size, PROT_NONE, MAP_PRIVATE | MAP_ANONYMOUS, -1, 0);
    if (m_map == MAP_FAILED)
        throw std::bad_alloc();
    char* begin = static_cast<char*>(m_map) + guard;
    mprotect(begin, inner, PROT_READ | PROT_WRITE);
    char* data = isAtEnd ? begin + inner - count : begin;
    std::memcpy(data, bytes, count);
    mprotect(begin, inner, PROT_READ);
    m_data = data;
    guarded = {static_cast<const char*>(m_map), static_cast<const char*>(m_map) + m_size};
}

GuardedInput::~GuardedInput()
{
    guarded = {};
    munmap(m_map, m_size);
}

ChildResult runInChild(const std::function<void(ChildReport&)>& work, const ChildLimits& limits)
{
    void* page = mmap(nullptr, sizeof(ChildReport), PROT_READ | PROT_WRITE, MAP_SHARED | MAP_ANONYMOUS, -1, 0);
    if (page == MAP_FAILED)
        throw std::bad_alloc();
    auto* report = new (page) ChildReport;
    const pid_t child = fork();
    if (child == 0)
        beChild(work, *report, limits);
    if (child < 0) {
        munmap(page, sizeof(ChildReport));
        throw std::runtime_error(std::string("no process can be started: ") + std::strerror(errno));
    }
    ChildResult out;
    int status = 0, beat = -1;
    constexpr double kOwnSeconds = 120;
    // Time of the processor: on a busy machine nothing that works is taken for a hang. One that sleeps ends later.
    constexpr double kIdleFactor = 3;
    const auto start = std::chrono::steady_clock::now();
    double wallThen = 0, busyThen = 0;
    auto pause = std::chrono::microseconds(100);
    while (waitpid(child, &status, WNOHANG) == 0) {
        const int now = *static_cast<const volatile int*>(&report->beat);
        const bool isUnlimited = *static_cast<const volatile bool*>(&report->isUnlimited);
        const double limit = isUnlimited ? kOwnSeconds : limits.seconds;
        const double wall = secondsOf(std::chrono::steady_clock::now() - start), busy = busySecondsOf(child);
        if (now != beat) {
            beat = now;
            wallThen = wall;
            busyThen = busy;
        } else if (busy - busyThen > limit || wall - wallThen > kIdleFactor * limit) {
            kill(child, SIGKILL);
            waitpid(child, &status, 0);
            out.end = ChildEnd::Hung;
            break;
        }
        std::this_thread::sleep_for(pause);
        pause = std::min(pause * 2, std::chrono::microseconds(2000));
    }
    out.report = *report;
    munmap(page, sizeof(ChildReport));
    if (out.end != ChildEnd::Hung && !out.report.isDone) {
        out.end = ChildEnd::Crashed;
        out.signal = WIFSIGNALED(status) ? WTERMSIG(status) : 0;
    }
    return out;
}

} // namespace fell::audit
