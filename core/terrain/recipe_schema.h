// SPDX-License-Identifier: Apache-2.0
// The recipe's tables as a JSON Schema and as a page of the reference.
#pragma once

#include <fell/namespaces.h>

#include <string>

namespace fell::terrain {

/// demo/recipe.schema.json: draft 2020-12, two spaces, a newline at the end.
std::string recipeSchema();
/// docs/recipe-reference.md.
std::string recipeReference();

} // namespace fell::terrain
