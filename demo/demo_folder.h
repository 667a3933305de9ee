// SPDX-License-Identifier: Apache-2.0
// Where the demo worlds, setups and routes are. The only place that knows a path of this build, so that everything
// else compiles to the same objects in any folder.
#pragma once

#include <fell/namespaces.h>

#include <filesystem>

namespace fell::demo {

/// share/fell/demo next to the bin/ of an installed program; else demo/ of the source tree that it was built from.
std::filesystem::path demoFolder();
/// The folder of index.md and the other documents: share/doc/fell, else docs/ of the source tree.
std::filesystem::path documentsFolder();

} // namespace fell::demo
