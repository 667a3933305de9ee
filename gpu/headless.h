// SPDX-License-Identifier: Apache-2.0
// OpenGL without a window or an X server, and a picture to draw into.
#pragma once

#include "input/problem.h"

#include <cstdint>
#include <memory>
#include <vector>

namespace fell {

/// An OpenGL 4.5 core context on EGL's surfaceless platform. A class because it owns the context.
/// It is current on the thread that made it, and must be destroyed there.
class HeadlessContext {
public:
    /// Errors: no EGL or no surfaceless platform, no OpenGL 4.5; the sentence names the package that helps.
    static Outcome<std::unique_ptr<HeadlessContext>> create();
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
    [[nodiscard]] int width() const { return m_width; }
    [[nodiscard]] int height() const { return m_height; }
    /// Red, green, blue, alpha bytes, top row first.
    [[nodiscard]] std::vector<std::uint8_t> read() const;

private:
    int m_width, m_height;
    unsigned m_frame = 0, m_colour = 0, m_depth = 0;
};

} // namespace fell
