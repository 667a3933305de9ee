// SPDX-License-Identifier: Apache-2.0
// Why a chunk is not in the picture.
#pragma once

#include <fell/cull/steps.h>
#include <fell/stream/resident_set.h>

#include <string>

namespace fell::stream {

/// The one reason why a chunk is not drawn, as part of a sentence ("it lies beyond the render distance"); empty where
/// it is drawn. isUploaded: its mesh is in graphics memory. rejectedBy: the step that left it out of the last frame, or
/// null.
std::string whyNotDrawn(ChunkPos chunk, const ChunkDetails& details, bool isUploaded, const CullStep* rejectedBy);

} // namespace fell::stream
