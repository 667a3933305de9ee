// SPDX-License-Identifier: Apache-2.0
// Draws the chunks that it was given, as seen by an eye. The window and the command line both draw with it.
#pragma once

#include "cull/steps.h"
#include "setup/setup.h"
#include "stream/streamer.h"

#include <memory>
#include <string>
#include <vector>

namespace fell {

/// Where a frame's time went. Milliseconds of wall time, each pass until the driver had finished it.
struct FrameReport {
    double totalMs = 0;
    double cullMs = 0;
    double skyMs = 0, terrainMs = 0; // 0 where passes were not told apart
    std::uint64_t residentChunks = 0, chunks = 0, triangles = 0, drawCalls = 0;
    std::uint64_t gpuBytes = 0; // of vertices and indices
    std::vector<CullCount> culled; // beside the setup's cull steps
};

/// A class because it owns objects of the OpenGL context that was current when it was made; all calls need that
/// context.
class Renderer {
public:
    /// Errors: no OpenGL 4.5 core, or a driver that does not take the shaders.
    static Outcome<std::unique_ptr<Renderer>> create();
    virtual ~Renderer() = default;

    /// Forgets all chunks; from now on draws `terrain`'s blocks as `setup` says.
    virtual void begin(const Setup& setup, const Terrain& terrain) = 0;
    /// The same chunks, another distance.
    virtual void setDistance(int chunks) = 0;
    /// Takes a mesh in the layout of the setup; replaces an earlier one of the same chunk. No quads: nothing is kept.
    virtual void upload(const MeshedChunk& mesh) = 0;
    virtual void release(ChunkPos chunk) = 0;
    /// Draws into the bound framebuffer and waits until the picture is finished.
    /// `tellPasses` times each pass by itself, which waits for the driver between them.
    virtual FrameReport draw(const Eye& eye, int width, int height, bool tellPasses) = 0;

    /// As the driver names itself, e.g. "llvmpipe (LLVM 15.0.6, 256 bits)"; it says so if it is a software rasteriser.
    [[nodiscard]] virtual std::string driver() const = 0;

protected:
    Renderer() = default;
};

} // namespace fell
