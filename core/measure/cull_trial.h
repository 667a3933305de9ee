// SPDX-License-Identifier: Apache-2.0
// What each cull step saves here, and what each pass costs: the same view with each left out in turn.
#pragma once

#include <fell/measure/draw_passes.h>
#include <fell/measure/statistics.h>
#include <fell/measure/transect.h>

namespace fell::measure {

/// What to draw a frame with.
struct CullVariant {
    std::string what; // "all steps", "without facing", "no steps"
    std::string step; // the step or pass left out; empty for all and none
    CullChoices choices;
    unsigned leftOut = 0; // passes, the sum of 1 << number
};

/// All steps, without each in turn, none.
std::vector<CullVariant> cullVariants(const CullChoices& choices);

/// All passes, without each in turn, none; culled alike. What is behind a pass that is left out is drawn all the same,
/// and more of it shows, so what a pass costs is what the frame is shorter without it.
std::vector<CullVariant> passVariants(const CullChoices& choices, std::span<const PassInfo> passes);

/// Asks for frames, one after another, and keeps what they cost: (rounds + 1) * variants of them; rows() are medians
/// over the rounds. A class because it counts whose turn it is.
class CullTrial {
public:
    /// Asserts rounds >= 1. A first round, which is not counted, warms up.
    CullTrial(std::vector<CullVariant> variants, int rounds);
    [[nodiscard]] bool isDone() const { return m_turn == m_turns; }
    [[nodiscard]] double share() const { return static_cast<double>(m_turn) / static_cast<double>(m_turns); }
    /// What the next frame is to be drawn with; in every other round the order is turned round. Asserts !isDone().
    [[nodiscard]] const CullVariant& next() const;
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

} // namespace fell::measure
