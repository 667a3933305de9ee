// SPDX-License-Identifier: Apache-2.0
#include "input/problem.h"

namespace fell {

std::string sentence(const Problem& problem)
{
    std::string line = problem.where;
    if (!problem.pointer.empty())
        line += (line.empty() ? "at " : ", at ") + problem.pointer;
    return line.empty() ? problem.what : line + ": " + problem.what;
}

} // namespace fell
