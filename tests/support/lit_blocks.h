// SPDX-License-Identifier: Apache-2.0
// Block sets of which only the light matters.
#pragma once

#include "support/all_names.h"
#include <fell/blocks/block_set.h>

namespace fell::test {

inline void addLit(BlockSet& set, const char* name, Matter matter, const BlockLight& light)
{
    BlockKind kind;
    kind.name = name;
    kind.matter = matter;
    kind.light = light;
    set.kinds.push_back(kind);
}

} // namespace fell::test
