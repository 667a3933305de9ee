// SPDX-License-Identifier: Apache-2.0
// Draws the chunks that it was given, as seen by an eye. The window and the command line both draw with it.
#pragma once

#include <fell/cull/scene.h>
#include <fell/gpu/daylight.h>
#include <fell/measure/draw_passes.h>
#include <fell/setup/setup.h>
#include <fell/stream/light_view.h>
#include <fell/stream/streamer.h>

#include <array>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace fell::gpu {

/// Where a frame's time went. Milliseconds.
struct FrameReport {
    double totalMs = 0; // latency: until the fence at the frame's end was passed
    double cpuMs = 0; // of the calling thread, culling included: until everything was handed to the driver
    double gpuMs = 0; // between two timestamps of the driver around the drawing; 0 where it has none
    double cullMs = 0;
    std::vector<PassCost> passes; // those that ran, in order
    std::uint64_t residentChunks = 0, chunks = 0, triangles = 0, drawCalls = 0; // resident: of what may be drawn
    std::uint64_t loadedTriangles = 0; // of all resident chunks: what is drawn without culling
    std::uint64_t objects = 0; // shaped blocks drawn one by one
    std::uint64_t notDrawn = 0; // draws left out because a draw a block is capped
    std::uint64_t gpuBytes = 0; // of buffers for vertices and indices, as allocated
    std::uint64_t resourceBytes = 0; // of these, textures and everything else that the renderer has made
    std::vector<CullCount> culled; // next to the setup's cull steps
};

/// What the surface shows in place of its textures.
/// Levels: of detail, by colour; and in red the faces seen from behind, which only a crack shows.
/// The last two are drawNumbers' own.
enum class Paint { Textures, Normals, QuadSizes, Levels, Contours, Light, Numbers, ClearNumbers };

/// Lines in the world, two vertices each.
struct LineBatch {
    VoxelPos from; // what their places are relative to
    struct Vertex {
        glm::vec3 at{}; // voxels
        std::array<std::uint8_t, 4> colour{}; // sRGB, opacity
        bool operator==(const Vertex&) const = default;
    };
    std::vector<Vertex> vertices;
    std::size_t over = 0; // of the vertices, this number of the last is drawn over everything
    bool operator==(const LineBatch&) const = default;
};

/// The colour in which chunks that a step rejected are shown, by its place in cullSteps(): told apart by colour-blind
/// eyes, and each with different stripes.
/// Source  the muted scheme of P. Tol, "Colour Schemes", SRON technical note, 2021.
struct GhostLook {
    std::array<std::uint8_t, 3> colour{}; // sRGB
    int stripes = 0; // 0 none, 1 level, 2 upright, 3 both
};
GhostLook ghostLook(const CullStep& step);

struct DrawOptions {
    unsigned leftOut = 0; // bit i: the i-th of Renderer::passes() is not drawn; without the sky its place is cleared
    Paint paint = Paint::Textures;
    bool wireframe = false; // the triangles' edges on top
    double voxelMetres = 1; // for Paint::Contours
    int channel = 0; // of light, for Paint::Light
    std::shared_ptr<const LightVolume> light; // for Paint::Light: its numbers; without it only what is baked is seen
    double sunHeight = kLateMorning; // degrees, kLowestSun to kHighestSun
    std::vector<VoxelPos> path; // voxels joined by a line over everything
    std::array<int, 2> columns{0, 0}; // pixels from the left that are drawn, [first, last); equal: all of them
    double fieldOfView = 0; // degrees; 0: the setup's
    bool nearPlaneIsClear = true; // see CullView: of the eye that culls
    std::optional<Eye> cullFrom; // culling as seen from there, with the same lens, and no fog; nothing: from the eye
    bool ghosts = false; // what was rejected is drawn too, in the colour of the step that rejected it
    std::shared_ptr<const LineBatch> lines;
    bool operator==(const DrawOptions&) const = default; // light and lines are the same where they are one object
};

/// The colour of a level of detail under Paint::Levels, sRGB: the same even scale as for the size of quads.
std::array<std::uint8_t, 3> levelColour(int level);

/// What is held of one chunk.
struct ChunkFigures {
    std::array<std::uint32_t, kMatterCount> quads{};
    std::uint32_t shapeTriangles = 0, objects = 0, meshNs = 0;
    std::uint64_t bytes = 0;
};

/// The graphics memory of the meshes: how much of it is in use, and where each chunk's quads lie.
struct ArenaFigures {
    struct Piece {
        ChunkPos chunk;
        std::uint32_t slab = 0, firstPage = 0, pages = 0;
    };
    bool shared = false; // false: a buffer a chunk
    std::uint32_t slabs = 0;
    std::uint64_t pages = 0, usedPages = 0, longestFree = 0; // pages; of quads and shaped blocks together
    std::size_t pageBytes = 0; // of quads
    std::uint64_t allocatedBytes = 0, usedBytes = 0, meshBytes = 0; // what a page holds beyond its mesh is waste
    std::vector<std::uint32_t> slabPages; // of quads: pages of each slab, 0 for a number that is not used
    std::vector<Piece> pieces; // of quads
    /// Of the free pages, the share that the longest run does not have.
    [[nodiscard]] double fragmentation() const
    {
        return pages == usedPages ? 0 : 1 - static_cast<double>(longestFree) / static_cast<double>(pages - usedPages);
    }
};

/// One draw per block shows the cost of draw calls; beyond this many it leaves blocks out and says so.
constexpr std::uint64_t kMaxBlockDraws = 20000;

/// What a driver takes at most. Fell asks it; a test may ask for less.
struct GpuLimits {
    std::int64_t textureBufferTexels = INT64_MAX; // at least 65,536; fewer make the arena's slabs smaller
    std::int64_t arrayLayers = INT64_MAX; // at least 2,048; blocks beyond share the nearest colour, which is said
    float anisotropy = 1e9F; // below 2: the filter anisotropic is trilinear
};

/// A class because it owns objects of the OpenGL context that was current when it was made; all calls need that
/// context.
class Renderer {
public:
    /// Errors: no OpenGL 4.5 core, or a driver that does not take the shaders.
    static Outcome<std::unique_ptr<Renderer>> create(const GpuLimits& atMost = {});
    virtual ~Renderer() = default;

    /// Forgets all chunks; from now on draws `terrain`'s blocks as `setup` says.
    virtual void begin(const Setup& setup, const Terrain& terrain) = 0;
    /// The same chunks in other colours and pictures: see differOnlyInLook.
    virtual void showBlocks(const BlockSet& blocks) = 0;
    /// The same chunks, another distance, or other cull steps.
    virtual void setDistance(int chunks) = 0;
    virtual void setCulling(const CullChoices& choices) = 0;
    /// The same chunks through another lens, with textures read otherwise, glass in another order. The rest of the
    /// choices wants other meshes, and stays as begin() had it.
    virtual void setLook(const DrawChoices& draw) = 0;
    /// Takes a mesh in the layout of the setup; replaces an earlier one of the same chunk. No quads: nothing is kept.
    virtual void upload(const MeshedChunk& mesh) = 0;
    virtual void release(ChunkPos chunk) = 0;
    /// With levels of detail: of the chunks that are held, those that are drawn from now on. Without, all are.
    virtual void show(const LodCover& cover) = 0;
    /// Any of the three, as the streamer says it; what an edit did needs no separate drawing.
    void apply(const StreamEvent& event)
    {
        switch (event.kind) {
        case StreamEvent::Kind::Upload:
            return upload(event.mesh);
        case StreamEvent::Kind::Release:
            return release(event.chunk);
        case StreamEvent::Kind::Cover:
            return show(*event.cover);
        case StreamEvent::Kind::Edited:
            return;
        }
    }
    /// Draws into the bound framebuffer and waits until the picture is finished.
    virtual FrameReport draw(const Eye& eye, int width, int height, const DrawOptions& options = {}) = 0;
    /// Draws every chunk without culling, each pixel the number of what is seen there, into the bound framebuffer of 8
    /// bits a channel: red, green and blue are 1 + the chunk's number in scene().chunks(), lowest first, 0 where there
    /// is none; alpha is the direction of the side (Side), 6 for shaped blocks and clear sides. See-through and liquid
    /// sides hide nothing here.
    virtual void drawNumbers(const Eye& eye, int width, int height, double fieldOfView) = 0;
    /// The passes that can be left out, in the order in which they are drawn; the sky is the first.
    [[nodiscard]] virtual std::vector<PassInfo> passes() const = 0;
    /// What culling knows; as it was at the last frame.
    [[nodiscard]] virtual CullScene& scene() = 0;
    /// The step that leaves a chunk out of the last frame's view; null where it is drawn or not held. Cost: a frame's
    /// culling.
    [[nodiscard]] virtual const CullStep* rejectedBy(ChunkPos chunk) = 0;
    /// What is held of a chunk; nothing where it has no mesh.
    [[nodiscard]] virtual std::optional<ChunkFigures> figuresOf(ChunkPos chunk) const = 0;
    /// Cost: O(chunks).
    [[nodiscard]] virtual ArenaFigures arena() const = 0;
    /// Links all programs again from the folder of shaders, which FELL_SHADERS names.
    /// Errors  what does not compile, with file and line: then all are drawn with as before.
    virtual std::optional<Problem> reloadShaders() = 0;
    /// Textures of the block set that could not be read.
    [[nodiscard]] virtual const std::vector<Problem>& warnings() const = 0;

    /// As the driver names itself, e.g. "llvmpipe (LLVM 15.0.6, 256 bits)"; it says so if it is a software rasteriser.
    [[nodiscard]] virtual std::string driver() const = 0;
    [[nodiscard]] virtual bool isSoftware() const = 0; // the processor draws

protected:
    Renderer() = default;
};

} // namespace fell::gpu
