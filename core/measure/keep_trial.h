// SPDX-License-Identifier: Apache-2.0
// The same world kept in every way: what is kept, and what a row holds.
#pragma once

#include <fell/save/world_file.h>
#include <fell/terrain/terrain.h>

#include <stop_token>

namespace fell::measure {

struct KeepTrialSpec {
    std::shared_ptr<const Terrain> terrain;
    std::shared_ptr<WorldChanges> changes; // null or empty: `edits` blocks dug at random from the ground are tried
    ChunkPos middle; // of edge kKeptEdge
    int radius = 4; // chunks, 1 to 16: what counts as visited
    int edits = 1000; // 1 to 1000000
    int rounds = 3; // of each way, in turn
    std::filesystem::path folder; // of the caller, for the files; they are removed at the end
};

struct KeepTrialRow {
    std::string what, group;
    std::uint64_t bytes = 0; // of the file
    std::uint64_t rows = 0, chunks = 0;
    double saveMs = 0, loadMs = 0; // medians; everything in one transaction, the disk's wait included
    double nearLoadMs = 0; // of a box of 2 x 2 x 2 chunks in the middle
    std::uint64_t loadedBytes = 0; // of memory, as what was read is held by a running world
    bool same = false; // what was read is the world that was saved
};

struct KeepTrial {
    std::uint64_t visited = 0, changed = 0, voxels = 0; // chunks; changed voxels
    double makeMs = 0; // regenerating the visited chunks from the recipe
    std::vector<KeepTrialRow> rows; // keepModes() by keepGroups()
    bool stopped = false;
};

/// Errors: a file that cannot be written or read. Cost: about 0.2 ms a visited chunk and round.
Outcome<KeepTrial> runKeepTrial(const KeepTrialSpec& spec, const std::stop_token& stop = {});

} // namespace fell::measure
