// SPDX-License-Identifier: Apache-2.0
#include "setup/stages.h"

#include "cull/steps.h"
#include "mesh/meshers.h"
#include "terrain/generate.h"

#include <array>

namespace fell {
namespace {

constexpr std::array<NamedMethod, 1> kUpload{{
    {"buffer-each", "a buffer a chunk",
        "Each chunk's vertices go to a buffer of their own, within a budget of bytes a frame."},
}};
constexpr std::array<NamedMethod, 1> kDraw{{
    {"per-chunk", "a draw a chunk", "One draw call for each chunk that is kept, nearest first."},
}};

template <typename Table> std::vector<StageMethod> listed(const Table& table)
{
    std::vector<StageMethod> methods;
    for (const auto& entry : table)
        methods.push_back({entry.id, entry.title, entry.note});
    return methods;
}

} // namespace

std::span<const NamedMethod> uploadMethods()
{
    return kUpload;
}

std::span<const NamedMethod> drawMethods()
{
    return kDraw;
}

const std::vector<Stage>& stages()
{
    static const std::vector<Stage> kStages{
        {"generate", "Generate", "from the recipe to voxels", "generate.method", listed(generators())},
        {"mesh", "Mesh", "from voxels to triangles", "mesh.mesher", listed(meshers())},
        {"upload", "Upload", "from this memory to the graphics side's", "upload.method", listed(uploadMethods())},
        {"cull", "Cull", "what need not be drawn", "cull.steps", listed(cullSteps())},
        {"draw", "Draw", "from triangles to the picture", "draw.submission", listed(drawMethods())},
    };
    return kStages;
}

} // namespace fell
