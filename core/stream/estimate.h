// SPDX-License-Identifier: Apache-2.0
// What a change of the setup would ask of the memory, before it is made.
#pragma once

#include <fell/stream/streamer.h>

namespace fell::stream {

/// Bytes of voxels and meshes to expect with `next`, judged by what is resident with `now`.
///
/// Ground is a surface: what is seen of it, and the chunks whose voxels are not all alike, grow with the square of the
/// reach in voxels; the records of the other chunks grow with its cube. With levels of detail each level holds about
/// as much as the one before, so both grow with the number of levels. Another layout scales the meshes by its bytes.
/// What another mesher or form would change is not foretold.
/// Errors  0 while nothing is resident yet.
std::uint64_t expectedBytes(const StreamCounts& resident, const Setup& now, const Setup& next);

} // namespace fell::stream
