// SPDX-License-Identifier: Apache-2.0
// The test blocks with water that is liquid, a half block and a slope.
#pragma once

#include "support/all_names.h"
#include "support/sample_worlds.h"

namespace fell::test::shaped {

constexpr Material kSlate = 1, kWater = 3, kHalf = 6, kSlope = 7;

inline BlockSet shapedBlocks()
{
    BlockSet set = testBlocks();
    set.kinds[kWater].matter = Matter::Liquid;
    set.kinds.push_back(
        {.name = "half", .shape = std::make_shared<const BlockShape>(halfShape()), .shapeName = "half"});
    set.kinds.push_back(
        {.name = "slope", .shape = std::make_shared<const BlockShape>(slopeShape()), .shapeName = "slope"});
    return set;
}

} // namespace fell::test::shaped
