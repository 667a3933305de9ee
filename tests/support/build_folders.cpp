// SPDX-License-Identifier: Apache-2.0
#include "support/build_folders.h"

namespace fell {

std::string sourceFolder()
{
    return FELL_SOURCE_DIR;
}

std::string buildFolder()
{
    return FELL_BINARY_DIR;
}

} // namespace fell
