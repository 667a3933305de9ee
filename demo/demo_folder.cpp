// SPDX-License-Identifier: Apache-2.0
#include "demo/demo_folder.h"

namespace fell {

std::filesystem::path demoFolder()
{
    return FELL_DEMO_DIR;
}

} // namespace fell
