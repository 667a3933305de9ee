// SPDX-License-Identifier: GPL-3.0-or-later
// How much the pictures of setups A and B differ, found while the eye rests.
#pragma once

#include <fell/cull/view.h>
#include <fell/gpu/render_target.h>

#include <QElapsedTimer>

#include <cstdint>
#include <functional>
#include <optional>
#include <vector>

namespace fell::app {

/// Draws the view once more with each setup, without the wipe, a frame each so that none is long. Lives in the
/// renderer's context.
class SideBySide {
public:
    /// What the two pictures depend on: while it stays, so does the answer.
    struct View {
        Eye eye;
        double sunHeight = 0, fieldOfView = 0;
        int paint = 0, channel = 0;
        bool isWireframe = false;
        std::uint64_t epochA = 0, epochB = 0, shownA = 0, shownB = 0;
        bool operator==(const View&) const = default;
    };
    /// Draws setup A, or B, into the bound target of that size.
    using Draw = std::function<void(bool b, int width, int height)>;

    /// Called once a frame; `isThere`: everything of both is drawn. Takes one step at most. True if it drew: then
    /// another framebuffer is bound.
    bool advance(const View& view, bool isThere, int width, int height, const Draw& draw);
    /// Of 255, as core's differenceOf; none while it is not known for what is shown.
    [[nodiscard]] std::optional<double> difference() const { return m_difference; }

private:
    void forget();
    std::optional<View> m_view;
    QElapsedTimer m_resting;
    std::optional<RenderTarget> m_target;
    std::vector<std::uint8_t> m_a;
    std::optional<double> m_difference;
};

} // namespace fell::app
