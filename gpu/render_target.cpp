// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/render_target.h>

#include <epoxy/gl.h>

#include <algorithm>
#include <cassert>

namespace fell::gpu {

RenderTarget::RenderTarget(int width, int height)
    : m_width(width)
    , m_height(height)
{
    assert(width >= 1 && width <= 8192 && height >= 1 && height <= 8192);
    glCreateTextures(GL_TEXTURE_2D, 1, &m_colour);
    glTextureStorage2D(m_colour, 1, GL_SRGB8_ALPHA8, width, height);
    glCreateTextures(GL_TEXTURE_2D, 1, &m_depth);
    glTextureStorage2D(m_depth, 1, GL_DEPTH_COMPONENT32F, width, height);
    for (const GLuint texture : {m_colour, m_depth}) { // no mipmaps: read a pixel at a time
        glTextureParameteri(texture, GL_TEXTURE_MIN_FILTER, GL_NEAREST);
        glTextureParameteri(texture, GL_TEXTURE_MAG_FILTER, GL_NEAREST);
    }
    glCreateFramebuffers(1, &m_frame);
    glNamedFramebufferTexture(m_frame, GL_COLOR_ATTACHMENT0, m_colour, 0);
    glNamedFramebufferTexture(m_frame, GL_DEPTH_ATTACHMENT, m_depth, 0);
}

RenderTarget::~RenderTarget()
{
    glDeleteFramebuffers(1, &m_frame);
    glDeleteTextures(1, &m_colour);
    glDeleteTextures(1, &m_depth);
}

void RenderTarget::bind() const
{
    glBindFramebuffer(GL_FRAMEBUFFER, m_frame);
}

std::vector<std::uint8_t> RenderTarget::read() const
{
    std::vector<std::uint8_t> pixels(static_cast<std::size_t>(m_width) * static_cast<std::size_t>(m_height) * 4);
    read(pixels.data());
    return pixels;
}

void RenderTarget::read(std::uint8_t* pixels) const
{
    readAs(GL_RGBA, pixels);
}

void RenderTarget::readForWindow(std::uint8_t* pixels) const
{
    readAs(GL_BGRA, pixels);
}

void RenderTarget::readAs(unsigned format, std::uint8_t* pixels) const
{
    const auto row = static_cast<std::ptrdiff_t>(m_width) * 4;
    glBindFramebuffer(GL_READ_FRAMEBUFFER, m_frame);
    glPixelStorei(GL_PACK_ALIGNMENT, 1);
    glReadPixels(0, 0, m_width, m_height, format, GL_UNSIGNED_BYTE, pixels);
    for (std::ptrdiff_t low = 0, high = m_height - 1; low < high; ++low, --high) // OpenGL's first row is the lowest
        std::swap_ranges(pixels + low * row, pixels + (low + 1) * row, pixels + high * row);
}

} // namespace fell::gpu
