// SPDX-License-Identifier: Apache-2.0
// What is placed in a world, or dug into it, whole wherever chunk borders run: trees, blocks, walls, adits. Each
// kind is a file of terrain/features/ and a line of its table.
#pragma once

#include <fell/terrain/noise.h>
#include <fell/terrain/recipe.h>

#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <vector>

namespace fell::terrain {

struct Terrain;
struct ColumnSample;
struct Rise;

/// Turns a recipe's metres into voxels and its noises into ones with tables.
class RecipeUnits {
public:
    explicit RecipeUnits(const Recipe& recipe)
        : m_recipe(recipe)
        , m_perMetre(1.0 / recipe.voxelMetres)
    {
    }
    [[nodiscard]] double voxels(double metres) const { return metres * m_perMetre; }
    [[nodiscard]] int whole(double metres) const; // the nearest
    /// `salt` tells several noises of one entry apart.
    [[nodiscard]] Noise noise(const NoiseRecipe& from, std::uint64_t salt = 0) const;
    [[nodiscard]] std::uint64_t seed() const { return m_recipe.seed; }

private:
    const Recipe& m_recipe;
    double m_perMetre; // voxels
};

/// Where things of one rule may stand, lengths in voxels.
struct FeatureSite {
    std::int64_t spacing = 2; // voxels of level 0
    double chance = 0;
    std::array<double, 2> altitude{}; // metres
    double slope = 0; // the steepest ground
    std::vector<Material> ground;
    std::optional<Noise> patches;
    float patchesAbove = 0;
    std::uint64_t seed = 0;
};
FeatureSite siteOf(const FeatureRule& rule, const RecipeUnits& units, std::uint64_t salt);

/// May something stand on this column of (x, z)?
bool canPlace(
    const Terrain& terrain, const FeatureSite& site, const ColumnSample& column, std::int64_t x, std::int64_t z);

/// The cell of a grid of `spacing` voxels that a voxel lies in.
constexpr std::int64_t cellOf(std::int64_t voxel, std::int64_t spacing)
{
    return voxel / spacing - ((voxel % spacing != 0 && (voxel % spacing < 0) != (spacing < 0)) ? 1 : 0);
}
/// The dice of one cell of a site's grid. The low 16 bits decide whether it has anything.
std::uint64_t diceOf(const FeatureSite& site, std::int64_t cellX, std::int64_t cellZ);
inline bool hasAny(const FeatureSite& site, std::uint64_t dice)
{
    return static_cast<double>(dice & 0xFFFF) < site.chance * 65536;
}

/// One thing, whole. Immutable.
class PlacedFeature {
public:
    virtual ~PlacedFeature() = default;
    VoxelPos low, high; // the box around all of it; upper corner outside

    /// Is any of it in the columns [x0, x0 + size) x [z0, z0 + size)?
    [[nodiscard]] bool reaches(std::int64_t x0, std::int64_t z0, int size) const
    {
        return low.x < x0 + size && high.x > x0 && low.z < z0 + size && high.z > z0;
    }
    /// Puts the part of it that lies in a chunk. `voxels`: edge^3, x fastest, then z.
    virtual void stamp(const Terrain& terrain, VoxelPos origin, int edge, std::span<Material> voxels) const = 0;
};
using PlacedFeatures = std::vector<std::shared_ptr<const PlacedFeature>>;

/// What a feature may ask while it is placed into a square of columns.
struct PlacingSquare {
    std::int64_t x0 = 0, z0 = 0; // voxels
    int size = 0;
    /// Columns up to the terrain's margin beyond the square; the pointer is good until the next call.
    std::function<const ColumnSample*(std::int64_t x, std::int64_t z)> column;
    std::span<const std::shared_ptr<const PlacedFeature>> dug; // near the square, and a margin beyond
};

/// One rule of a recipe, ready. Immutable but for caches that lock; every thread may use it.
class Feature {
public:
    /// In which order they have their say. Within a phase the recipe's order counts.
    enum class Phase {
        Cover, // of the ground, as seen from afar
        Wall, // on a column
        Stand, // on the ground; leaves room for what is dug
        Dig // into it
    };
    virtual ~Feature() = default;
    [[nodiscard]] virtual Phase phase() const = 0;
    /// Columns that a feature reaches beyond the one that contains it.
    [[nodiscard]] virtual int reach() const { return 0; }
    /// Cover and Wall: changes a column whose ground is known.
    virtual void changeColumn(
        const Terrain& terrain, const Rise& rise, std::int64_t x, std::int64_t z, ColumnSample& column) const;
    /// Stand and Dig: adds everything that reaches into the square, in an order that only the place decides.
    virtual void place(const Terrain& terrain, const PlacingSquare& square, PlacedFeatures& out) const;
    /// Materials that a trunk may stand in place of.
    virtual void addSoft(std::vector<Material>& out) const;
    /// The same in the voxels of a coarser terrain, whose level and lengths are set; null where nothing is seen of it.
    [[nodiscard]] virtual std::shared_ptr<const Feature> coarser(const Terrain& coarse) const = 0;
};

/// How a kind of feature is read and made.
struct FeatureKind {
    const RecipePart* part; // its id, title and fields
    /// Rules of the same group are numbered together: what is added of one group does not move the others.
    enum class Group { Standing, Other } group;
    std::shared_ptr<const Feature> (*make)(const FeatureRule& rule, const FeatureSite& site, const RecipeUnits& units);
    /// The rule in a few words, for a list: "larches".
    std::string (*describe)(const std::function<std::string(const char* key)>& text);
};
std::span<const FeatureKind* const> featureKinds();

} // namespace fell::terrain
