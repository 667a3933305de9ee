// SPDX-License-Identifier: Apache-2.0
// What of a world goes into its file, and what one row of the file holds.
#pragma once

#include <fell/namespaces.h>

#include <span>
#include <string>

namespace fell::save {

struct KeepChoices {
    std::string what = "changed"; // keepModes()
    std::string group = "cube"; // keepGroups()
    int autosave = 20; // seconds between saves; 0: only when asked
    bool operator==(const KeepChoices&) const = default;
};

struct KeepMethod {
    const char* id;
    const char* title;
    const char* note; // one sentence for a tooltip
};
/// "changed": only voxels that differ from what the recipe makes; "visited": every chunk that was resident, whole.
std::span<const KeepMethod> keepModes();
/// What one row of the file holds: a "chunk", a "column" of chunks, a "cube" of 4 x 4 x 4.
std::span<const KeepMethod> keepGroups();

} // namespace fell::save
