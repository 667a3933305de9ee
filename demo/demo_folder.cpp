// SPDX-License-Identifier: Apache-2.0
#include <fell/demo/demo_folder.h>

#include <array>
#include <unistd.h>

namespace fell::demo {
namespace {

namespace fs = std::filesystem;

/// Where an installed program was installed to, from bin/NAME or lib/fell/LEVEL/NAME; empty where the system does not
/// tell where it is.
fs::path prefix()
{
    std::error_code error;
    const fs::path program = fs::read_symlink("/proc/self/exe", error);
    if (error)
        return {};
    const fs::path above = program.parent_path().parent_path();
    return above.filename() == "fell" && above.parent_path().filename() == "lib" ? above.parent_path().parent_path()
                                                                                 : above;
}

/// The first that is a folder with this entry; the last if none is.
template <std::size_t kCount> fs::path firstWith(const std::array<fs::path, kCount>& folders, const char* entry)
{
    std::error_code error;
    for (const fs::path& folder : folders)
        if (fs::exists(folder / entry, error))
            return folder;
    return folders.back();
}

} // namespace

std::filesystem::path demoFolder()
{
    static const fs::path kFolder
        = firstWith(std::array<fs::path, 2>{prefix() / "share/fell/demo", FELL_DEMO_DIR}, "setups");
    return kFolder;
}

std::filesystem::path documentsFolder()
{
    static const fs::path kFolder = firstWith(
        std::array<fs::path, 2>{prefix() / "share/doc/fell", demoFolder().parent_path() / "docs"}, "index.md");
    return kFolder;
}

} // namespace fell::demo
