// SPDX-License-Identifier: Apache-2.0
// OpenGL without a window or an X server, and a picture to draw into.
#pragma once

#include "input/problem.h"

#include <cstdint>
#include <memory>
#include <string>
#include <vector>

namespace fell {

/// An OpenGL 4.5 core context on EGL's surfaceless platform. A class because it owns the context.
/// It is current on the thread that made it, and must be destroyed there.
class HeadlessContext {
public:
    /// Errors: no EGL or no surfaceless platform, no OpenGL 4.5; the sentence names the package that helps.
    /// `device`: the number of one of devices(), -1 for the driver's own choice. `isDebug`: the driver tells its debug
    /// callback of every error.
    static Outcome<std::unique_ptr<HeadlessContext>> create(int device = -1, bool isDebug = false);
    /// What EGL offers to draw with, one name each, e.g. "/dev/dri/card0" or "software"; empty where it cannot say.
    static std::vector<std::string> devices();
    ~HeadlessContext();
    HeadlessContext(const HeadlessContext&) = delete;
    HeadlessContext& operator=(const HeadlessContext&) = delete;

private:
    HeadlessContext() = default;
    void* m_display = nullptr;
    void* m_context = nullptr;
};

/// A picture of `width` x `height` pixels with depth, in the current context.
class OffscreenTarget {
public:
    OffscreenTarget(int width, int height); // 1 to 8192 each
    ~OffscreenTarget();
    OffscreenTarget(const OffscreenTarget&) = delete;
    OffscreenTarget& operator=(const OffscreenTarget&) = delete;

    void bind() const;
    /// Copies the picture into a framebuffer of the same size; 0 is a window's own without a toolkit between.
    void showIn(unsigned framebuffer) const;
    [[nodiscard]] int width() const { return m_width; }
    [[nodiscard]] int height() const { return m_height; }
    /// Red, green, blue, alpha bytes, top row first.
    [[nodiscard]] std::vector<std::uint8_t> read() const;

private:
    int m_width, m_height;
    unsigned m_frame = 0, m_colour = 0, m_depth = 0;
};

} // namespace fell
