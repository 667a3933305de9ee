// SPDX-License-Identifier: Apache-2.0
// A linked shader program.
#pragma once

#include "input/problem.h"

#include <string>

namespace fell {

/// Compiles and links for OpenGL 4.5 core; `defines` are lines put before both texts. Returns the program's OpenGL
/// name. Errors: what the driver's compiler says. The caller deletes it.
Outcome<unsigned> linkProgram(
    const std::string& label, const char* vertexText, const char* fragmentText, const std::string& defines = {});

} // namespace fell
