// SPDX-License-Identifier: Apache-2.0
// Tests write the names of all folders without qualification.
#pragma once

#include "support/all_names.h"
#include <fell/namespaces.h>

namespace fell {

using namespace input;
using namespace grid;
using namespace blocks;
using namespace assets;
using namespace voxels;
using namespace terrain;
using namespace light;
using namespace mesh;
using namespace plugin;
using namespace lod;
using namespace cull;
using namespace save;
using namespace setup;
using namespace stream;
using namespace edit;
using namespace exchange;
using namespace measure;
using namespace audit;
using namespace demo;
using namespace gpu;
using namespace app;

} // namespace fell
