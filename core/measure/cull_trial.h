// SPDX-License-Identifier: Apache-2.0
// What each cull step saves here: the same view with each step left out in turn.
#pragma once

#include "measure/statistics.h"
#include "measure/transect.h"

namespace fell {

/// Steps to draw a frame with.
struct CullVariant {
    std::string what; // "all steps", "without facing", "no steps"
    std::string step; // the one left out; empty for all and none
    CullChoices choices;
};

/// All steps, without each in turn, none.
std::vector<CullVariant> cullVariants(const CullChoices& choices);

/// Asks for frames, one after another, and keeps what they cost. A class because it counts whose turn it is.
class CullTrial {
public:
    /// Asserts rounds >= 1. A first round, which is not counted, warms up.
    CullTrial(const CullChoices& choices, int rounds);
    [[nodiscard]] bool isDone() const { return m_turn == m_turns; }
    [[nodiscard]] double share() const { return static_cast<double>(m_turn) / static_cast<double>(m_turns); }
    /// The steps of the frame to draw next; in every other round the order is turned round. Asserts !isDone().
    [[nodiscard]] const CullChoices& next() const;
    void note(const FrameCost& frame);
    [[nodiscard]] std::vector<CullTrialRow> rows() const; // of what has been drawn so far

private:
    [[nodiscard]] std::size_t whose() const;
    struct Samples {
        std::vector<double> frameMs, cullMs, chunks, triangles, drawCalls;
    };
    std::vector<CullVariant> m_variants;
    std::vector<Samples> m_samples;
    std::size_t m_turn = 0, m_turns;
};

} // namespace fell
