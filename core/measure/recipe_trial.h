// SPDX-License-Identifier: Apache-2.0
// What each layer of a recipe costs, by leaving it out.
#pragma once

#include <fell/terrain/recipe.h>
#include <fell/terrain/recipe_layers.h>

#include <stop_token>

namespace fell::measure {

struct LayerCost {
    std::string pointer;
    double columnNs = 0; // of a column of voxels from the ground down to where all is alike, and up to the trees' tips
    /// Of the whole, with its 95 % interval over the rounds. Noise makes the share of a layer that costs next to
    /// nothing negative as often as positive. Shares need not add up to 1: layers share work.
    double share = 0, low = 0, high = 0;
    /// Is the cost told apart from 0?
    [[nodiscard]] bool isKnown() const { return low > 0; }
};

struct RecipeCosts {
    double columnNs = 0; // with every layer
    std::vector<LayerCost> layers; // in the order of layersOf; 0 of layers that are off
    bool stopped = false;
};

/// Generates the same few columns of chunks with and without each layer, in turn, four times.
/// Errors  what parseRecipe says of the document.
/// Cost    0.25 s a layer; stops within 10 ms.
/// Source  the interval: "Student", "The Probable Error of a Mean", Biometrika 6, 1908.
Outcome<RecipeCosts> costsOf(const RecipeDocument& recipe, const std::string& where, const BlockSource& blocks,
    const std::stop_token& stop = {});

} // namespace fell::measure
