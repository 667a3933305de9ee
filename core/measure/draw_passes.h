// SPDX-License-Identifier: Apache-2.0
// The passes of a frame, as the renderer reports them.
#pragma once

#include <fell/namespaces.h>

#include <string>

namespace fell::measure {

/// A pass that can be left out, to see what it costs. A set of them is the sum of 1 << number.
struct PassInfo {
    std::string id, title;
    bool operator==(const PassInfo&) const = default;
};

/// What one pass of a frame took.
struct PassCost {
    std::string id;
    double cpuMs = 0; // of the render thread, to hand it to the driver
    double gpuMs = 0; // between the driver's timestamps around it; 0 where it has none
};

} // namespace fell::measure
