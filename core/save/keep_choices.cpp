// SPDX-License-Identifier: Apache-2.0
#include <fell/save/keep_choices.h>

#include <array>

namespace fell::save {
namespace {

constexpr std::array<KeepMethod, 2> kModes{{
    {"changed", "only what was changed", "Voxels that differ from what the recipe makes: a hundredth of the bytes."},
    {"visited", "all that was visited",
        "Every chunk that was resident, whole: nothing is made twice, and much is kept."},
}};
constexpr std::array<KeepMethod, 3> kGroups{{
    {"chunk", "a row a chunk", "One chunk in each row: an edit writes little, and many rows are read."},
    {"column", "a row a column", "All chunks above each other in one row: few rows, and an edit writes the column."},
    {"cube", "a row for 4 x 4 x 4", "A cube of chunks in one row: what is near each other lies together."},
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
