// SPDX-License-Identifier: Apache-2.0
// A folder that is gone after the test.
#pragma once

#include "support/all_names.h"

#include <filesystem>
#include <fstream>
#include <string>
#include <unistd.h>

namespace fell::test {

class TempFolder {
public:
    TempFolder()
        : m_path(std::filesystem::temp_directory_path()
            / ("fell-test-" + std::to_string(::getpid()) + "-" + std::to_string(s_next++)))
    {
        std::filesystem::create_directories(m_path);
    }
    ~TempFolder()
    {
        std::error_code error;
        std::filesystem::permissions(m_path, std::filesystem::perms::owner_all, error);
        std::filesystem::remove_all(m_path, error);
    }
    TempFolder(const TempFolder&) = delete;
    TempFolder& operator=(const TempFolder&) = delete;

    [[nodiscard]] std::filesystem::path operator/(const std::string& name) const { return m_path / name; }
    [[nodiscard]] const std::filesystem::path& path() const { return m_path; }
    [[nodiscard]] std::filesystem::path write(const std::string& name, const std::string& text) const
    {
        std::ofstream(m_path / name, std::ios::binary) << text;
        return m_path / name;
    }

private:
    static inline int s_next = 0;
    std::filesystem::path m_path;
};

inline std::string textOf(const std::filesystem::path& file)
{
    std::ifstream stream(file, std::ios::binary);
    return {std::istreambuf_iterator<char>(stream), {}};
}

} // namespace fell::test
