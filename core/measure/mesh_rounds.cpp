// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/mesh_rounds.h>

#include <algorithm>

namespace fell::measure {

MeshRounds comparableRounds(std::span<const double> aNs, std::span<const double> aReferences,
    std::span<const double> bNs, std::span<const double> bReferences)
{
    const auto areKnown = [](std::span<const double> ns, std::span<const double> references) {
        return references.size() == ns.size()
            && std::all_of(references.begin(), references.end(), [](double of) { return of > 0; });
    };
    if (areKnown(aNs, aReferences) && areKnown(bNs, bReferences))
        return {aReferences, bReferences, true};
    return {aNs, bNs, false};
}

} // namespace fell::measure
