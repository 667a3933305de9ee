// SPDX-License-Identifier: Apache-2.0
// PNG files for tests, written by other code than what reads them.
#pragma once

#include "support/all_names.h"
#include "support/build_folders.h"

#include <gtest/gtest.h>

#include <cstdlib>
#include <filesystem>
#include <string>

namespace fell::test {

/// Each pixel is `expression` of x and y in Python; `mode` is 8, 16 or rgb.
inline void makePng(
    const std::filesystem::path& file, const char* mode, int width, int height, const std::string& expression)
{
    const std::string command = "python3 '" + sourceFolder() + "/tests/support/make_png.py' '" + file.string() + "' "
        + mode + " " + std::to_string(width) + " " + std::to_string(height) + " '" + expression + "'";
    ASSERT_EQ(std::system(command.c_str()), 0) << command; // NOLINT(cert-env33-c,concurrency-mt-unsafe)
}

} // namespace fell::test
