// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/picture.h>

#include <cassert>

#pragma GCC diagnostic push
#pragma GCC diagnostic ignored "-Wmissing-field-initializers"
#define STB_IMAGE_WRITE_IMPLEMENTATION
#define STB_IMAGE_WRITE_STATIC
#pragma GCC diagnostic ignored "-Wunused-function"
#include <stb/stb_image_write.h>
#pragma GCC diagnostic pop

namespace fell::gpu {

std::string toPng(std::span<const std::uint8_t> pixels, int width, int height)
{
    assert(pixels.size() == static_cast<std::size_t>(width) * static_cast<std::size_t>(height) * 4);
    std::string out;
    const auto append = [](void* to, void* data, int size) {
        static_cast<std::string*>(to)->append(static_cast<const char*>(data), static_cast<std::size_t>(size));
    };
    stbi_write_png_to_func(append, &out, width, height, 4, pixels.data(), width * 4);
    return out;
}

} // namespace fell::gpu
