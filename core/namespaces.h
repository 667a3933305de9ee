// SPDX-License-Identifier: Apache-2.0
// Each folder is a namespace. Inside it the names of the folders that it uses are written without qualification: the
// same order as in the build files. A name that a folder declares itself hides one of the same name further down.
#pragma once

namespace fell {

namespace input {
}
namespace grid {
}
namespace demo {
}

namespace blocks {
using namespace input;
using namespace grid;
} // namespace blocks

namespace assets {
using namespace input;
using namespace blocks;
} // namespace assets

namespace voxels {
using namespace grid;
using namespace blocks;
} // namespace voxels

namespace terrain {
using namespace input;
using namespace grid;
using namespace blocks;
using namespace assets;
using namespace voxels;
} // namespace terrain

namespace light {
using namespace grid;
using namespace blocks;
using namespace voxels;
} // namespace light

namespace mesh {
using namespace grid;
using namespace blocks;
using namespace voxels;
using namespace light;
} // namespace mesh

namespace plugin {
using namespace input;
using namespace grid;
using namespace blocks;
using namespace voxels;
using namespace mesh;
} // namespace plugin

namespace lod {
using namespace grid;
using namespace blocks;
using namespace voxels;
using namespace light;
using namespace mesh;
} // namespace lod

namespace cull {
using namespace grid;
using namespace blocks;
using namespace voxels;
} // namespace cull

namespace save {
using namespace input;
using namespace grid;
using namespace blocks;
using namespace assets;
using namespace voxels;
using namespace terrain;
} // namespace save

namespace setup {
using namespace input;
using namespace terrain;
using namespace light;
using namespace mesh;
using namespace lod;
using namespace cull;
using namespace save;
} // namespace setup

namespace stream {
using namespace light;
using namespace lod;
using namespace setup;
using namespace cull;
using namespace save;
} // namespace stream

namespace edit {
using namespace blocks;
using namespace voxels;
using namespace cull;
using namespace save;
using namespace stream;
} // namespace edit

namespace exchange {
using namespace setup;
using namespace stream;
using namespace light;
using namespace save;
} // namespace exchange

namespace measure {
using namespace stream;
using namespace edit;
using namespace light;
} // namespace measure

namespace audit {
using namespace measure;
using namespace light;
using namespace plugin;
} // namespace audit

namespace gpu {
using namespace measure;
using namespace audit;
} // namespace gpu

namespace app {
using namespace demo;
using namespace gpu;
using namespace exchange;
using namespace edit;
} // namespace app

namespace cli {
using namespace demo;
using namespace gpu;
using namespace exchange;
using namespace audit;
} // namespace cli

namespace bench {
using namespace demo;
using namespace gpu;
using namespace audit;
} // namespace bench

} // namespace fell
