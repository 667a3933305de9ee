// SPDX-License-Identifier: Apache-2.0
// Whatever bytes come: heights or one sentence, never a crash and no file left half-made.
#include "support/all_names.h"
#include <fell/exchange/height_png.h>

#include <cstdlib>
#include <fstream>
#include <unistd.h>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    const auto folder = std::filesystem::temp_directory_path();
    const auto in = folder / ("fell-fuzz-" + std::to_string(::getpid()) + ".png"),
               out = folder / (in.stem().string() + ".heights");
    std::ofstream(in, std::ios::binary | std::ios::trunc)
        .write(reinterpret_cast<const char*>(data), static_cast<std::streamsize>(size));
    const auto info = fell::heightPngInfo(in);
    const bool isSmall = info && static_cast<std::int64_t>(info.value().width) * info.value().height < 1 << 22;
    const auto problem = isSmall ? fell::importHeightPng(in, out) : std::nullopt;
    if ((problem && (problem->what.empty() || std::filesystem::exists(out))) || (!info && info.problem().what.empty()))
        std::abort();
    std::error_code error;
    std::filesystem::remove(in, error);
    std::filesystem::remove(out, error);
    return 0;
}
