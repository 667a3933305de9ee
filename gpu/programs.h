// SPDX-License-Identifier: Apache-2.0
// The terrain's programs: one for each layout, way of drawing and paint mode, linked when first needed. Private to
// gpu/.
#pragma once

#include <fell/gpu/paints.h>
#include <fell/gpu/resources.h>
#include <fell/gpu/shader_library.h>

#include <map>
#include <memory>
#include <optional>
#include <utility>
#include <vector>

namespace fell::gpu {

/// What a program is for.
struct ProgramKey {
    enum class Vertices { Floats, Corners, Packed, Shapes } vertices = Vertices::Corners;
    bool instanced = false; // a quad an instance
    /// How the vertices of triangles come: three each; through indices, so that no vertex knows which corner it is; or
    /// read through the indices by the shader itself, so that each does.
    enum class Triangles { Listed, Indexed, Pulled } triangles = Triangles::Listed;
    bool overlay = false; // knows directions and edges: wireframe, ghosts, every paint but textures
    int lamps = 0, skies = 0; // channels of light: 0, 1 or 3
    bool rims = false; // a word next to each quad says how it is shaded
    /// How a side's levels of light run: not at all; between its corners; between those of each of its cells.
    enum class Light { Even, Corners, Cells } light = Light::Corners;
    Paint paint = Paint::Textures;
    bool blends = false; // writes linear light into a target that encodes it
    auto operator<=>(const ProgramKey&) const = default;
};

/// A class because it owns OpenGL programs; all calls need their context.
class Programs {
public:
    Programs(ResourceTable& table, const ShaderLibrary& library)
        : m_table(table)
        , m_library(library)
    {
    }
    /// Links what every setup needs, so that a driver that cannot is found out at once.
    std::optional<Problem> prepare();
    /// Why a program could not be linked since the last call: what it draws is missing. Nothing where all is well.
    [[nodiscard]] std::optional<Problem> takeTrouble() { return std::exchange(m_trouble, std::nullopt); }
    /// Makes a program current.
    void use(const ProgramKey& key);
    /// A program that a pass has for itself; empty where it does not link, which prepare() says.
    std::shared_ptr<const Program> add(ProgramSource source);
    /// Links all of them from the library's texts as they are now.
    /// Errors  a program that does not link: then all stay as they were.
    /// Cost    about 5 ms a program on a software rasteriser.
    std::optional<Problem> relink();

private:
    struct OfPass {
        ProgramSource source;
        std::shared_ptr<Program> program;
    };
    [[nodiscard]] Outcome<Program> linked(const ProgramSource& source) const;
    ResourceTable& m_table;
    const ShaderLibrary& m_library;
    std::map<ProgramKey, Program> m_linked;
    std::vector<OfPass> m_ofPasses;
    std::optional<Problem> m_trouble;
};

} // namespace fell::gpu
