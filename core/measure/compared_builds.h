// SPDX-License-Identifier: Apache-2.0
// Two builds that were measured in turn, as a document of `mesh` or `duel` tells of them: is the new one slower?
#pragma once

#include <fell/measure/gate.h>

#include <string>
#include <string_view>
#include <vector>

namespace fell::measure {

/// A of the document is the old build, B the new one.
struct ComparedBuilds {
    struct Cost {
        std::string path; // in the document, e.g. "rows[0].chunk_ns.p50"
        Ratio ratio; // new / old
        Verdict verdict = Verdict::Inconclusive;
    };
    /// A count or digest that differs. Slower: a count that is more than the allowed share above the old one, or a
    /// digest.
    struct Count {
        std::string path, then, now;
        Verdict verdict = Verdict::Within;
    };
    std::string format; // "fell-duel"
    int rounds = 0;
    std::vector<Cost> costs;
    std::vector<Count> counts;

    /// Slower where one is, else inconclusive where one is.
    [[nodiscard]] Verdict verdict() const;
};

/// Reads a document of format fell-mesh-comparison or fell-duel and judges it as a gate does.
/// Errors  another format, a missing or wrong key, no cost: one sentence with the place.
Outcome<ComparedBuilds> parseComparedBuilds(std::string_view text, const std::string& where, double allowed);

/// "mesh_ns_per_voxel of the new build is 1.21x the old one's (1.12 to 1.31)".
std::string sentenceOf(const ComparedBuilds::Cost& cost);
/// "quads: 7 in the old build, 9 in the new one".
std::string sentenceOf(const ComparedBuilds::Count& count);

/// A test case each, as for a transect.
std::string toJUnit(const ComparedBuilds& builds, double allowed);

} // namespace fell::measure
