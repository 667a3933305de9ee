// SPDX-License-Identifier: Apache-2.0
#include <fell/demo/demo_folder.h>

namespace fell::demo {

std::filesystem::path demoFolder()
{
    return FELL_DEMO_DIR;
}

} // namespace fell::demo
