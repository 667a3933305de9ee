// SPDX-License-Identifier: Apache-2.0
// The folders of this checkout and of its build, for tests that start programs.
#pragma once

#include <string>

namespace fell {

std::string sourceFolder();
std::string buildFolder();

} // namespace fell
