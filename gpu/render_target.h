// SPDX-License-Identifier: Apache-2.0
// A picture to draw into: colour and depth are textures.
#pragma once

#include <fell/namespaces.h>

#include <cstdint>
#include <vector>

namespace fell::gpu {

/// A picture of `width` x `height` pixels with depth (32-bit float, reversed), in the current context.
class RenderTarget {
public:
    RenderTarget(int width, int height); // 1 to 8192 each
    ~RenderTarget();
    RenderTarget(const RenderTarget&) = delete;
    RenderTarget& operator=(const RenderTarget&) = delete;

    void bind() const;
    [[nodiscard]] int width() const { return m_width; }
    [[nodiscard]] int height() const { return m_height; }
    [[nodiscard]] unsigned colour() const { return m_colour; } // OpenGL's name of the texture
    [[nodiscard]] unsigned depth() const { return m_depth; }
    [[nodiscard]] unsigned framebuffer() const { return m_frame; } // of this context
    /// Red, green, blue, alpha bytes, top row first.
    [[nodiscard]] std::vector<std::uint8_t> read() const;
    /// The same into memory of width * height * 4 bytes.
    void read(std::uint8_t* pixels) const;
    /// The same as blue, green, red, alpha, as windows of a little-endian machine want it.
    void readForWindow(std::uint8_t* pixels) const;

private:
    void readAs(unsigned format, std::uint8_t* pixels) const;
    int m_width, m_height;
    unsigned m_frame = 0, m_colour = 0, m_depth = 0;
};

} // namespace fell::gpu
