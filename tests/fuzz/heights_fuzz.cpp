// SPDX-License-Identifier: Apache-2.0
// Whatever bytes come as a file of heights: heights everywhere or one sentence, never a crash.
#include "support/all_names.h"
#include <fell/terrain/height_map.h>

#include <cmath>
#include <cstdlib>
#include <fstream>
#include <unistd.h>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    const auto file = std::filesystem::temp_directory_path() / ("fell-fuzz-" + std::to_string(::getpid()) + ".heights");
    std::ofstream(file, std::ios::binary | std::ios::trunc)
        .write(reinterpret_cast<const char*>(data), static_cast<std::streamsize>(size));
    const auto map = fell::HeightMap::open(file);
    if (!map && map.problem().what.empty())
        std::abort();
    if (map)
        for (const double at : {-1e9, -0.5, 0.0, 3.25, 1e9})
            if (!std::isfinite(map.value()->at(at, at)))
                std::abort();
    std::error_code error;
    std::filesystem::remove(file, error);
    return 0;
}
