// SPDX-License-Identifier: Apache-2.0
// A world file in a temporary folder.
#pragma once

#include <fell/demo/demo_folder.h>
#include <fell/save/world_file.h>

#include "support/all_names.h"
#include "support/temp_folder.h"

#include <gtest/gtest.h>

#include <map>

namespace fell::test {

namespace fs = std::filesystem;

inline WorldHeader header(const std::string& group = "cube")
{
    const fs::path demo = demoFolder() / "corrowdale";
    return {
        "Corrowdale", textOf(demo / "recipe.json"), textOf(demo / "blocks.json"), demo.string(), 77, "changed", group};
}

inline StoredChunk chunkAt(ChunkPos at, std::uint16_t first, Material material)
{
    return {at, {{first, material}, {static_cast<std::uint16_t>(first + 3), 2}}, nullptr};
}

inline std::map<ChunkPos, KeptVoxels> contentsOf(const WorldFile& file)
{
    std::map<ChunkPos, KeptVoxels> out;
    const auto loaded = file.load();
    EXPECT_TRUE(loaded) << (loaded ? "" : sentence(loaded.problem()));
    if (loaded) {
        EXPECT_TRUE(loaded.value().damaged.empty());
        for (const StoredChunk& chunk : loaded.value().chunks)
            out[chunk.chunk] = chunk.changed;
    }
    return out;
}

class WorldFileTest : public testing::Test {
protected:
    test::TempFolder folder;
    fs::path file = folder.path() / "dale.fell";
};

} // namespace fell::test
