// SPDX-License-Identifier: Apache-2.0
// Folders for temporary files that do not outlive the process for long.
#pragma once

#include <fell/input/problem.h>

#include <filesystem>
#include <memory>

namespace fell::input {

/// A new folder that only this user can read. It is removed with everything in it when this object is destroyed, by
/// removeTempFolders, or, if the process was killed, by the next process of this user that makes one.
class TempFolder {
public:
    /// Errors  no folder can be made in `parent`. Cost  1 ms; the first call of a process removes what others left.
    static Outcome<std::shared_ptr<const TempFolder>> make(
        const std::filesystem::path& parent = std::filesystem::temp_directory_path());
    ~TempFolder();
    TempFolder(const TempFolder&) = delete;
    TempFolder& operator=(const TempFolder&) = delete;

    [[nodiscard]] const std::filesystem::path& path() const { return m_path; }

private:
    TempFolder(std::filesystem::path path, int lock);

    std::filesystem::path m_path;
    int m_lock = -1; // held on the folder while the process lives: who gets it finds the folder left behind
};

/// Removes the folders of all TempFolders that exist: for a process that ends without destructors.
void removeTempFolders();

} // namespace fell::input
