// SPDX-License-Identifier: Apache-2.0
// How a chunk's mesh lies in memory: the one description that meshing, upload, estimates, audits and exports share.
#pragma once

#include <fell/light/light_rules.h>
#include <fell/mesh/layouts.h>
#include <fell/mesh/ring_occlusion.h>

#include <cstddef>
#include <cstdint>

namespace fell::mesh {

/// Where ambient occlusion is: nowhere; at the corners of the quads, which it cuts; in a word next to each quad
/// (OcclusionRing).
enum class OcclusionForm : std::uint8_t { None, Corners, Rings };

/// Units  sizes in bytes of a quad, where nothing else is said.
struct MeshFormat {
    const VertexLayout* layout = nullptr;
    LightFormat light;
    OcclusionForm occlusion = OcclusionForm::None;
    bool wantsCells = false; // light that varies over a quad lies in cells next to it, and cuts none (LightCells)
    bool byBlock = false; // solid quads are cut to the sides of single voxels and listed by voxel, for a draw a block

    [[nodiscard]] bool isLit() const { return light.channels() > 0; }
    [[nodiscard]] bool hasRings() const { return occlusion == OcclusionForm::Rings; }
    /// Not where sides are drawn voxel by voxel: those lie otherwise.
    [[nodiscard]] bool hasCells() const { return isLit() && wantsCells && !byBlock; }

    [[nodiscard]] std::size_t vertexBytes() const { return layout->bytesPerQuad(isLit()); }
    [[nodiscard]] std::size_t ringBytes() const { return hasRings() ? sizeof(OcclusionRing) : 0; }
    [[nodiscard]] std::size_t quadBytes() const { return vertexBytes() + ringBytes(); }
    /// 32-bit words of one cell of light; 0 without cells.
    [[nodiscard]] std::size_t cellWords() const { return hasCells() ? LightCells::wordsFor(light.channels()) : 0; }
    bool operator==(const MeshFormat&) const = default;
};

} // namespace fell::mesh
