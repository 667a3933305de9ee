// SPDX-License-Identifier: Apache-2.0
#include <fell/input/json_reader.h>
#include <fell/input/nearest.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <vector>

namespace fell::input {
namespace {

constexpr std::size_t kLongest = 64; // bytes; longer names are not compared

std::string plainForm(std::string_view name)
{
    std::string out(name);
    for (char& letter : out)
        letter = letter == '_' || letter == ' ' ? '-'
                                                : static_cast<char>(std::tolower(static_cast<unsigned char>(letter)));
    return out;
}

/// Optimal string alignment, three rows at a time.
std::size_t typingErrors(std::string_view a, std::string_view b)
{
    std::array<std::vector<std::size_t>, 3> rows; // of the letter before the last, the last, and this one
    for (auto& row : rows)
        row.resize(b.size() + 1);
    for (std::size_t j = 0; j <= b.size(); ++j)
        rows[1][j] = j;
    for (std::size_t i = 1; i <= a.size(); ++i) {
        rows[2][0] = i;
        for (std::size_t j = 1; j <= b.size(); ++j) {
            rows[2][j]
                = std::min({rows[1][j] + 1, rows[2][j - 1] + 1, rows[1][j - 1] + (a[i - 1] == b[j - 1] ? 0u : 1u)});
            if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                rows[2][j] = std::min(rows[2][j], rows[0][j - 2] + 1);
        }
        std::rotate(rows.begin(), rows.begin() + 1, rows.end());
    }
    return rows[1][b.size()];
}

std::size_t distanceTo(const std::string& given, const std::string& name)
{
    constexpr std::size_t kBeginning = 3;
    std::size_t least = typingErrors(given, name);
    if (const std::size_t dot = name.rfind('.'); dot != std::string::npos)
        least = std::min(least, typingErrors(given, name.substr(dot + 1)));
    return given.size() >= kBeginning && name.starts_with(given) ? std::min<std::size_t>(least, 1) : least;
}

} // namespace

std::string nearestName(std::string_view given, std::span<const std::string> names)
{
    if (given.empty() || given.size() > kLongest)
        return {};
    const std::string asked = plainForm(given);
    std::size_t least = std::max<std::size_t>(1, asked.size() / 3) + 1;
    std::string nearest;
    for (const std::string& name : names) {
        if (name.size() > kLongest)
            continue;
        if (const std::size_t errors = distanceTo(asked, plainForm(name)); errors < least) {
            least = errors;
            nearest = name;
        }
    }
    return nearest;
}

std::string allowedNames(std::string_view given, std::span<const std::string> names)
{
    const std::string nearest = nearestName(given, names);
    return "allowed are " + listOf(names) + (nearest.empty() ? "" : ": did you mean \"" + nearest + "\"?");
}

} // namespace fell::input
