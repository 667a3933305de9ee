// SPDX-License-Identifier: Apache-2.0
#include <fell/input/text_file.h>

#include <atomic>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <poll.h>
#include <sys/stat.h>
#include <unistd.h>
#include <vector>

namespace fs = std::filesystem;

namespace fell::input {
namespace {

std::string reason()
{
    return std::strerror(errno); // NOLINT(concurrency-mt-unsafe): read at once, for a message only
}

fs::path folderOf(const fs::path& path)
{
    return path.has_parent_path() ? path.parent_path() : fs::path(".");
}

std::optional<Problem> writeAll(int file, std::string_view bytes, const fs::path& path)
{
    while (!bytes.empty()) {
        const ssize_t written = ::write(file, bytes.data(), bytes.size());
        if (written < 0 && errno == EINTR)
            continue;
        if (written <= 0)
            return Problem{path.string(), "", "cannot be written: " + reason()};
        bytes.remove_prefix(static_cast<std::size_t>(written));
    }
    return std::nullopt;
}

/// To a device or a pipe, which stays what it is. A pipe that nothing reads is a problem, not a wait without end.
std::optional<Problem> writeStream(const fs::path& path, std::string_view bytes)
{
    const int file = ::open(path.c_str(), O_WRONLY | O_NOCTTY | O_NONBLOCK | O_CLOEXEC);
    if (file < 0)
        return Problem{path.string(), "",
            errno == ENXIO ? std::string("nothing reads from this pipe: start the reader first")
                           : "cannot be written: " + reason()};
    ::fcntl(file, F_SETFL, ::fcntl(file, F_GETFL) & ~O_NONBLOCK);
    auto problem = writeAll(file, bytes, path);
    if (::close(file) != 0 && !problem)
        problem = Problem{path.string(), "", "cannot be written: " + reason()};
    return problem;
}

std::optional<Problem> readAll(int file, const fs::path& path, std::size_t limit, std::string& bytes)
{
    constexpr int kPatience = 10'000; // ms without a byte from a pipe
    std::vector<char> block(1 << 16);
    for (;;) {
        pollfd wait{file, POLLIN, 0};
        if (::poll(&wait, 1, kPatience) == 0)
            return Problem{path.string(), "", "nothing came through this pipe for 10 seconds"};
        const ssize_t count = ::read(file, block.data(), block.size());
        if (count < 0 && (errno == EINTR || errno == EAGAIN))
            continue;
        if (count < 0)
            return Problem{path.string(), "", "cannot be read: " + reason()};
        if (count == 0)
            return std::nullopt;
        bytes.append(block.data(), static_cast<std::size_t>(count));
        if (bytes.size() > limit)
            return Problem{
                path.string(), "", "is larger than the " + std::to_string(limit >> 20) + " MiB that are read"};
    }
}

} // namespace

Outcome<std::string> readFile(const fs::path& path, std::size_t limit)
{
    std::error_code error;
    if (!fs::exists(path, error))
        return Problem{path.string(), "", "there is no such file"};
    if (fs::is_directory(path, error))
        return Problem{path.string(), "", "is a folder, a file is expected"};
    // Without O_NONBLOCK a pipe that nothing writes to would hold the program here for ever.
    const int file = ::open(path.c_str(), O_RDONLY | O_NONBLOCK | O_NOCTTY | O_CLOEXEC);
    if (file < 0)
        return Problem{path.string(), "", "cannot be read: " + reason()};
    std::string bytes;
    auto problem = readAll(file, path, limit, bytes);
    ::close(file);
    if (problem)
        return *problem;
    return bytes;
}

bool isStream(const fs::path& path)
{
    std::error_code error;
    const fs::file_status status = fs::status(path, error);
    return fs::is_character_file(status) || fs::is_fifo(status);
}

fs::path resolved(const fs::path& path)
{
    std::error_code error;
    if (isStream(path)) // "/dev/stdout" leads to a name that no file has
        return path;
    const fs::path target = fs::is_symlink(path, error) ? fs::weakly_canonical(path, error) : path;
    return error || target.empty() ? path : target;
}

std::optional<Problem> checkWritable(const fs::path& named)
{
    if (named.empty())
        return Problem{"", "", "the name of the output file is empty: give a file name"};
    std::error_code error;
    const fs::path path = resolved(named);
    const fs::file_status status = fs::status(path, error);
    if (fs::is_directory(status))
        return Problem{named.string(), "", "is a folder, a file name is expected"};
    if (isStream(path)) {
        if (::access(path.c_str(), W_OK) != 0)
            return Problem{named.string(), "", "cannot be written: " + reason()};
        return std::nullopt;
    }
    if (fs::exists(status) && !fs::is_regular_file(status))
        return Problem{named.string(), "", "is neither a file nor a pipe: give the name of a file"};
    constexpr std::size_t kLongestName = 255; // bytes, of Linux file systems
    if (path.filename().string().size() > kLongestName)
        return Problem{named.string(), "", "cannot be written: a file name has at most 255 bytes"};
    const fs::path folder = folderOf(path);
    if (!fs::is_directory(folder, error))
        return Problem{named.string(), "", "cannot be written: the folder " + folder.string() + " does not exist"};
    if (::access(folder.c_str(), W_OK | X_OK) != 0)
        return Problem{
            named.string(), "", "cannot be written: the folder " + folder.string() + " is read-only for you"};
    if (fs::exists(status) && ::access(path.c_str(), W_OK) != 0)
        return Problem{named.string(), "", "cannot be written: the file is read-only for you"};
    return std::nullopt;
}

std::optional<Problem> checkOutput(const fs::path& output, std::span<const fs::path> inputs)
{
    if (isStream(output))
        return checkWritable(output);
    std::error_code error;
    for (const fs::path& input : inputs)
        if (!input.empty() && fs::equivalent(output, input, error))
            return Problem{output.string(), "",
                "is a file that this command reads; it would be replaced: give the output another name"};
    return checkWritable(output);
}

std::optional<Problem> makeFolder(const fs::path& folder)
{
    std::error_code error;
    if (fs::exists(folder, error) && !fs::is_directory(folder, error))
        return Problem{folder.string(), "", "is a file, a folder is expected"};
    fs::create_directories(folder, error);
    if (error)
        return Problem{folder.string(), "", "cannot be made: " + error.message()};
    if (::access(folder.c_str(), W_OK | X_OK) != 0)
        return Problem{folder.string(), "", "is read-only for you"};
    return std::nullopt;
}

bool syncFolder(const fs::path& folder)
{
    const int file = ::open(folder.empty() ? "." : folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    if (file < 0)
        return false;
    const bool isSynced = ::fsync(file) == 0 || errno == EINVAL;
    ::close(file);
    return isSynced;
}

std::optional<Problem> writeFile(const fs::path& named, std::string_view bytes)
{
    if (auto problem = checkWritable(named))
        return problem;
    const fs::path path = resolved(named);
    if (isStream(path))
        return writeStream(path, bytes);
    static std::atomic<unsigned> count{0};
    const fs::path part
        = folderOf(path) / (".fell-" + std::to_string(::getpid()) + "-" + std::to_string(++count) + ".part");
    const int file = ::open(part.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, 0666);
    if (file < 0)
        return Problem{named.string(), "", "cannot be written: " + reason()};
    struct stat old { };
    if (::stat(path.c_str(), &old) == 0)
        ::fchmod(file, old.st_mode & 07777); // the file keeps who may read it
    auto problem = writeAll(file, bytes, named);
    if (!problem && ::fsync(file) != 0 && errno != EINVAL)
        problem = Problem{named.string(), "", "cannot be flushed to the disk: " + reason()};
    if (::close(file) != 0 && !problem)
        problem = Problem{named.string(), "", "cannot be written: " + reason()};
    if (!problem && ::rename(part.c_str(), path.c_str()) != 0)
        problem = Problem{named.string(), "", "cannot be put in place: " + reason()};
    if (problem)
        ::unlink(part.c_str());
    else
        syncFolder(folderOf(path)); // the name survives a power cut too
    return problem;
}

} // namespace fell::input
