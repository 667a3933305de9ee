// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/recipe_fields.h>

#include <fell/input/nearest.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cassert>
#include <cmath>

namespace fell::terrain {

using Type = RecipeField::Type;

RecipeField RecipeField::optional() const
{
    RecipeField out = *this;
    out.isRequired = false;
    return out;
}

RecipeField RecipeField::orElse(double value) const
{
    return orElse(std::array{value, value});
}

RecipeField RecipeField::orElse(std::array<double, 2> values) const
{
    RecipeField out = optional();
    out.missing = values;
    return out;
}

RecipeField number(
    const char* key, const char* title, const char* unit, NumberRange range, const char* note, double step)
{
    RecipeField out;
    out.key = key;
    out.title = title;
    out.unit = unit;
    out.range = range;
    out.step = step;
    out.note = note;
    return out;
}

RecipeField integer(const char* key, const char* title, NumberRange range, const char* note)
{
    RecipeField out = number(key, title, "", range, note, 1);
    out.type = Type::Integer;
    return out;
}

RecipeField numberPair(const char* key, const char* title, const char* secondTitle, const char* unit, NumberRange range,
    const char* note, RecipeField::Order order)
{
    RecipeField out = number(key, title, unit, range, note);
    out.type = Type::Pair;
    out.secondTitle = secondTitle;
    out.order = order;
    return out;
}

RecipeField block(const char* key, const char* title, const char* note)
{
    RecipeField out;
    out.key = key;
    out.type = Type::Block;
    out.title = title;
    out.note = note;
    return out;
}

RecipeField fieldOf(Type type, const char* key, const char* note)
{
    RecipeField out;
    out.key = key;
    out.type = type;
    out.note = note;
    return out;
}

RecipeField partField(const char* key, const RecipePart& part, const char* note)
{
    RecipeField out = fieldOf(Type::Part, key, note);
    out.part = &part;
    return out;
}

const RecipeField* RecipePart::find(std::string_view key) const
{
    const auto found
        = std::find_if(fields.begin(), fields.end(), [key](const RecipeField& field) { return field.key == key; });
    return found == fields.end() ? nullptr : &*found;
}

const RecipePart* RecipePlace::find(std::string_view kind) const
{
    if (!hasKinds())
        return parts[0];
    const auto found
        = std::find_if(parts.begin(), parts.end(), [kind](const RecipePart* part) { return part->id == kind; });
    return found == parts.end() ? nullptr : *found;
}

const RecipePlace& recipePlace(std::string_view pointer)
{
    const auto all = recipePlaces();
    const auto found = std::find_if(
        all.begin(), all.end(), [pointer](const RecipePlace& place) { return place.pointer == pointer; });
    assert(found != all.end());
    return *found;
}

// ---- values ---------------------------------------------------------------------------------------------------

void PartValues::set(const RecipeField& field, Value value)
{
    m_values.emplace_back(&field, std::move(value));
}

const PartValues::Value* PartValues::find(std::string_view key) const
{
    const auto found
        = std::find_if(m_values.begin(), m_values.end(), [key](const auto& one) { return one.first->key == key; });
    return found == m_values.end() ? nullptr : &found->second;
}

const RecipeField& PartValues::field(std::string_view key) const
{
    const RecipeField* field = m_part->find(key);
    assert(field);
    return *field;
}

double PartValues::number(std::string_view key) const
{
    const Value* value = find(key);
    return value ? std::get<double>(*value) : field(key).missing[0];
}

std::array<double, 2> PartValues::pair(std::string_view key) const
{
    const Value* value = find(key);
    return value ? std::get<std::array<double, 2>>(*value) : field(key).missing;
}

Material PartValues::block(std::string_view key) const
{
    const Value* value = find(key);
    return value ? std::get<NamedBlock>(*value).material : kOpen;
}

int PartValues::turns(std::string_view key) const
{
    const Value* value = find(key);
    return value ? std::get<NamedBlock>(*value).turns : 1;
}

std::vector<Material> PartValues::blocks(std::string_view key) const
{
    const Value* value = find(key);
    return value ? std::get<std::vector<Material>>(*value) : std::vector<Material>{};
}

std::vector<std::array<double, 2>> PartValues::points(std::string_view key) const
{
    const Value* value = find(key);
    return value ? std::get<std::vector<std::array<double, 2>>>(*value) : std::vector<std::array<double, 2>>{};
}

std::string PartValues::text(std::string_view key) const
{
    const Value* value = find(key);
    return value ? std::get<std::string>(*value) : std::string();
}

const PartValues* PartValues::part(std::string_view key) const
{
    const Value* value = find(key);
    return value ? std::get<std::shared_ptr<const PartValues>>(*value).get() : nullptr;
}

// ---- reading --------------------------------------------------------------------------------------------------

bool isOff(JsonReader& from)
{
    return from.has("off") && from.flag("off");
}

PartReader::PartReader(const BlockSet& blocks)
{
    for (const auto& kind : blocks.kinds)
        m_names.push_back(kind.name);
}

Material PartReader::block(JsonReader& from, const char* key)
{
    const std::string name = from.choice(key, m_names);
    const auto found = std::find(m_names.begin(), m_names.end(), name);
    return found == m_names.end() ? kOpen : static_cast<Material>(found - m_names.begin());
}

/// A block and those that follow it as its turned kinds.
int PartReader::turnsOf(Material block) const
{
    int turns = 1;
    while (turns < 4 && block + turns < static_cast<int>(m_names.size())
        && m_names[static_cast<std::size_t>(block + turns)] == m_names[block] + "-" + std::to_string(turns * 90))
        ++turns;
    return turns;
}

void PartReader::readBlocks(JsonReader& from, const RecipeField& field, PartValues& out)
{
    if (!from.failed() && (!from.has(field.key) || !from.json()[field.key].is_array()))
        from.fail(field.key, "an array of block names is expected");
    std::vector<Material> found;
    const auto count = from.failed() ? 0 : from.json()[field.key].size();
    for (std::size_t i = 0; i < count && !from.failed(); ++i) {
        const auto& name = from.json()[field.key][i];
        const auto at
            = name.is_string() ? std::find(m_names.begin(), m_names.end(), name.get<std::string>()) : m_names.end();
        if (at == m_names.end())
            from.fail(field.key,
                "holds " + name.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace) + ", "
                    + allowedNames(name.is_string() ? name.get<std::string>() : std::string(), m_names));
        else
            found.push_back(static_cast<Material>(at - m_names.begin()));
    }
    out.set(field, std::move(found));
}

namespace {

std::string told(double value)
{
    return nlohmann::json(value).dump();
}

double readNumber(JsonReader& from, const RecipeField& field)
{
    const double value = from.number(field.key, field.range);
    if (field.step > 0 && value / field.step != std::floor(value / field.step))
        from.fail(field.key,
            "is no multiple of " + told(field.step) + ", a number from " + told(field.range.low) + " to "
                + nlohmann::json(static_cast<int>(field.range.high)).dump() + " in steps of " + told(field.step)
                + " is expected");
    return value;
}

std::array<double, 2> readPair(JsonReader& from, const RecipeField& field)
{
    const auto values = from.pair(field.key, field.range);
    if (!from.failed() && field.order == RecipeField::Order::Rising && values[0] >= values[1])
        from.fail(field.key, "the first number must be below the second");
    if (!from.failed() && field.order == RecipeField::Order::NotFalling && values[0] > values[1])
        from.fail(field.key, "the first number must not be above the second");
    return values;
}

std::vector<std::array<double, 2>> readCurve(JsonReader& from, const RecipeField& field)
{
    constexpr std::size_t kMax = 16;
    auto points = from.points(field.key, 2, {0, 1});
    if (!from.failed() && points.size() > kMax)
        from.fail(field.key, "has more than 16 points, 2 to 16 are allowed");
    for (std::size_t i = 1; i < points.size() && !from.failed(); ++i)
        if (points[i][0] <= points[i - 1][0])
            from.fail(field.key, "does not go on to the right, each point's first number must be above the one before");
    return points;
}

} // namespace

void PartReader::readField(JsonReader& from, const RecipeField& field, PartValues& out)
{
    if (!field.isRequired && !from.has(field.key))
        return;
    switch (field.type) {
    case Type::Number:
        return out.set(field, readNumber(from, field));
    case Type::Integer:
        return out.set(field,
            static_cast<double>(from.integer(
                field.key, static_cast<std::int64_t>(field.range.low), static_cast<std::int64_t>(field.range.high))));
    case Type::Pair:
        return out.set(field, readPair(from, field));
    case Type::Path:
        return out.set(field, from.points(field.key, 2, kRecipePlace));
    case Type::Curve:
        return out.set(field, readCurve(from, field));
    case Type::Block: {
        const Material material = block(from, field.key);
        return out.set(field, NamedBlock{material, turnsOf(material)});
    }
    case Type::Blocks:
        return readBlocks(from, field, out);
    case Type::Text:
        return out.set(field, from.text(field.key, static_cast<std::size_t>(field.range.high)));
    case Type::Part: {
        JsonReader object = from.object(field.key);
        return out.set(field, std::make_shared<const PartValues>(read(object, *field.part)));
    }
    }
}

PartValues PartReader::read(JsonReader& from, const RecipePart& part, bool hasKind)
{
    std::vector<std::string> keys;
    if (hasKind)
        keys.emplace_back("kind");
    if (part.isLayer)
        keys.insert(keys.end(), {"note", "off"});
    for (const RecipeField& field : part.fields)
        keys.emplace_back(field.key);
    from.onlyKeys(keys);
    PartValues out(part);
    for (const RecipeField& field : part.fields) {
        if (&part == &kNoisePart && std::string_view(field.key) == "salt") {
            ++m_salt; // also where the recipe says one: what comes after stays as it was
            const auto salt = from.integerOr("salt", static_cast<std::int64_t>(m_salt), 0, kMaxSalt);
            out.set(field, static_cast<double>(salt));
        } else {
            readField(from, field, out);
        }
    }
    return out;
}

std::pair<const RecipePart*, PartValues> PartReader::read(JsonReader& from, const RecipePlace& place)
{
    if (!place.hasKinds())
        return {place.parts[0], read(from, *place.parts[0])};
    std::vector<std::string> ids;
    for (const RecipePart* part : place.parts)
        ids.emplace_back(part->id);
    const RecipePart* part = place.find(from.choice("kind", ids));
    if (!part) // the reader has been told
        part = place.parts[0];
    return {part, from.failed() ? PartValues(*part) : read(from, *part, true)};
}

} // namespace fell::terrain
