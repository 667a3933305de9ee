// SPDX-License-Identifier: Apache-2.0
// Where the demo worlds, setups and routes are. The only place that knows a path of this build, so that everything
// else compiles to the same objects in any folder.
#pragma once

#include <fell/namespaces.h>

#include <filesystem>

namespace fell::demo {

/// demo/ of the source tree that this program was built from.
std::filesystem::path demoFolder();

} // namespace fell::demo
