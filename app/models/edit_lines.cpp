// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/edit_lines.h>

#include <cmath>
#include <numbers>

namespace fell::app {
namespace {

using Colour = std::array<std::uint8_t, 4>; // sRGB, opacity

constexpr Colour kTarget{0x7A, 0x4E, 0x8A, 255}, kSide{0xF4, 0xEE, 0xE2, 255}, kReach{0x7A, 0x4E, 0x8A, 190},
    kCharge{0xB4, 0x59, 0x2A, 255};

struct Pen {
    LineBatch& lines;

    [[nodiscard]] glm::vec3 place(VoxelPos at) const
    {
        const VoxelPos by = at - lines.from;
        return {static_cast<float>(by.x), static_cast<float>(by.y), static_cast<float>(by.z)};
    }
    void line(const glm::vec3& from, const glm::vec3& to, const Colour& colour)
    {
        lines.vertices.push_back({from, colour});
        lines.vertices.push_back({to, colour});
    }
    void box(const glm::vec3& low, const glm::vec3& high, const Colour& colour)
    {
        const auto corner = [&](unsigned c) {
            return glm::vec3(c & 1 ? high.x : low.x, c & 2 ? high.y : low.y, c & 4 ? high.z : low.z);
        };
        for (unsigned c = 0; c < 8; ++c)
            for (unsigned axis = 1; axis <= 4; axis *= 2)
                if (!(c & axis))
                    line(corner(c), corner(c | axis), colour);
    }
    /// Three circles around a point.
    void ball(const glm::vec3& middle, float radius, const Colour& colour)
    {
        constexpr int kSteps = 48;
        for (int axis = 0; axis < 3; ++axis)
            for (int i = 0; i < kSteps; ++i) {
                const auto at = [&](int step) {
                    const float turn = static_cast<float>(step) / kSteps * 2 * std::numbers::pi_v<float>;
                    glm::vec3 p = middle;
                    p[(axis + 1) % 3] += radius * std::cos(turn);
                    p[(axis + 2) % 3] += radius * std::sin(turn);
                    return p;
                };
                line(at(i), at(i + 1), colour);
            }
    }
};

/// A little outside the voxel, so that its own sides do not cut the lines.
constexpr float kOut = 0.004F;

void addTarget(Pen& pen, const ToolHand& editor)
{
    const Picked& target = *editor.target;
    const glm::vec3 low = pen.place(target.voxel);
    pen.box(low - kOut, low + 1.0F + kOut, kTarget);
    // The side, a frame inside its edges: where a block would be placed.
    const auto axis = static_cast<int>(axisOf(target.side));
    const float plane = signOf(target.side) > 0 ? 1 + 2 * kOut : -2 * kOut;
    const auto at = [&](float u, float v) {
        glm::vec3 p = low;
        p[axis] += plane;
        p[(axis + 1) % 3] += u;
        p[(axis + 2) % 3] += v;
        return p;
    };
    constexpr float kIn = 0.12F;
    pen.line(at(kIn, kIn), at(1 - kIn, kIn), kSide);
    pen.line(at(1 - kIn, kIn), at(1 - kIn, 1 - kIn), kSide);
    pen.line(at(1 - kIn, 1 - kIn), at(kIn, 1 - kIn), kSide);
    pen.line(at(kIn, 1 - kIn), at(kIn, kIn), kSide);
}

} // namespace

void addTool(LineBatch& lines, const ToolHand& editor, const BlockSet& blocks)
{
    Pen pen{lines};
    const std::size_t begin = lines.vertices.size();
    for (const ToolHand::Debris& piece : editor.debris()) { // hidden by what lies before it, so not over everything
        const BlockKind& kind = blocks.kinds[piece.material];
        const glm::vec3 at = pen.place(piece.from) + glm::vec3(piece.at[0], piece.at[1], piece.at[2]);
        constexpr float kHalf = 0.22F;
        const Colour colour{kind.side.r, kind.side.g, kind.side.b, 255};
        pen.box(at - kHalf, at + kHalf, colour);
        pen.line(at - kHalf, at + kHalf, colour);
        pen.line(at + glm::vec3(-kHalf, kHalf, -kHalf), at + glm::vec3(kHalf, -kHalf, kHalf), colour);
    }
    const std::size_t behind
        = lines.over > 0 ? begin : lines.vertices.size(); // what is over everything is in one piece
    for (const ToolHand::Charge& charge : editor.charges()) {
        const glm::vec3 middle = pen.place(charge.at) + 0.5F;
        const auto left = static_cast<float>(charge.left / ToolHand::kFuse);
        pen.box(middle - 0.5F, middle + 0.5F, kCharge);
        pen.ball(middle, static_cast<float>(charge.radius) * left + 0.5F, kCharge); // it draws together
    }
    if (editor.tool() && editor.target) {
        addTarget(pen, editor);
        const Tool& tool = toolOf(*editor.tool());
        const glm::vec3 middle = pen.place(editor.target->voxel) + 0.5F;
        if (tool.takesRadius)
            pen.ball(middle, static_cast<float>(editor.radius()) + 0.5F, kReach);
        if (editor.boxFrom()) {
            const VoxelPos to = editor.material() == kOpen ? editor.target->voxel : editor.target->before;
            const glm::vec3 a = pen.place(*editor.boxFrom()), b = pen.place(to);
            pen.box(glm::min(a, b) - kOut, glm::max(a, b) + 1.0F + kOut, kReach);
        }
    }
    lines.over += lines.vertices.size() - behind;
}

} // namespace fell::app
