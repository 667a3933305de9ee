// SPDX-License-Identifier: Apache-2.0
// The plain, table-driven, scalar gradient noise that block noise is measured against.
#pragma once

#include <fell/terrain/noise.h>

namespace fell::bench {

/// The noise of terrain/noise.h the way its paper writes it: eight dot products and seven interpolations for each
/// sample, gradients found through tables. The lattice cell and the offset come from the position as a float, and the
/// lattice is that of the first 256 points, so that the tables alone answer: the fastest that the plain way can be.
/// Shape  x, y, z at least 0 and below 255 lattice cells.
float plainNoise(const LatticeHash& hash, float x, float y, float z);

} // namespace fell::bench
