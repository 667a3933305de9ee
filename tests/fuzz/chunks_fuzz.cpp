// SPDX-License-Identifier: Apache-2.0
// Whatever bytes come: chunks that have as many ids as the header says, or one sentence, never a crash.
#include "support/all_names.h"
#include <fell/exchange/chunk_stream.h>

#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    const auto read = fell::ForeignChunks::parse({reinterpret_cast<const char*>(data), size}, "fuzz");
    if (!read) {
        if (read.problem().what.empty())
            std::abort();
        return 0;
    }
    const auto& header = read.value()->header();
    if (const auto blocks = fell::blocksOf(header, "fuzz"); blocks && blocks.value().materials.size() != 65536)
        std::abort();
    fell::ForeignChunk chunk;
    for (int i = 0; i < 1000; ++i) {
        const auto next = read.value()->next(chunk);
        if (!next && next.problem().what.empty())
            std::abort();
        if (!next || !next.value())
            return 0;
        if (chunk.ids.size() != header.voxels())
            std::abort();
        (void)header.placeOf(chunk.at, {header.edge[0] - 1, 0, 0});
    }
    return 0;
}
