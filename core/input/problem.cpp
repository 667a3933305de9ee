// SPDX-License-Identifier: Apache-2.0
#include <fell/input/problem.h>

#include <array>
#include <cstdint>

namespace fell::input {

std::string cutText(const std::string& text, std::size_t max)
{
    if (text.size() <= max)
        return text;
    std::size_t end = max;
    while (end > 0 && (static_cast<unsigned char>(text[end]) & 0xC0) == 0x80) // inside a character
        --end;
    return text.substr(0, end);
}

std::string counted(std::uint64_t count, const std::string& one)
{
    return std::to_string(count) + " " + one + (count == 1 ? "" : "s");
}

bool isUtf8(std::string_view text)
{
    constexpr std::array<std::uint32_t, 4> kFirst{0, 0x80, 0x800, 0x10000}; // that a form is needed for
    for (std::size_t i = 0; i < text.size();) {
        const auto lead = static_cast<unsigned char>(text[i++]);
        const std::size_t more = lead < 0x80 ? 0 : lead >> 5 == 6 ? 1 : lead >> 4 == 14 ? 2 : lead >> 3 == 30 ? 3 : 4;
        if (more == 4 || text.size() - i < more)
            return false;
        std::uint32_t letter = more == 0 ? lead : lead & (0x3Fu >> more);
        for (std::size_t k = 0; k < more; ++k) {
            const auto next = static_cast<unsigned char>(text[i++]);
            if (next >> 6 != 2)
                return false;
            letter = letter << 6 | (next & 0x3F);
        }
        if (letter < kFirst[more] || letter > 0x10FFFF || (letter >= 0xD800 && letter <= 0xDFFF))
            return false;
    }
    return true;
}

std::string sentence(const Problem& problem)
{
    std::string line = problem.where;
    if (!problem.pointer.empty())
        line += (line.empty() ? "at " : ", at ") + problem.pointer;
    return line.empty() ? problem.what : line + ": " + problem.what;
}

} // namespace fell::input
