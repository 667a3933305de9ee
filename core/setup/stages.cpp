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
    {"pool", "one pool", "All stages share one pool of workers. No core idles while any stage has work."},
    {"per-stage", "thread per stage",
        "One thread generates, one lights and meshes. The slower one limits the throughput."},
    {"drawing", "on the render thread", "No workers. Each frame computes what is missing, up to 40 ms."},
}};
constexpr std::array<NamedMethod, 2> kOrders{{
    {"nearest", "nearest first", "Chunks by their distance from the camera, in all directions."},
    {"view", "view first", "As nearest first, but chunks outside the view count as twice as far."},
}};
constexpr std::array<NamedMethod, 2> kUpload{{
    {"buffer-each", "buffer per chunk", "One GPU buffer per chunk. Uploads stay within a budget of bytes per frame."},
    {"arena", "shared arena", "Chunks share slabs of 2 MiB in pages of 2 KiB, so that one call draws many of them."},
}};
constexpr std::array<NamedMethod, 4> kDraw{{
    {"per-block", "draw per block",
        "One draw call per block with a visible face, up to 20,000. Shows the cost of draw calls."},
    {"per-chunk", "draw per chunk", "One draw call per visible chunk, nearest first."},
    {"instanced", "instanced quads",
        "One draw call per chunk, one instance per quad. The vertex shader makes the corners."},
    {"indirect", "one multi-draw", "One multi-draw indirect call per slab of the arena, nearest chunk first."},
}};
constexpr std::array<NamedMethod, 2> kEdit{{
    {"gathered", "batched", "All voxels of an edit change first. Then each affected chunk is relit and remeshed once."},
    {"each", "voxel by voxel",
        "Light and meshes follow every single voxel. A blast remeshes one chunk thousands of times."},
}};
constexpr std::array<NamedMethod, 2> kSeeThrough{{
    {"by-chunk", "by chunk", "Transparent chunks are drawn back to front, unsorted within a chunk."},
    {"within", "within chunks too", "Transparent quads are sorted by distance when the camera enters another voxel."},
}};
constexpr std::array<NamedMethod, 3> kFilters{{
    {"nearest", "nearest, mipmaps", "The cheapest filter without shimmer: for software rasterisers."},
    {"smooth", "trilinear", "Smooth in the distance. 1.5 times the cost without a GPU."},
    {"anisotropic", "anisotropic", "Sharp at grazing angles. 5 times the cost without a GPU, nearly free with one."},
}};

template <typename Table> std::vector<StageMethod> listed(const Table& table)
{
    std::vector<StageMethod> methods;
    for (const auto& entry : table)
        methods.push_back({entry.id, entry.title, entry.note});
    return methods;
}

/// Two builds of a loaded mesher have one title: the digits of the file tell them apart.
std::vector<StageMethod> listedMeshers()
{
    std::vector<StageMethod> methods = listed(meshers());
    for (StageMethod& method : methods)
        if (const auto at = method.id.find('@'); at != std::string::npos)
            method.title += " " + method.id.substr(at);
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
        {"generate", "Generate", "from the recipe to voxels", "generate.method", [] { return listed(generators()); }},
        {"light", "Light", "levels from lamps and sky", "light.mode", [] { return listed(lightModes()); }},
        {"mesh", "Mesh", "from voxels to triangles", "mesh.mesher", listedMeshers},
        {"upload", "Upload", "from memory to the GPU", "upload.method", [] { return listed(uploadMethods()); }},
        {"levels", "Levels", "detail by distance", "lod.scheme", [] { return listed(lodSchemes()); }},
        {"cull", "Cull", "chunks that need no drawing", "cull.steps", [] { return listed(cullSteps()); }},
        {"draw", "Draw", "from triangles to the frame", "draw.submission", [] { return listed(drawMethods()); }},
        {"edit", "Edit", "from a click to the new frame", "edit.method", [] { return listed(editMethods()); }},
    };
    return kStages;
}

} // namespace fell::setup
