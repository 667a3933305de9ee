// SPDX-License-Identifier: Apache-2.0
// Whether a mesher from outside can be trusted: hard worlds in a separate process, each surface against the slow one.
#pragma once

#include <fell/audit/audit.h>
#include <fell/plugin/loaded_mesher.h>

#include <filesystem>
#include <optional>

namespace fell::audit {

enum class FaultKind { Crash, Hang, OutOfMemory, OutOfBounds, Refused, WrongSurface, Leak };
const char* textOf(FaultKind kind); // e.g. "out of bounds"

struct MethodFault {
    FaultKind kind = FaultKind::Crash;
    std::string what; // a sentence without its subject, e.g. "crashes (Segmentation fault)"
    /// The fewest voxels on which it was still seen; edge 0 where no voxels are the reason.
    PaddedVoxels counterexample;
};

struct MethodCheckSpec {
    std::filesystem::path file;
    BlockSet blocks; // whose materials the worlds are made of
    double seconds = 1; // of processor time that one chunk may take
    double shrinkSeconds = 2; // of looking for a smaller counterexample
    std::size_t bytes = std::size_t{1} << 29U; // of memory, next to what Fell has
};

struct MethodCheck {
    MethodInfo method;
    std::optional<MethodFault> fault; // the first; none: it may be trusted
    int cases = 0; // that it was run on
};

/// Runs a mesher on dust, checkerboards, one voxel, full, empty, slopes and hills of the edges 16, 32 and 64, and on
/// voxels at every border, corner and beyond, of opaque cubes alone and of all materials. Its input lies between
/// guards, first at the one, then at the other. Surfaces are compared as auditMesh does. Last it is asked whether the
/// memory in use grows. Nothing of the library runs in this process.
///
/// Errors   the library cannot be loaded (plugin::Library), or its code ends the process that loads it.
/// Threads  as runInChild.
/// Cost     about 0.2 s; with a fault up to `shrinkSeconds` more.
Outcome<MethodCheck> checkMethod(const MethodCheckSpec& spec, const std::stop_token& stop = {});

/// "crashes (Segmentation fault) on 2 voxels of edge 16: slate at 0, 0, 0 and glass at 15, 2, 3, all else air".
std::string sentenceOf(const MethodFault& fault, const BlockSet& blocks);

} // namespace fell::audit
