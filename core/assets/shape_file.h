// SPDX-License-Identifier: Apache-2.0
// Models read as shapes of blocks.
#pragma once

#include <fell/blocks/shape.h>
#include <fell/input/problem.h>

#include <filesystem>

namespace fell::assets {

/// Reads a model as a shape: glTF 2.0 (.gltf, .glb) or Wavefront OBJ with MTL (.obj). One unit is one voxel; the origin
/// is the middle of the voxel's floor; y is up. Only triangles and base colours are read.
/// Errors: what is wrong with the file; no triangle; more than kMaxShapeTriangles; farther out than kFarthestShape.
Outcome<BlockShape> loadShape(const std::filesystem::path& file);

} // namespace fell::assets
