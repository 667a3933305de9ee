// SPDX-License-Identifier: Apache-2.0
// The levels of Paint::Light as a texture. Private to gpu/: includes OpenGL.
#pragma once

#include <fell/gpu/resources.h>
#include <fell/stream/light_view.h>

#include <array>
#include <cstdint>
#include <memory>

namespace fell::gpu {

/// One texel a voxel, its light as in PackedLight. Cost: an upload of the box where the levels are others.
/// A class because it is rebuilt only then.
class LevelTexture {
public:
    static constexpr GLuint kUnit = 2; // as in paint_light.glsl
    explicit LevelTexture(ResourceTable& table)
        : m_table(table)
    {
    }
    /// Binds the levels; one unknown voxel where there are none.
    void use(const std::shared_ptr<const LightVolume>& light)
    {
        if (!m_texture || light != m_shown)
            make(light);
        glBindTextureUnit(kUnit, m_texture.id());
    }

private:
    void make(const std::shared_ptr<const LightVolume>& light)
    {
        m_shown = light;
        const std::uint8_t unknown = 255;
        const std::array<int, 3> size = light ? light->size : std::array<int, 3>{1, 1, 1};
        m_texture = Texture(m_table, "levels of light", GL_TEXTURE_3D, light ? light->levels.size() : 1);
        glTextureParameteri(m_texture.id(), GL_TEXTURE_MIN_FILTER, GL_NEAREST);
        glTextureParameteri(m_texture.id(), GL_TEXTURE_MAG_FILTER, GL_NEAREST);
        glTextureStorage3D(m_texture.id(), 1, GL_R8UI, size[0], size[2], size[1]);
        glPixelStorei(GL_UNPACK_ALIGNMENT, 1);
        glTextureSubImage3D(m_texture.id(), 0, 0, 0, 0, size[0], size[2], size[1], GL_RED_INTEGER, GL_UNSIGNED_BYTE,
            light ? light->levels.data() : &unknown);
        glPixelStorei(GL_UNPACK_ALIGNMENT, 4);
    }
    ResourceTable& m_table;
    Texture m_texture;
    std::shared_ptr<const LightVolume> m_shown;
};

} // namespace fell::gpu
