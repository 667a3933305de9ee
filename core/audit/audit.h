// SPDX-License-Identifier: Apache-2.0
// The slow plain way against the live one. A fast wrong answer is shown as wrong.
#pragma once

#include <fell/mesh/chunk_mesh.h>
#include <fell/voxels/storage_formats.h>

#include <cstdint>
#include <functional>
#include <stop_token>
#include <string>
#include <vector>

namespace fell::audit {

/// What an audit found.
struct AuditRow {
    std::string audit;
    std::uint64_t cases = 0, differences = 0;
    std::string first; // the first difference, as a sentence; empty if there is none
    bool stopped = false;
};

struct MeshAuditSpec {
    BlockSet blocks;
    std::uint64_t cases = 2000; // random neighbourhoods of edge 16; every 16th of edge 32, every 64th of edge 64
    std::uint64_t seed = 1;
    std::vector<const Mesher*> meshers; // empty: all
    std::vector<PaddedVoxels> chunks; // of the world itself: separate cases, after the random ones
    std::function<void(double share)> progress;
};

/// Meshes random neighbourhoods with every mesher, with and without corner shade, and compares every unit side with
/// what the rules say of each voxel looked up on its own in the 27 chunks. Neighbourhoods are dust of all densities,
/// checkerboards, one voxel, full and empty chunks, layers and hills, of plain and of all materials; chunks are held in
/// every form in turn, so that reading through the one view is audited too.
/// Cost: about 1 ms a case of edge 16.
AuditRow auditMesh(const MeshAuditSpec& spec, const std::stop_token& stop = {});

/// A chunk of the random world `number` of auditMesh, with its neighbours: dust, a checkerboard, one voxel, full,
/// empty, a slope, hills, in turn, of opaque cubes alone and of all materials.
PaddedVoxels randomNeighbourhood(int edge, std::uint64_t number, std::uint64_t seed, const SideRules& rules, int apron);

} // namespace fell::audit
