// SPDX-License-Identifier: Apache-2.0
// Whatever bytes come as a model, glTF as text or bytes or OBJ: a shape or one sentence, never a crash.
#include "support/all_names.h"
#include <fell/assets/shape_file.h>

#include <cstdlib>
#include <fstream>
#include <unistd.h>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    if (size == 0)
        return 0;
    constexpr const char* kEndings[]{".gltf", ".glb", ".obj"};
    const auto file = std::filesystem::temp_directory_path()
        / ("fell-fuzz-" + std::to_string(::getpid()) + kEndings[data[0] % std::size(kEndings)]);
    std::ofstream(file, std::ios::binary | std::ios::trunc)
        .write(reinterpret_cast<const char*>(data + 1), static_cast<std::streamsize>(size - 1));
    const auto shape = fell::loadShape(file);
    if (!shape && shape.problem().what.empty())
        std::abort();
    std::error_code error;
    std::filesystem::remove(file, error);
    return 0;
}
