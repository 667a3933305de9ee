// SPDX-License-Identifier: Apache-2.0
// One table of everything that a recipe may say: the reader, the Recipe page, the schema and the reference are made of
// it. A part is a kind of object in the file; its fields are its keys.
#pragma once

#include <fell/blocks/block_set.h>
#include <fell/input/json_reader.h>

#include <array>
#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <variant>
#include <vector>

namespace fell::terrain {

struct RecipePart;

struct RecipeField {
    enum class Type : std::uint8_t {
        Number,
        Integer,
        Pair, // two numbers of the range
        Path, // 2 to 1000 points on the plan, metres
        Curve, // 2 to 16 points of 0 to 1, going on to the right
        Block, // the name of a block of the set
        Blocks, // several
        Text,
        Part // a nested object
    };
    const char* key = "";
    Type type = Type::Number;
    const char* title = ""; // on the Recipe page; empty: not shown there. Of a pair that of the first number
    const char* secondTitle = "";
    const char* unit = "";
    NumberRange range{0, 0}; // of a text: its greatest length as `high`
    double step = 0; // a number is a multiple of it; 0: any
    enum class Order : std::uint8_t { Any, NotFalling, Rising } order = Order::Any; // of a pair
    bool isRequired = true;
    std::array<double, 2> missing{}; // what holds where the key is missing
    bool comesWithKind = false; // the Recipe page writes it where the kind is chosen
    const RecipePart* part = nullptr; // of the type Part
    const char* note = ""; // one phrase for schema and reference

    /// May be missing, without a default.
    [[nodiscard]] RecipeField optional() const;
    /// May be missing, and is that then.
    [[nodiscard]] RecipeField orElse(double value) const;
    [[nodiscard]] RecipeField orElse(std::array<double, 2> values) const;
};

// How tables are written.
RecipeField number(
    const char* key, const char* title, const char* unit, NumberRange range, const char* note = "", double step = 0);
RecipeField integer(const char* key, const char* title, NumberRange range, const char* note = "");
RecipeField numberPair(const char* key, const char* title, const char* secondTitle, const char* unit, NumberRange range,
    const char* note = "", RecipeField::Order order = RecipeField::Order::Any);
RecipeField block(const char* key, const char* title, const char* note = "");
RecipeField fieldOf(RecipeField::Type type, const char* key, const char* note = "");
RecipeField partField(const char* key, const RecipePart& part, const char* note = "");

/// A part that the Recipe page can add, and with what it begins.
struct PartTemplate {
    const char* title;
    const char* json; // MATERIAL is replaced by a block of the world
};

struct RecipePart {
    const char* id = ""; // the value of "kind" where its list has several kinds
    const char* title = ""; // "ridged noise"
    const char* note = "";
    std::vector<RecipeField> fields;
    std::vector<PartTemplate> templates{};
    bool isLayer = true; // has "note" and "off" too

    [[nodiscard]] const RecipeField* find(std::string_view key) const;
};

constexpr NumberRange kRecipePlace{-1e6, 1e6}; // metres
constexpr std::int64_t kMaxSalt = 1'000'000'000;

// Parts of parts.
extern const RecipePart kNoisePart, kWarpPart, kPatchesPart, kBandsPart;

/// A feature's part: its own fields behind those that all have. `spacing` and `chance` replace the usual ones.
RecipePart featurePart(RecipePart own, RecipeField spacing = number("spacing", "spacing", "m", {2, 500}),
    RecipeField chance = number("chance", "chance", "", {0, 1}, "of a cell to have one"));
/// A layer's: those that all have, then its own.
RecipePart layerPart(RecipePart own);

/// Where parts stand in a recipe, in the order in which they are worked out and salts are given.
struct RecipePlace {
    const char* pointer; // "/height/layers"
    const char* group; // of the Recipe page
    bool isList; // else it is there once or not
    std::size_t max; // of a list
    std::vector<const RecipePart*> parts; // one, or one for each kind
    [[nodiscard]] bool hasKinds() const { return parts.size() > 1 || parts[0]->id[0] != '\0'; }
    [[nodiscard]] const RecipePart* find(std::string_view kind) const; // the only one where there are no kinds
};
std::span<const RecipePlace> recipePlaces();
const RecipePlace& recipePlace(std::string_view pointer); // asserts that it is one

// ---- values ---------------------------------------------------------------------------------------------------

struct NamedBlock {
    Material material = kOpen;
    int turns = 1; // the block and those that follow it as its turned kinds
};

/// What one object of a recipe says. A class because each value has the type of its field.
class PartValues {
public:
    using Value = std::variant<double, std::array<double, 2>, NamedBlock, std::vector<Material>,
        std::vector<std::array<double, 2>>, std::string, std::shared_ptr<const PartValues>>;
    PartValues() = default;
    explicit PartValues(const RecipePart& part)
        : m_part(&part)
    {
    }
    void set(const RecipeField& field, Value value);
    [[nodiscard]] bool has(std::string_view key) const { return find(key) != nullptr; }

    // Assert that the part has such a field; where the recipe is silent they give what holds then.
    [[nodiscard]] double number(std::string_view key) const;
    [[nodiscard]] int integer(std::string_view key) const { return static_cast<int>(number(key)); }
    [[nodiscard]] std::array<double, 2> pair(std::string_view key) const;
    [[nodiscard]] Material block(std::string_view key) const; // kOpen where it is missing
    [[nodiscard]] int turns(std::string_view key) const;
    [[nodiscard]] std::vector<Material> blocks(std::string_view key) const;
    [[nodiscard]] std::vector<std::array<double, 2>> points(std::string_view key) const;
    [[nodiscard]] std::string text(std::string_view key) const;
    [[nodiscard]] const PartValues* part(std::string_view key) const; // null where it is missing

private:
    [[nodiscard]] const Value* find(std::string_view key) const;
    [[nodiscard]] const RecipeField& field(std::string_view key) const;
    const RecipePart* m_part = nullptr;
    std::vector<std::pair<const RecipeField*, Value>> m_values;
};

/// Reads parts of one recipe; knows the blocks that names are chosen from, and numbers noises.
class PartReader {
public:
    explicit PartReader(const BlockSet& blocks);
    /// Reads an object as `part`. Errors go to the reader: a key that is missing, unknown, of a wrong type or out of
    /// range.
    PartValues read(JsonReader& from, const RecipePart& part, bool hasKind = false);
    /// As the part that its "kind" says.
    std::pair<const RecipePart*, PartValues> read(JsonReader& from, const RecipePlace& place);
    Material block(JsonReader& from, const char* key);

private:
    void readField(JsonReader& from, const RecipeField& field, PartValues& out);
    void readBlocks(JsonReader& from, const RecipeField& field, PartValues& out);
    [[nodiscard]] int turnsOf(Material block) const;
    std::vector<std::string> m_names;
    std::uint64_t m_salt = 0;
};

/// A layer that is switched off is read, so that what is wrong in it is found, and left out.
bool isOff(JsonReader& from);

} // namespace fell::terrain
