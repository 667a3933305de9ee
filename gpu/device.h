// SPDX-License-Identifier: Apache-2.0
// What the driver of the current context is and takes.
#pragma once

#include <fell/gpu/renderer.h>

namespace fell::gpu {

struct Device {
    GpuLimits limits;
    std::string driver; // as it names itself; says so if it is a software rasteriser
    bool isSoftware = false;
};

/// Asks the driver of the current context; nothing of it is more than `atMost`.
/// Errors  no OpenGL 4.5 core.
Outcome<Device> deviceOf(const GpuLimits& atMost);

/// Until the driver has done everything that was asked for.
void waitAtFence();

} // namespace fell::gpu
