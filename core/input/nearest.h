// SPDX-License-Identifier: Apache-2.0
// Which name was meant: for errors that repeat what was given and say what is allowed.
#pragma once

#include <fell/namespaces.h>

#include <span>
#include <string>
#include <string_view>

namespace fell::input {

/// The name that needs the fewest typing errors to become `given`: a letter left out, added or changed, or two
/// neighbours swapped. Case does not count, and '_', ' ' and '-' are the same. The last part of a path is a name too
/// ("mesher" of "mesh.mesher"), and so is a beginning of three letters or more. Empty where more than a third of the
/// letters would be wrong. The first of equals.
/// Cost    O(letters given x letters of all names).
/// Source  optimal string alignment, after Damerau, "A technique for computer detection and correction of spelling
///         errors", CACM 1964.
std::string nearestName(std::string_view given, std::span<const std::string> names);

/// "allowed are a, b or c", with ": did you mean "b"?" behind it where one is near.
std::string allowedNames(std::string_view given, std::span<const std::string> names);

} // namespace fell::input
