// SPDX-License-Identifier: Apache-2.0
// Text inside SVG, HTML and XML.
#pragma once

#include <fell/namespaces.h>

#include <string>

namespace fell::measure {

/// The text with the four characters that markup reads written out; good between tags and in quoted attributes.
inline std::string escapedForMarkup(const std::string& text)
{
    std::string out;
    for (const char c : text)
        out += c == '&' ? "&amp;" : c == '<' ? "&lt;" : c == '>' ? "&gt;" : c == '"' ? "&quot;" : std::string(1, c);
    return out;
}

} // namespace fell::measure
