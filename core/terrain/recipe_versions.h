// SPDX-License-Identifier: Apache-2.0
// Recipes of older versions, brought up to date.
#pragma once

#include <fell/namespaces.h>

#include <nlohmann/json_fwd.hpp>

#include <string>
#include <vector>

namespace fell::terrain {

constexpr int kRecipeVersion = 2;

/// Makes a recipe of an older version one of kRecipeVersion that gives the same world, and says what has become of it,
/// a sentence each with its JSON pointer. Does nothing to any other document.
///   1  The kind of layer "ridges" is called "least" since there is a greatest of two noises too.
std::vector<std::string> bringUpToDate(nlohmann::ordered_json& recipe);

} // namespace fell::terrain
