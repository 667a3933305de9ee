// SPDX-License-Identifier: Apache-2.0
// The recipe of a world: which layers make its terrain. Plain data, in metres; demo/recipe.schema.json describes its
// file.
#pragma once

#include <fell/blocks/block_set.h>
#include <fell/input/problem.h>
#include <fell/terrain/curve.h>
#include <fell/terrain/height_map.h>
#include <fell/terrain/recipe_fields.h>

#include <array>
#include <filesystem>
#include <functional>
#include <limits>
#include <optional>
#include <string>
#include <vector>

namespace fell::terrain {

struct FeatureKind;
struct HeightLayerKind;

/// A noise as recipes write it: sizes in metres.
struct NoiseRecipe {
    double feature = 64; // metres from one lattice point to the next
    int octaves = 1;
    double lacunarity = 2, gain = 0.5;
    std::uint64_t salt = 0; // tells noises of one recipe apart
};

/// One layer of height: amplitude * curve(v^exponent) where v is a noise brought to [0, 1] in the way of its kind.
struct HeightLayer {
    const HeightLayerKind* kind = nullptr; // never null once it is read
    double amplitude = 0; // metres
    double exponent = 1; // quarter steps from 0.25 to 8: above 1 turns hills into mountains
    double wear = 1; // of worn layers: how much; 1 halves what is fine on a slope of 45 degrees
    NoiseRecipe noise;
    /// The noise is read from where a second one, one for east and one for south, moves each column to.
    /// Source  domain distortion: Ebert et al., "Texturing and Modeling", 1994.
    struct Warp {
        double amount = 0; // metres, of a noise of 1
        NoiseRecipe noise;
    };
    std::optional<Warp> warp;
    std::vector<CurvePoint> curve; // none: straight; else 2 to 16 points
};

/// Heights from elsewhere, under all layers.
struct MapLayer {
    std::string file; // as the recipe names it: absolute, or from the block set's folder
    std::shared_ptr<const HeightMap> map;
    double metresPerPixel = 1;
    std::array<double, 2> range{}; // metres, of the lowest and the highest value that a sample can have
    std::array<double, 2> at{}; // metres, x and z: where its middle is
    /// Metres.
    [[nodiscard]] double heightAt(double x, double z) const
    {
        return range[0]
            + (range[1] - range[0])
            * map->at((x - at[0]) / metresPerPixel + (map->width() - 1) / 2.0,
                (z - at[1]) / metresPerPixel + (map->height() - 1) / 2.0);
    }
};

/// A landform at one place of the world, in the order of the recipe.
struct Landform {
    enum class Kind {
        Summit, // raises a bell: at, radius, height
        Trough, // brings the ground to `floor` along `path`, full within width/10, fading out at width/2
        Terraces, // cuts steps into what is higher: at, radius, floor, step, bench
        Heap, // a cone of loose stone: at, radius, height
        Track, // paints `material` along `path`: width
        Wall // `height` above the ground along `path`: width, material
    } kind
        = Kind::Summit;
    std::array<double, 2> at{}; // x, z in metres
    std::vector<std::array<double, 2>> path; // metres
    double radius = 0, width = 0, height = 0, step = 0, bench = 0; // metres
    std::array<double, 2> floor{}; // metres: at the first and at the last point of the path
    Material material = kOpen; // what it covers the ground with; open air for nothing
};

/// Which material is where; the first rule that applies wins.
struct Stratum {
    static constexpr double kFar = std::numeric_limits<double>::infinity();
    Material material = kOpen;
    std::array<double, 2> depth{0, kFar}; // metres below the ground, [low, high)
    std::array<double, 2> slope{0, kFar}; // metres up a metre along
    std::array<double, 2> altitude{-kFar, kFar}; // metres
    struct Patches {
        NoiseRecipe noise;
        double above = 0; // where the noise is above this
    };
    std::optional<Patches> patches;
    struct Bands {
        double every = 0, thickness = 0; // metres
        std::array<double, 2> dip{}; // metres down a metre along x and z
    };
    std::optional<Bands> bands;
};

/// Something that is placed or dug, whole wherever chunk borders run: at most one in each cell of `spacing`, or
/// as its kind says.
struct FeatureRule {
    const FeatureKind* kind = nullptr;
    double spacing = 8; // metres
    double chance = 0.5; // of a cell to have one
    std::array<double, 2> altitude{0, 100}; // metres
    double slope = 0.7; // the steepest ground
    std::vector<Material> ground; // what it is placed on
    std::optional<Stratum::Patches> patches;
    PartValues own; // what its kind alone has
};

struct Overhangs {
    double amount = 0; // metres that the density pushes the ground in or out
    std::array<double, 2> slope{0.6, 1.4}; // none at the first, all at the second
    NoiseRecipe noise;
};

struct Caves {
    double width = 0; // tunnels are where two noises are both near zero: the radius of "near"
    std::array<double, 2> depth{4, 80}; // metres below the ground
    NoiseRecipe noise;
};

/// A small world for measuring, instead of terrain.
struct Pattern {
    enum class Kind { Level, Checker, Dust, Solid, Built } kind = Kind::Level;
    Material material = kOpen;
    double fill = 0.5; // dust: the share of voxels that are solid

    /// Built: `material` below `top`, open air above, and boxes in it, later ones over earlier ones. It is repeated
    /// every n voxels on x and z.
    struct Box {
        std::array<int, 3> low{}, high{}; // voxels; upper bound outside
        Material material = kOpen;
    };
    int top = 0; // voxels
    std::array<int, 2> every{64, 64}; // voxels on x, z
    std::vector<Box> boxes;
};

/// Voxels at and above it are open air; nothing where the pattern goes up without end.
std::optional<std::int64_t> topOf(const Pattern& pattern);

struct Recipe {
    std::string name, note;
    std::string text; // the JSON that it was read from, or what that was brought up to date to
    std::vector<std::string> updates; // what became of a recipe of an older version, a sentence each
    std::uint64_t seed = 0;
    double voxelMetres = 1; // the edge of a voxel, metres
    BlockSet blocks;
    double base = 0; // metres: the height before any layer
    std::optional<MapLayer> map;
    std::vector<HeightLayer> layers;
    std::vector<Landform> landforms;
    std::optional<Overhangs> overhangs;
    std::optional<Caves> caves;
    std::vector<Stratum> strata; // at most 32
    std::vector<FeatureRule> features; // "scatter" in files
    std::optional<double> waterLevel; // metres
    Material water = kOpen;
    std::optional<Pattern> pattern;
    /// The first camera position.
    struct View {
        std::array<double, 3> at{}; // metres
        double yaw = 0, pitch = 0; // degrees
    };
    std::optional<View> view;
};

constexpr std::size_t kMaxStrata = 32; // one bit each in a word of 32

/// Finds the block set that a recipe names.
using BlockSource = std::function<Outcome<BlockSet>(const std::string& name)>;

/// Reads a recipe. Errors: one sentence with JSON pointer and what is allowed.
Outcome<Recipe> parseRecipe(std::string_view json, const std::string& where, const BlockSource& blocks);

/// Reads a recipe file; its block set is looked for next to it.
Outcome<Recipe> loadRecipe(const std::filesystem::path& file);

/// Reads `world`: a recipe file, or the name of a folder below `demos` that holds recipe.json.
/// Errors: neither exists (the sentence lists the demos), or what loadRecipe says.
Outcome<Recipe> findWorld(const std::string& world, const std::filesystem::path& demos);

} // namespace fell::terrain
