// SPDX-License-Identifier: Apache-2.0
// What each layer of a recipe costs, by leaving it out.
#pragma once

#include "terrain/recipe.h"
#include "terrain/recipe_layers.h"

#include <stop_token>

namespace fell {

struct LayerCost {
    std::string pointer;
    double columnNs = 0; // of a column of voxels from the ground down to where all is alike, and up to the trees' tips
    double share = 0; // of the whole; what layers cost together is not their sum
};

struct RecipeCosts {
    double columnNs = 0; // with every layer
    std::vector<LayerCost> layers; // in the order of layersOf; 0 of layers that are off, and below what can be told
    bool stopped = false;
};

/// Generates the same few columns of chunks with and without each layer, in turn, three times over; the middle share
/// counts. Of Corrowdale it is told to 3 % of the whole.
/// Errors: what parseRecipe says of the document. Cost: 0.2 s a layer; stops within 10 ms.
Outcome<RecipeCosts> costsOf(const RecipeDocument& recipe, const std::string& where, const BlockSource& blocks,
    const std::stop_token& stop = {});

} // namespace fell
