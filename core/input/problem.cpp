// SPDX-License-Identifier: Apache-2.0
#include "input/problem.h"

namespace fell {

std::string cutText(const std::string& text, std::size_t most)
{
    if (text.size() <= most)
        return text;
    std::size_t end = most;
    while (end > 0 && (static_cast<unsigned char>(text[end]) & 0xC0) == 0x80) // inside a character
        --end;
    return text.substr(0, end);
}

std::string sentence(const Problem& problem)
{
    std::string line = problem.where;
    if (!problem.pointer.empty())
        line += (line.empty() ? "at " : ", at ") + problem.pointer;
    return line.empty() ? problem.what : line + ": " + problem.what;
}

} // namespace fell
