// SPDX-License-Identifier: Apache-2.0
// The same chunks meshed with each method, in turn, on one thread.
#pragma once

#include <fell/measure/sample.h>
#include <fell/measure/statistics.h>
#include <fell/mesh/layouts.h>
#include <fell/setup/setup.h>

#include <stop_token>
#include <string>
#include <vector>

namespace fell::measure {

struct MeshTrialRow {
    std::string mesher, layout;
    Percentiles chunkNs; // meshing and laying out one chunk
    std::uint64_t quads = 0, triangles = 0, vertexBytes = 0; // summed over the chunks
    std::uint64_t exposedArea = 0; // voxel sides that can be seen
    std::uint64_t mergedArea = 0; // voxel sides that the quads cover
    std::uint64_t digest = 0; // of the exposed part of the surface: equal for methods that agree
};

struct MeshTrial {
    int edge = 32;
    std::size_t chunks = 0;
    bool ambientOcclusion = false;
    double copyNs = 0, scanNs = 0, gatherNs = 0; // limits, medians a chunk: copying it, one pass over it, gathering it
    std::vector<MeshTrialRow> rows;
    bool stopped = false;
};

struct MeshTrialSpec {
    std::vector<const Mesher*> methods;
    std::vector<const VertexLayout*> layouts;
    bool ambientOcclusion = false; // with corner shade
    int repeat = 1;
};

/// Meshes every chunk with every mesher and layout `repeat` times, taking turns chunk by chunk.
/// `sides` are the rules of the chunks' block set.
MeshTrial runMeshTrial(const std::vector<PaddedVoxels>& chunks, const SideRules& sides, const MeshTrialSpec& spec,
    const std::stop_token& stop = {});

/// One side of a comparison: how its chunks are meshed. The chunks may be of another edge than the other side's.
struct MeshSide {
    const std::vector<PaddedVoxels>* chunks = nullptr;
    const Mesher* mesher = nullptr;
    const VertexLayout* layout = nullptr;
    bool ambientOcclusion = false;
};

struct MeshComparison {
    MeshTrialRow a, b;
    std::vector<double> rounds; // time a voxel, A over B
    Ratio ratio; // that the rounds agree on
    bool stopped = false;
};

/// Meshes the chunks of both sides `rounds` times and once before for warming up, taking turns: chunk by chunk where
/// both have as many, else the whole of each; which comes first changes from turn to turn. Asserts that no side is
/// empty.
MeshComparison compareMeshing(
    const MeshSide& a, const MeshSide& b, const SideRules& sides, int rounds, const std::stop_token& stop = {});

} // namespace fell::measure
