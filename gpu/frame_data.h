// SPDX-License-Identifier: Apache-2.0
// What is the same for all shaders of a pass: the uniform block of frame.glsl. Private to gpu/.
#pragma once

#include <fell/blocks/srgb.h>
#include <fell/gpu/resources.h>

#include <glm/mat4x4.hpp>
#include <glm/vec4.hpp>

#include <array>
#include <cstdint>

namespace fell::gpu {

constexpr int kLights = 1; // as in frame.glsl
constexpr GLuint kFrameBinding = 0;

/// A light far away.
struct FrameLight {
    glm::vec4 towards{0, 1, 0, 0}; // length 1
    glm::vec4 power{0}; // by colour, 1 for plain white at noon
    bool operator==(const FrameLight&) const = default;
};

/// Of a screen colour; both 0 to 1 a channel.
[[nodiscard]] inline glm::vec3 linearOf(const glm::vec3& screen)
{
    return {blocks::linearOf(screen.r), blocks::linearOf(screen.g), blocks::linearOf(screen.b)};
}

/// Laid out as std140 has it. Units  voxels; colours and powers are linear.
struct FrameData {
    glm::mat4 viewProjection{1};
    glm::mat4 toDirection{1}; // clip space to world directions
    glm::vec4 eye{0}; // within its cell
    glm::vec4 skylight{0};
    glm::vec4 horizon{0}, zenith{0};
    glm::vec4 wire{0}; // colour of the wireframe
    glm::vec4 ghost{0}; // colour, and how much of it is mixed in
    glm::vec4 fog{0, 1, 0, 0}; // none nearer than x, all beyond y
    glm::ivec4 levelsLow{0}; // where the levels of light begin, from the eye's cell; w: their channel
    glm::ivec4 switches{0}; // wireframe, stripes of the ghost
    glm::vec4 heights{0, 1, 0, 0}; // metres of the eye over a height that is a multiple of 100; metres of a voxel
    std::array<FrameLight, kLights> lights{};
    bool operator==(const FrameData&) const = default;
};
static_assert(sizeof(FrameData) == 2 * 64 + 10 * 16 + kLights * 32);

/// The block's buffer. A class because it is only written where something is another.
class FrameBlock {
public:
    explicit FrameBlock(ResourceTable& table)
        : m_buffer(table, "frame")
    {
    }
    /// For the draws to come.
    void use(const FrameData& data)
    {
        if (!m_isThere || !(m_held == data)) {
            m_buffer.set(&data, sizeof data);
            m_held = data;
            m_isThere = true;
        }
        glBindBufferBase(GL_UNIFORM_BUFFER, kFrameBinding, m_buffer.id());
    }

private:
    Buffer m_buffer;
    FrameData m_held;
    bool m_isThere = false;
};

} // namespace fell::gpu
