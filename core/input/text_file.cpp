// SPDX-License-Identifier: Apache-2.0
#include "input/text_file.h"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <unistd.h>

namespace fs = std::filesystem;

namespace fell {
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
    if (::fsync(file) != 0 && errno != EINVAL)
        return Problem{path.string(), "", "cannot be flushed to the disk: " + reason()};
    return std::nullopt;
}

} // namespace

Outcome<std::string> readFile(const fs::path& path, std::size_t limit)
{
    std::error_code error;
    if (!fs::exists(path, error))
        return Problem{path.string(), "", "there is no such file"};
    if (fs::is_directory(path, error))
        return Problem{path.string(), "", "is a folder, a file is wanted"};
    std::ifstream stream(path, std::ios::binary);
    if (!stream)
        return Problem{path.string(), "", "cannot be read: " + reason()};
    std::string bytes;
    char block[1 << 16];
    while (stream.read(block, sizeof block) || stream.gcount() > 0) {
        bytes.append(block, static_cast<std::size_t>(stream.gcount()));
        if (bytes.size() > limit)
            return Problem{
                path.string(), "", "is larger than the " + std::to_string(limit >> 20) + " MiB that are read"};
    }
    return bytes;
}

std::optional<Problem> checkWritable(const fs::path& path)
{
    std::error_code error;
    if (fs::is_directory(path, error))
        return Problem{path.string(), "", "is a folder, a file name is wanted"};
    const fs::path folder = folderOf(path);
    if (!fs::is_directory(folder, error))
        return Problem{path.string(), "", "cannot be written: the folder " + folder.string() + " does not exist"};
    if (::access(folder.c_str(), W_OK | X_OK) != 0)
        return Problem{path.string(), "", "cannot be written: the folder " + folder.string() + " is read-only for you"};
    if (fs::exists(path, error) && ::access(path.c_str(), W_OK) != 0)
        return Problem{path.string(), "", "cannot be written: the file is read-only for you"};
    return std::nullopt;
}

std::optional<Problem> makeFolder(const fs::path& folder)
{
    std::error_code error;
    if (fs::exists(folder, error) && !fs::is_directory(folder, error))
        return Problem{folder.string(), "", "is a file, a folder is wanted"};
    fs::create_directories(folder, error);
    if (error)
        return Problem{folder.string(), "", "cannot be made: " + error.message()};
    if (::access(folder.c_str(), W_OK | X_OK) != 0)
        return Problem{folder.string(), "", "is read-only for you"};
    return std::nullopt;
}

std::optional<Problem> writeFile(const fs::path& path, std::string_view bytes)
{
    if (auto problem = checkWritable(path))
        return problem;
    fs::path part = path;
    part += ".part" + std::to_string(::getpid());
    const int file = ::open(part.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
    if (file < 0)
        return Problem{path.string(), "", "cannot be written: " + reason()};
    auto problem = writeAll(file, bytes, path);
    if (::close(file) != 0 && !problem)
        problem = Problem{path.string(), "", "cannot be written: " + reason()};
    if (!problem && ::rename(part.c_str(), path.c_str()) != 0)
        problem = Problem{path.string(), "", "cannot be put in place: " + reason()};
    if (problem)
        ::unlink(part.c_str());
    return problem;
}

} // namespace fell
