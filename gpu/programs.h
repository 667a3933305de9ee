// SPDX-License-Identifier: Apache-2.0
// The terrain's programs: one for each layout and way of drawing, linked when first needed.
#pragma once

#include "input/problem.h"

#include <glm/mat4x4.hpp>
#include <glm/vec2.hpp>
#include <glm/vec3.hpp>

#include <map>
#include <optional>
#include <utility>

namespace fell {

/// What a program is for.
struct ProgramKey {
    enum class Vertices { Floats, Corners, Packed, Shapes } vertices = Vertices::Corners;
    bool instanced = false; // a quad an instance
    bool overlay = false; // can draw wireframe, normals, sizes, levels of light
    int lamps = 0, skies = 0; // channels of light: 0, 1 or 3
    bool rims = false; // a word beside each quad says how it is shaded
    /// How a side's levels of light run: not at all; between its corners; between those of each of its cells.
    enum class Light { Even, Corners, Cells } light = Light::Corners;
    auto operator<=>(const ProgramKey&) const = default;
};

/// What is the same for all programs of a frame.
struct FrameUniforms {
    glm::mat4 toClip{1};
    glm::vec3 eye{0}; // within its cell
    glm::vec3 sun{0, 1, 0}, sunlight{0}, skylight{0}, horizon{0}, zenith{0}, wire{0};
    glm::vec2 fog{0, 1}; // voxels
    int paint = 0;
    int channel = 0; // of light, for paint 3
    glm::ivec3 levelsLow{0}; // voxels from the eye's cell
    bool wireframe = false;
    glm::vec4 ghost{0}; // colour, and how much of it is mixed in
    int stripes = 0; // of the ghost, see GhostLook
};

/// A class because it owns OpenGL programs; all calls need their context.
class Programs {
public:
    Programs() = default;
    ~Programs();
    Programs(const Programs&) = delete;
    Programs& operator=(const Programs&) = delete;

    /// Links what every setup needs, so that a driver that cannot is found out at once.
    std::optional<Problem> prepare();
    /// Why a program could not be linked since the last call: what it draws is missing. Nothing where all is well.
    [[nodiscard]] std::optional<Problem> takeTrouble() { return std::exchange(m_trouble, std::nullopt); }
    /// Makes a program current, with the uniforms of this frame. `frame` tells one frame's uniforms from another's.
    void use(const ProgramKey& key, const FrameUniforms& uniforms, std::uint64_t frame);

private:
    struct Linked {
        unsigned program = 0;
        std::uint64_t frame = 0; // whose uniforms it has
    };
    Outcome<unsigned> link(const ProgramKey& key);
    std::map<ProgramKey, Linked> m_linked;
    std::optional<Problem> m_trouble;
};

} // namespace fell
