// SPDX-License-Identifier: Apache-2.0
// The table of stages: what a chunk passes, in order, and which methods each stage offers.
#pragma once

#include <fell/namespaces.h>

#include <functional>
#include <span>
#include <string>
#include <vector>

namespace fell::setup {

struct StageMethod {
    std::string id, title, note;
};

struct Stage {
    std::string id, title, note;
    std::string path; // of the setup field that chooses the method
    std::function<std::vector<StageMethod>()> methods; // as the table is now: meshers may be loaded
};

/// All stages in the order of the pipeline. Made at the first call; lives as long as the process. Any thread.
const std::vector<Stage>& stages();

/// A method without a function: the streamer or the renderer implements it.
struct NamedMethod {
    const char* id;
    const char* title;
    const char* note;
};
std::span<const NamedMethod> streamShapes();
std::span<const NamedMethod> streamOrders();
std::span<const NamedMethod> uploadMethods();
std::span<const NamedMethod> drawMethods();
std::span<const NamedMethod> editMethods();
std::span<const NamedMethod> seeThroughModes();
std::span<const NamedMethod> textureFilters();

} // namespace fell::setup
