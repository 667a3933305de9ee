// SPDX-License-Identifier: Apache-2.0
// Drawing without a window, for the commands that draw.
#pragma once

#include "common.h"
#include <fell/gpu/hooks.h>

namespace fell::cli {

struct Size {
    int width = 1280, height = 800;
};
/// "1280x800", each from 16 to 8192.
std::optional<Size> parseSize(const std::string& text);

/// --device: which of EGL's devices draws; "list" prints them and ends the program.
void addDeviceOption(CLI::App& command);

/// A context, a renderer and a picture to draw into. A class because they must go in the opposite order.
class Offscreen {
public:
    /// Errors: what the machine lacks (exit 3).
    static Outcome<std::unique_ptr<Offscreen>> create(Size size);

    [[nodiscard]] Renderer& renderer() { return *m_renderer; }
    [[nodiscard]] const RenderTarget& target() const { return *m_target; }
    [[nodiscard]] const DrawHooks& hooks() const { return m_hooks; }

private:
    Offscreen() = default;
    std::unique_ptr<HeadlessContext> m_context; // declared first: goes last
    std::unique_ptr<Renderer> m_renderer;
    std::optional<RenderTarget> m_target;
    DrawHooks m_hooks;
};

/// Gives the renderer everything within the distance around the eye; false if it was stopped.
bool fill(Renderer& renderer, Streamer& streamer, const Eye& eye, const Setup& setup, const std::stop_token& stop);

} // namespace fell::cli
