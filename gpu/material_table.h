// SPDX-License-Identifier: Apache-2.0
// How blocks look: their pictures, a word for each side of each kind, and the triangles of shaped kinds. Private to
// gpu/: includes OpenGL.
#pragma once

#include <fell/gpu/renderer.h>
#include <fell/gpu/resources.h>
#include <fell/gpu/textures.h>
#include <fell/setup/pipeline.h>

#include <vector>

namespace fell::gpu {

/// Rebuilt for another block set, which decodes its pictures. All calls need their context.
/// A class because textures, words and shapes are those of one block set.
class MaterialTable {
public:
    explicit MaterialTable(ResourceTable& table);

    /// Errors go to `warnings`: pictures that could not be read, what the driver does not offer.
    void show(const BlockSet& blocks, TextureFilter filter, const GpuLimits& limits, std::vector<Problem>& warnings);
    void setFilter(TextureFilter filter, const GpuLimits& limits, std::vector<Problem>& warnings) const;

    /// An array, a layer a picture.
    [[nodiscard]] GLuint pictures() const { return m_pictures.id(); }
    /// A texel for each kind's top, side and bottom: see material.glsl.
    [[nodiscard]] GLuint words() const { return m_wordTexture.id(); }
    /// All shaped kinds' triangles in one list, and where a kind's are.
    [[nodiscard]] GLuint shapes() const { return m_shapes.id(); }
    struct Range {
        std::uint32_t first = 0, count = 0; // vertices
    };
    [[nodiscard]] const Range& shapeOf(Material material) const { return m_shapeOf[material]; }
    [[nodiscard]] std::size_t shapeBytes() const { return m_shapes.bytes(); }

private:
    ResourceTable& m_table;
    ReadPictures m_read;
    std::vector<std::uint8_t> m_pixels; // of m_pictures
    Texture m_pictures, m_wordTexture;
    Buffer m_words, m_shapes;
    std::vector<Range> m_shapeOf; // by material
};

} // namespace fell::gpu
