// SPDX-License-Identifier: Apache-2.0
// A recipe's document as a list of layers that can be changed: what the Recipe view and fell-cli recipe show.
#pragma once

#include <fell/terrain/curve.h>

#include <nlohmann/json_fwd.hpp>

#include <optional>
#include <span>
#include <string>
#include <vector>

namespace fell::terrain {

/// The document with its keys in their order, as its file has them.
using RecipeDocument = nlohmann::ordered_json;

struct RecipeLayer {
    std::string pointer; // "/height/layers/2", RFC 6901
    std::string group; // "ground", "landforms", "overhangs", "caves", "water", "strata", "scatter"
    std::string title; // its note, else what it is
    std::string what; // "noise, 5 octaves"
    bool isOff = false;
    bool isListed = false; // one of several: it can be moved and duplicated
};

/// In the order in which they are worked out. Cost: O(document).
std::vector<RecipeLayer> layersOf(const RecipeDocument& recipe);

/// One number of a layer.
struct LayerNumber {
    std::string pointer;
    std::string title, unit;
    double value = 0, low = 0, high = 0; // what the reader allows
    double step = 0; // 0: any number
};
/// The numbers of a layer, or of the recipe's own for the pointer "". Points of a path are left out.
std::vector<LayerNumber> numbersOf(const RecipeDocument& recipe, const std::string& pointer);

/// A block kind that a layer names.
struct LayerMaterial {
    std::string pointer, title, value;
};
std::vector<LayerMaterial> materialsOf(const RecipeDocument& recipe, const std::string& pointer);

/// What a layer's "kind" may be changed to by withKind; empty where that is its own.
std::span<const char* const> kindsOf(const std::string& pointer);

/// Is it a layer of height, which may have a curve and be warped?
bool mayBeShaped(const std::string& pointer);
/// Its curve; two points where it has none.
std::vector<CurvePoint> curveOf(const RecipeDocument& recipe, const std::string& pointer);

/// Layers that can be added: what they are called, and with what they begin.
struct LayerTemplate {
    const char* title;
    const char* list; // pointer of the array or object that it goes to
    const char* json; // MATERIAL is replaced by a block type of the world
};
std::span<const LayerTemplate> layerTemplates();

/// The changes, each on a copy, so that undo keeps documents. Before the first one every noise is given the salt that
/// its place gave it, so that what stays looks as it did. Assert that the pointer is that of a layer.
RecipeDocument withLayerOff(const RecipeDocument& recipe, const std::string& pointer, bool off);
/// By one place up (-1) or down (1); as it was where there is none. Gives the new pointer too.
std::pair<RecipeDocument, std::string> withLayerMoved(const RecipeDocument& recipe, const std::string& pointer, int by);
std::pair<RecipeDocument, std::string> withLayerTwice(const RecipeDocument& recipe, const std::string& pointer);
RecipeDocument withoutLayer(const RecipeDocument& recipe, const std::string& pointer);
/// At the end of its list. `material`: a block kind that the world has.
std::pair<RecipeDocument, std::string> withLayerAdded(
    const RecipeDocument& recipe, const LayerTemplate& layer, const std::string& material);
/// From (0, 0) straight to (1, 1) is no curve.
RecipeDocument withCurve(const RecipeDocument& recipe, const std::string& pointer, std::span<const CurvePoint> points);
/// What only one kind has comes and goes with it.
RecipeDocument withKind(const RecipeDocument& recipe, const std::string& pointer, const std::string& kind);
RecipeDocument withWarp(const RecipeDocument& recipe, const std::string& pointer, bool warped);
RecipeDocument withLayerNamed(const RecipeDocument& recipe, const std::string& pointer, const std::string& title);
RecipeDocument withValue(const RecipeDocument& recipe, const std::string& pointer, const nlohmann::json& value);

} // namespace fell::terrain
