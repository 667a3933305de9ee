// SPDX-License-Identifier: Apache-2.0
#include <fell/input/json_reader.h>
#include <fell/input/nearest.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <charconv>
#include <cmath>

namespace fell::input {
namespace {

constexpr int kDeepest = 64; // recipes and setups need 6; deeper is an attack on the stack

std::string plain(double value)
{
    char text[32];
    const auto end = std::to_chars(text, text + sizeof text, value);
    return {text, end.ptr};
}

/// RFC 6901: "~" and "/" inside a key are escaped.
std::string escaped(std::string_view key)
{
    std::string out;
    for (const char c : key)
        out += c == '~' ? "~0" : c == '/' ? "~1" : std::string(1, c);
    return out;
}

std::string typeOf(const nlohmann::json& node)
{
    if (node.is_object())
        return "an object";
    if (node.is_array())
        return "an array";
    if (node.is_null())
        return "null";
    return node.is_string() ? "a text" : node.is_boolean() ? "true or false" : "a number";
}

} // namespace

std::string listOf(std::span<const std::string> names)
{
    std::string out;
    for (std::size_t i = 0; i < names.size(); ++i)
        out += (i == 0 ? "" : i + 1 == names.size() ? " or " : ", ") + names[i];
    return out;
}

namespace {

template <typename Json> Outcome<Json> parsed(std::string_view text, const std::string& where)
{
    const auto tooDeep = [](int depth, typename Json::parse_event_t, Json&) {
        if (depth > kDeepest)
            throw std::length_error("nested deeper than 64 levels, which no file of Fell needs");
        return true;
    };
    try {
        return Json::parse(text, tooDeep);
    } catch (const typename Json::parse_error& error) {
        const std::string_view before = text.substr(0, std::min<std::size_t>(error.byte, text.size()));
        const auto line = 1 + std::count(before.begin(), before.end(), '\n');
        const std::size_t lastBreak = before.rfind('\n');
        const std::size_t column = before.size() - (lastBreak == std::string_view::npos ? 0 : lastBreak + 1);
        return Problem{
            where, "", "is no JSON: it breaks at line " + std::to_string(line) + ", column " + std::to_string(column)};
    } catch (const std::exception& error) {
        return Problem{where, "", error.what()};
    }
}

} // namespace

Outcome<nlohmann::json> parseJson(std::string_view text, const std::string& where)
{
    return parsed<nlohmann::json>(text, where);
}

Outcome<nlohmann::ordered_json> parseOrderedJson(std::string_view text, const std::string& where)
{
    return parsed<nlohmann::ordered_json>(text, where);
}

JsonReader::JsonReader(const nlohmann::json& root, std::optional<Problem>& problem, std::string where)
    : m_node(&root)
    , m_problem(&problem)
    , m_where(std::move(where))
{
}

JsonReader::JsonReader(
    const nlohmann::json& node, std::optional<Problem>& problem, const std::string& where, std::string pointer)
    : m_node(&node)
    , m_problem(&problem)
    , m_where(where)
    , m_pointer(std::move(pointer))
{
}

void JsonReader::fail(std::string_view key, std::string what)
{
    failAt(key.empty() ? "" : "/" + escaped(key), std::move(what));
}

void JsonReader::failAt(const std::string& below, std::string what)
{
    if (!failed())
        *m_problem = Problem{m_where, m_pointer + below, std::move(what)};
}

bool JsonReader::has(std::string_view key) const
{
    return m_node->is_object() && m_node->contains(std::string(key));
}

const nlohmann::json* JsonReader::find(std::string_view key, const char* wanted)
{
    if (failed())
        return nullptr;
    if (!m_node->is_object()) {
        fail("", "is " + typeOf(*m_node) + ", an object is expected");
        return nullptr;
    }
    const auto found = m_node->find(std::string(key));
    if (found == m_node->end()) {
        fail(key, std::string("is missing, ") + wanted + " is expected");
        return nullptr;
    }
    return &*found;
}

void JsonReader::onlyKeys(const std::vector<std::string>& allowed)
{
    if (failed())
        return;
    if (!m_node->is_object())
        return fail("", "is " + typeOf(*m_node) + ", an object is expected");
    for (const auto& item : m_node->items())
        if (std::find(allowed.begin(), allowed.end(), item.key()) == allowed.end())
            return fail(item.key(), "is not a known key, " + allowedNames(item.key(), allowed));
}

std::optional<double> JsonReader::asNumber(const nlohmann::json& node, const std::string& below, NumberRange range)
{
    const std::string allowed = "a number from " + plain(range.low) + " to " + plain(range.high) + " is expected";
    if (!node.is_number()) {
        failAt(below, "is " + typeOf(node) + ", " + allowed);
        return std::nullopt;
    }
    const double value = node.get<double>();
    if (!(value >= range.low && value <= range.high)) {
        failAt(below, "is " + plain(value) + ", " + allowed);
        return std::nullopt;
    }
    return value;
}

double JsonReader::number(std::string_view key, NumberRange range)
{
    const auto* node = find(key, "a number");
    return node ? asNumber(*node, "/" + escaped(key), range).value_or(range.low) : range.low;
}

std::int64_t JsonReader::integer(std::string_view key, std::int64_t low, std::int64_t high)
{
    const auto* node = find(key, "a whole number");
    if (!node)
        return low;
    const std::string allowed
        = "a whole number from " + std::to_string(low) + " to " + std::to_string(high) + " is expected";
    if (!node->is_number_integer()) {
        fail(key, "is " + (node->is_number() ? node->dump() : typeOf(*node)) + ", " + allowed);
        return low;
    }
    const bool tooLarge
        = node->is_number_unsigned() && node->get<std::uint64_t>() > static_cast<std::uint64_t>(INT64_MAX);
    const std::int64_t value = tooLarge ? high : node->get<std::int64_t>();
    if (tooLarge || value < low || value > high) {
        fail(key, "is " + node->dump() + ", " + allowed);
        return low;
    }
    return value;
}

std::uint64_t JsonReader::seed(std::string_view key)
{
    const auto* node = find(key, "a whole number");
    if (!node)
        return 0;
    if (!node->is_number_unsigned()) {
        fail(key,
            "is " + (node->is_number() ? node->dump() : typeOf(*node))
                + ", a whole number from 0 to 18446744073709551615 is expected");
        return 0;
    }
    return node->get<std::uint64_t>();
}

std::string JsonReader::text(std::string_view key, std::size_t longest)
{
    const auto* node = find(key, "a text");
    if (!node)
        return {};
    if (!node->is_string() || node->get_ref<const std::string&>().size() > longest) {
        fail(key, "is " + typeOf(*node) + ", a text of at most " + std::to_string(longest) + " bytes is expected");
        return {};
    }
    return node->get<std::string>();
}

std::string JsonReader::choice(std::string_view key, std::span<const std::string> allowed)
{
    const auto* node = find(key, ("one of " + listOf(allowed)).c_str());
    if (!node)
        return {};
    if (node->is_string() && std::find(allowed.begin(), allowed.end(), node->get<std::string>()) != allowed.end())
        return node->get<std::string>();
    fail(key,
        node->is_string() ? "is " + node->dump() + ", " + allowedNames(node->get_ref<const std::string&>(), allowed)
                          : "is " + typeOf(*node) + ", allowed are " + listOf(allowed));
    return {};
}

bool JsonReader::flag(std::string_view key)
{
    const auto* node = find(key, "true or false");
    if (node && !node->is_boolean())
        fail(key, "is " + typeOf(*node) + ", true or false is expected");
    return node && node->is_boolean() && node->get<bool>();
}

std::array<double, 2> JsonReader::pair(std::string_view key, NumberRange range)
{
    const auto* node = find(key, "two numbers");
    if (!node)
        return {range.low, range.low};
    if (!node->is_array() || node->size() != 2) {
        fail(key, "is " + typeOf(*node) + ", an array of two numbers is expected");
        return {range.low, range.low};
    }
    std::array<double, 2> out{};
    for (std::size_t i = 0; i < 2; ++i)
        out[i] = asNumber((*node)[i], "/" + escaped(key) + "/" + std::to_string(i), range).value_or(range.low);
    return out;
}

std::vector<int> JsonReader::integers(std::string_view key, std::size_t count, int low, int high)
{
    std::vector<int> out(count, low);
    const std::string wanted
        = std::to_string(count) + " whole numbers from " + std::to_string(low) + " to " + std::to_string(high);
    const auto* node = find(key, wanted.c_str());
    if (!node)
        return out;
    if (!node->is_array() || node->size() != count) {
        fail(key, "is " + typeOf(*node) + ", an array of " + wanted + " is expected");
        return out;
    }
    for (std::size_t i = 0; i < count; ++i) {
        const auto& value = (*node)[i];
        if (!value.is_number_integer() || value < low || value > high) {
            failAt("/" + escaped(key) + "/" + std::to_string(i),
                "is " + value.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace) + ", a whole number from "
                    + std::to_string(low) + " to " + std::to_string(high) + " is expected");
            return out;
        }
        out[i] = value.get<int>();
    }
    return out;
}

std::vector<std::array<double, 2>> JsonReader::points(std::string_view key, std::size_t atLeast, NumberRange range)
{
    constexpr std::size_t kMax = 1000;
    const auto* node = find(key, "an array of points");
    if (!node)
        return {};
    if (!node->is_array() || node->size() < atLeast || node->size() > kMax) {
        fail(key, "is no array of " + std::to_string(atLeast) + " to " + std::to_string(kMax) + " points [x, z]");
        return {};
    }
    std::vector<std::array<double, 2>> out;
    for (std::size_t i = 0; i < node->size() && !failed(); ++i) {
        const std::string at = "/" + escaped(key) + "/" + std::to_string(i);
        const auto& point = (*node)[i];
        if (!point.is_array() || point.size() != 2) {
            failAt(at, "is " + typeOf(point) + ", a point [x, z] is expected");
            break;
        }
        out.push_back(
            {asNumber(point[0], at + "/0", range).value_or(0), asNumber(point[1], at + "/1", range).value_or(0)});
    }
    return out;
}

double JsonReader::numberOr(std::string_view key, double missing, NumberRange range)
{
    return has(key) ? number(key, range) : missing;
}

std::int64_t JsonReader::integerOr(std::string_view key, std::int64_t missing, std::int64_t low, std::int64_t high)
{
    return has(key) ? integer(key, low, high) : missing;
}

std::array<double, 2> JsonReader::pairOr(std::string_view key, std::array<double, 2> missing, NumberRange range)
{
    return has(key) ? pair(key, range) : missing;
}

JsonReader JsonReader::object(std::string_view key)
{
    const auto* node = find(key, "an object");
    if (node && !node->is_object())
        fail(key, "is " + typeOf(*node) + ", an object is expected");
    static const nlohmann::json kEmpty = nlohmann::json::object();
    return {node && node->is_object() ? *node : kEmpty, *m_problem, m_where, m_pointer + "/" + escaped(key)};
}

void JsonReader::each(std::string_view key, std::size_t max, const std::function<void(JsonReader)>& read)
{
    if (failed() || !has(key))
        return;
    const auto& node = *m_node->find(std::string(key));
    if (!node.is_array() || node.size() > max)
        return fail(
            key, "is " + typeOf(node) + ", an array of at most " + std::to_string(max) + " elements is expected");
    for (std::size_t i = 0; i < node.size() && !failed(); ++i)
        read(JsonReader(node[i], *m_problem, m_where, m_pointer + "/" + escaped(key) + "/" + std::to_string(i)));
}

} // namespace fell::input
