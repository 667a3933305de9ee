// SPDX-License-Identifier: Apache-2.0
// Private to light/: floods chunks of a store whole.
#pragma once

#include <fell/light/flood.h>
#include <fell/light/light_store.h>

#include <span>

namespace fell::light {

/// Computes the levels of these chunks from the chunks around them in the store; beyond that only the sky is lit.
/// Chunks that are thinly spread are flooded one by one, others as one block.
void floodChunks(LightStore& store, std::span<const ChunkPos> chunks, FloodScratch& scratch);
/// The same in parts of up to 3 x 3 x 3 chunks that lie near each other.
void floodInBatches(LightStore& store, std::span<const ChunkPos> chunks, FloodScratch& scratch);
/// Floods those that are there with all their neighbours and have no levels yet: chunks of which nothing was shown.
void floodMissing(LightStore& store, std::span<const ChunkPos> chunks, FloodScratch& scratch);

} // namespace fell::light
