// SPDX-License-Identifier: Apache-2.0
#include <fell/save/keep_choices.h>

#include <array>

namespace fell::save {
namespace {

constexpr std::array<KeepMethod, 2> kModes{{
    {"changed", "only changes", "Voxels that differ from the recipe: about a hundredth of the bytes."},
    {"visited", "all visited chunks", "Every chunk that was resident, whole: nothing is made twice, and much is kept."},
}};
constexpr std::array<KeepMethod, 3> kGroups{{
    {"chunk", "row per chunk", "One chunk per row: an edit writes little, and many rows are read."},
    {"column", "row per column", "All chunks of a column in one row: few rows, and an edit writes the column."},
    {"cube", "row per 4 x 4 x 4", "A cube of 64 chunks in one row: neighbours are stored together."},
}};

} // namespace

std::span<const KeepMethod> keepModes()
{
    return kModes;
}

std::span<const KeepMethod> keepGroups()
{
    return kGroups;
}

} // namespace fell::save
