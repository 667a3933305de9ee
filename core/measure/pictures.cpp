// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/pictures.h>

#include <algorithm>
#include <cassert>
#include <cmath>
#include <vector>

namespace fell::measure {
namespace {

/// The next pixel that shows any level, within kNear steps along one line of the picture, is of another one.
bool meetsAnother(std::span<const std::int8_t> levels, std::size_t at, std::size_t step, std::size_t room)
{
    for (std::size_t i = 1; i <= std::min<std::size_t>(kNear, room); ++i) {
        const std::int8_t there = levels[at + i * step];
        if (there != kNoLevel && there != levels[at])
            return true;
    }
    return false;
}

} // namespace

double differenceOf(std::span<const std::uint8_t> a, std::span<const std::uint8_t> b)
{
    assert(a.size() == b.size());
    if (a.empty())
        return 0;
    double sum = 0;
    for (std::size_t i = 0; i < a.size(); ++i)
        sum += i % 4 < 3 ? std::abs(a[i] - b[i]) : 0;
    return sum / (static_cast<double>(a.size()) * 3 / 4);
}

BrightnessByLevel brightnessByLevel(
    std::span<const std::uint8_t> a, std::span<const std::uint8_t> b, std::span<const std::int8_t> levels, int width)
{
    assert(a.size() == b.size() && levels.size() * 4 == a.size());
    const auto wide = static_cast<std::size_t>(width), high = levels.size() / wide;
    BrightnessByLevel out;
    const auto add = [](Brighter& to, double by) {
        ++to.pixels;
        to.by += by;
    };
    // Borders are marked from both sides.
    std::vector<bool> isBorder(levels.size());
    for (std::size_t y = 0, at = 0; y < high; ++y)
        for (std::size_t x = 0; x < wide; ++x, ++at) {
            if (levels[at] == kNoLevel)
                continue;
            const auto mark = [&](std::size_t step, std::size_t room) {
                if (!meetsAnother(levels, at, step, room))
                    return;
                for (std::size_t i = 0; i <= std::min<std::size_t>(kNear, room); ++i)
                    isBorder[at + i * step] = true;
            };
            mark(1, wide - 1 - x);
            mark(wide, high - 1 - y);
        }
    for (std::size_t at = 0; at < levels.size(); ++at) {
        if (levels[at] == kNoLevel)
            continue;
        const std::size_t p = at * 4;
        const double by = (a[p] + a[p + 1] + a[p + 2] - b[p] - b[p + 1] - b[p + 2]) / 3.0;
        add(out.levels[static_cast<std::size_t>(levels[at])], by);
        if (isBorder[at])
            add(out.borders, by);
    }
    const auto finish = [](Brighter& one) { one.by /= static_cast<double>(std::max<std::size_t>(1, one.pixels)); };
    for (Brighter& level : out.levels)
        finish(level);
    finish(out.borders);
    return out;
}

} // namespace fell::measure
