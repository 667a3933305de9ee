// SPDX-License-Identifier: GPL-3.0-or-later
// What the window asks of the render thread, and what it gets back. Values: neither thread looks at the other's state.
#pragma once

#include <fell/app/models/frame_history.h>
#include <fell/app/models/world_session.h>
#include <fell/gpu/renderer.h>

#include <QImage>

#include <memory>
#include <optional>
#include <vector>

namespace fell::app {

/// One setup's part of a frame.
struct SideRequest {
    Setup setup;
    CullChoices cull; // the setup's, or those that are tried
    std::shared_ptr<const Terrain> terrain;
    StreamerShare streamer; // none while paused
    std::uint64_t epoch = 0, looks = 0; // as WorldSession counts them
    DrawOptions options; // all but nearPlaneIsClear, which the render thread finds

    /// Would the same be drawn, as long as no mesh comes or goes?
    [[nodiscard]] bool looksLike(const SideRequest& other) const
    {
        return epoch == other.epoch && looks == other.looks && setup == other.setup && cull == other.cull
            && options == other.options;
    }
};

/// What is looked up of a renderer, besides drawing or without it.
struct LookUp {
    std::optional<ChunkPos> chunk; // of setup A: its figures and the step that rejects it
    std::optional<ChunkPos> pointed; // its figures
    bool isPointedOfB = false;
    bool arena = false; // of setup A: where meshes lie in the graphics memory
    bool cells = false; // of setup A: the octree's
    bool operator==(const LookUp&) const = default;
};

struct Found {
    LookUp asked;
    std::optional<ChunkFigures> chunk, pointed;
    const CullStep* rejectedBy = nullptr; // null where the chunk is drawn or not held
    ArenaFigures arena;
    std::shared_ptr<const std::vector<OctreeCell>> cells;
};

struct FrameRequest {
    Eye eye;
    int width = 1, height = 1; // pixels
    SideRequest a;
    std::optional<SideRequest> b;
    bool isDrawn = true; // false: `lookUp` only
    bool isCompared = false; // everything of both setups is there: the pictures are compared once the view rests
    std::uint64_t trial = 0; // StepTrial::number
    std::uint64_t shaders = 0; // how often their files have changed
    LookUp lookUp;
    QImage spare; // memory for the picture, of whatever size

    [[nodiscard]] bool looksLike(const FrameRequest& other) const
    {
        return eye == other.eye && shaders == other.shaders && width == other.width && height == other.height
            && a.looksLike(other.a) && b.has_value() == other.b.has_value() && (!b || b->looksLike(*other.b));
    }
};

struct SideDone {
    FrameReport report;
    FrameRecord record;
    OctreeFigures octree;
    std::vector<Problem> warnings; // that were not told before
};

struct FrameDone {
    bool isDrawn = false;
    Eye eye;
    std::uint64_t trial = 0;
    QImage picture; // RGB32, of the size that was asked for
    SideDone a;
    std::optional<SideDone> b;
    std::optional<Problem> shaderTrouble; // of files that have changed: drawn with as before
    bool areShadersNew = false; // they have changed, and are drawn with
    std::optional<double> difference; // of the whole pictures of A and B, of 255
    Found found;
    QImage spare; // handed back where nothing was drawn
};

} // namespace fell::app
