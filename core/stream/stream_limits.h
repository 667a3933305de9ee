// SPDX-License-Identifier: Apache-2.0
// The fixed limits of a streamer.
#pragma once

#include <fell/namespaces.h>

#include <cstdint>

namespace fell::stream {

/// Bytes of meshes that wait for the render thread; past it workers mesh no more until some are taken.
constexpr std::uint64_t kMaxPendingBytes = 64u << 20;

} // namespace fell::stream
