// SPDX-License-Identifier: Apache-2.0
#include <fell/setup/stages.h>

#include <fell/cull/steps.h>
#include <fell/light/light_rules.h>
#include <fell/lod/selection.h>
#include <fell/mesh/meshers.h>
#include <fell/terrain/generate.h>

#include <array>

namespace fell::setup {
namespace {

constexpr std::array<NamedMethod, 3> kShapes{{
    {"pool", "one pool", "All stages are jobs of one pool: no core idles while any stage has work."},
    {"per-stage", "a thread a stage",
        "One thread generates, one lights and meshes: the slower of the two sets the pace."},
    {"drawing", "on the drawing thread",
        "Nobody else works: each frame waits until what it lacks is made, 40 ms at most."},
}};
constexpr std::array<NamedMethod, 2> kOrders{{
    {"nearest", "nearest first", "Ring by ring round the viewer, whichever way it looks."},
    {"view", "what the view shows first", "As nearest first, but what lies out of view counts as twice as far."},
}};
constexpr std::array<NamedMethod, 2> kUpload{{
    {"buffer-each", "a buffer a chunk",
        "Each chunk's vertices go to a buffer of their own, within a budget of bytes a frame."},
    {"arena", "shared arena", "Chunks share slabs of 2 MiB in pages of 2 KiB, so that one call can draw many of them."},
}};
constexpr std::array<NamedMethod, 4> kDraw{{
    {"per-block", "a draw a block",
        "One draw call for each block that shows a side, at most 20,000: there to show why nobody does it."},
    {"per-chunk", "a draw a chunk", "One draw call for each chunk that is kept, nearest first."},
    {"instanced", "instanced quads", "One draw call a chunk, one instance a quad: the corners are made by the driver."},
    {"indirect", "one multi-draw", "One multi-draw indirect for each slab of the arena, nearest chunk first."},
}};
constexpr std::array<NamedMethod, 2> kEdit{{
    {"gathered", "gathered",
        "All voxels of an edit change first; then each chunk that they touch is lit and meshed once."},
    {"each", "each voxel by itself",
        "Light and meshes follow every single voxel: a blast meshes the same chunk thousands of times."},
}};
constexpr std::array<NamedMethod, 2> kSeeThrough{{
    {"by-chunk", "by chunk", "Glass and water are drawn chunk by chunk from the back, unsorted within a chunk."},
    {"within", "within chunks too", "Their quads are sorted by distance whenever the eye enters another voxel."},
}};
constexpr std::array<NamedMethod, 3> kFilters{{
    {"nearest", "nearest in mip levels", "The cheapest that does not shimmer: for software rasterisers."},
    {"smooth", "trilinear", "Smooth in the distance; half as dear again without a GPU."},
    {"anisotropic", "anisotropic", "Clear on grazing sides; five times as dear without a GPU, nearly free with one."},
}};

template <typename Table> std::vector<StageMethod> listed(const Table& table)
{
    std::vector<StageMethod> methods;
    for (const auto& entry : table)
        methods.push_back({entry.id, entry.title, entry.note});
    return methods;
}

} // namespace

std::span<const NamedMethod> streamShapes()
{
    return kShapes;
}

std::span<const NamedMethod> streamOrders()
{
    return kOrders;
}

std::span<const NamedMethod> uploadMethods()
{
    return kUpload;
}

std::span<const NamedMethod> drawMethods()
{
    return kDraw;
}

std::span<const NamedMethod> editMethods()
{
    return kEdit;
}

std::span<const NamedMethod> seeThroughModes()
{
    return kSeeThrough;
}

std::span<const NamedMethod> textureFilters()
{
    return kFilters;
}

const std::vector<Stage>& stages()
{
    static const std::vector<Stage> kStages{
        {"generate", "Generate", "from the recipe to voxels", "generate.method", listed(generators())},
        {"light", "Light", "levels from lamps and sky", "light.mode", listed(lightModes())},
        {"mesh", "Mesh", "from voxels to triangles", "mesh.mesher", listed(meshers())},
        {"upload", "Upload", "from this memory to the graphics side's", "upload.method", listed(uploadMethods())},
        {"levels", "Levels", "which detail where", "lod.scheme", listed(lodSchemes())},
        {"cull", "Cull", "what need not be drawn", "cull.steps", listed(cullSteps())},
        {"draw", "Draw", "from triangles to the picture", "draw.submission", listed(drawMethods())},
        {"edit", "Edit", "from a click to the new picture", "edit.method", listed(editMethods())},
    };
    return kStages;
}

} // namespace fell::setup
