// SPDX-License-Identifier: Apache-2.0
// What is seen from one eye: its chunks, nearest first, and where they are. Several can stand next to each other.
// Private to gpu/.
#pragma once

#include <fell/gpu/chunk_store.h>

#include <glm/mat4x4.hpp>
#include <glm/vec4.hpp>

#include <vector>

namespace fell::gpu {

/// A chunk of a view, and which directions of its solid sides are drawn.
struct ShownHere {
    HeldChunk* chunk = nullptr;
    SideSet sides = kAllSides;
};

/// Where a draw's chunk or object is, as vertex shaders take it.
struct DrawPlace {
    glm::vec4 at; // voxels from the eye's cell; level + 16 * number that is drawn
    GLuint cells = 0; // where its cells of light begin
};
static_assert(sizeof(DrawPlace) == 20);

/// Chunks in the order in which they are drawn, and the buffer of their places.
class DrawList {
public:
    explicit DrawList(ResourceTable& table, const char* label)
        : m_buffer(table, label)
    {
    }
    /// The chunks of `kept`, nearest first: what is hidden fails the depth test early. `numbered`: each draws its
    /// number in the scene in place of its picture.
    void show(ChunkStore& store, const std::vector<KeptChunk>& kept, const Eye& eye, int edge, bool numbered = false);

    [[nodiscard]] const std::vector<ShownHere>& shown() const { return m_shown; }
    [[nodiscard]] const std::vector<DrawPlace>& places() const { return m_places; }
    [[nodiscard]] GLuint placeBuffer() const { return m_buffer.id(); }
    [[nodiscard]] bool isEmpty() const { return m_shown.empty(); }

private:
    std::vector<ShownHere> m_shown;
    std::vector<DrawPlace> m_places;
    Buffer m_buffer;
};

/// One look at the world.
struct DrawView {
    Eye eye;
    Lens lens;
    glm::mat4 toClip{1}; // reversed depth
    glm::mat4 toSky{1}; // for directions
    int width = 0, height = 0; // pixels
    DrawList* list = nullptr;
};

} // namespace fell::gpu
