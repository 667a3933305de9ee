// SPDX-License-Identifier: Apache-2.0
// OpenGL without a window or an X server.
#pragma once

#include <fell/input/problem.h>

#include <memory>
#include <string>
#include <vector>

namespace fell::gpu {

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

} // namespace fell::gpu
