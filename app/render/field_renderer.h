// SPDX-License-Identifier: GPL-3.0-or-later
// Draws the frames that the window asks for. Lives on the render thread, with a separate OpenGL context that no
// window shares: where the processor draws, a thread that shares a context waits for the other's frame.
#pragma once

#include <fell/app/render/frame_request.h>
#include <fell/app/render/side_by_side.h>
#include <fell/gpu/headless.h>
#include <fell/gpu/render_target.h>

#include <memory>

namespace fell::app {

/// A class because it owns objects of a context: made, used and destroyed on one thread.
class FieldRenderer {
public:
    /// Errors: no OpenGL 4.5 core without a window; the sentence names the packages that help.
    static Outcome<std::unique_ptr<FieldRenderer>> create();

    /// Draws, and looks up what is asked. Cost: the frame, and 1 ms a megapixel to read it back.
    FrameDone run(FrameRequest request);
    [[nodiscard]] const Renderer& renderer() const { return *m_a.renderer; } // of setup A

private:
    struct Side {
        std::unique_ptr<Renderer> renderer;
        std::uint64_t epoch = 0, looks = 0; // of what it holds
        std::size_t warned = 0; // of the renderer's warnings, those that were told
    };
    explicit FieldRenderer(std::unique_ptr<HeadlessContext> context);
    void draw(FrameRequest& request, FrameDone& done);
    void followShaders(std::uint64_t shaders, FrameDone& done);
    SideDone drawSide(Side& side, const SideRequest& of, const FrameRequest& request);
    void follow(Side& side, const SideRequest& of, SideDone& done);
    void deliver(Side& side, const SideRequest& of, FrameRecord& record);
    void compare(const FrameRequest& request, FrameDone& done);
    void lookUp(const FrameRequest& request, Found& found);

    std::unique_ptr<HeadlessContext> m_context; // first: goes last
    Side m_a, m_b;
    std::optional<RenderTarget> m_target;
    SideBySide m_beside;
    std::uint64_t m_count = 0, m_shaders = 0;
};

} // namespace fell::app
