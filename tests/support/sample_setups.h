// SPDX-License-Identifier: Apache-2.0
// Setups for tests.
#pragma once

#include "support/all_names.h"
#include <fell/setup/setup.h>

namespace fell::test {

/// Without light, with shade baked into the quads and every usual cull step: what most tests of streaming, drawing and
/// measuring begin from.
inline fell::Setup unlitSetup()
{
    fell::Setup setup;
    setup.light.mode = "none";
    setup.mesh.ambientOcclusion = "corners";
    setup.cull.steps = {"octree", "distance", "hidden", "facing"};
    setup.stream.distance = 8;
    return setup;
}

} // namespace fell::test
