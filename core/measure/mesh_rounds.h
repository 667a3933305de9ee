// SPDX-License-Identifier: Apache-2.0
// In which unit the mesh times of two trials are compared.
#pragma once

#include <fell/namespaces.h>

#include <span>

namespace fell::measure {

/// The medians of two trials' rounds: in references where both know them for every round; else in nanoseconds. A
/// reference is the time that the reference chunk takes on the same thread (reference.h). The spans are views of the
/// arguments. All four have one value a round, or none.
struct MeshRounds {
    std::span<const double> a, b;
    bool inReferences = false;
};
MeshRounds comparableRounds(std::span<const double> aNs, std::span<const double> aReferences,
    std::span<const double> bNs, std::span<const double> bReferences);

} // namespace fell::measure
