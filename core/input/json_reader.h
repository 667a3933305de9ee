// SPDX-License-Identifier: Apache-2.0
// Reads foreign JSON strictly: a wrong type, a number out of range or an unknown key is one sentence with its pointer.
#pragma once

#include <fell/input/problem.h>

#include <nlohmann/json_fwd.hpp>

#include <array>
#include <cstdint>
#include <functional>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace fell::input {

/// Numbers from `low` to `high`, both allowed.
struct NumberRange {
    double low;
    double high;
};

/// Parses `text`. Errors: not JSON, with line and column; nested deeper than 64.
Outcome<nlohmann::json> parseJson(std::string_view text, const std::string& where);

/// The same with the keys in the order of the text.
Outcome<nlohmann::ordered_json> parseOrderedJson(std::string_view text, const std::string& where);

/// `names` as "a, b or c".
std::string listOf(std::span<const std::string> names);

/// A cursor into a JSON document. The first problem met is kept, and every later call does nothing, so that a reader
/// can be written as a plain list of fields and ask once at the end.
class JsonReader {
public:
    /// The root of a document. `problem` receives the first problem and outlives every cursor.
    JsonReader(const nlohmann::json& root, std::optional<Problem>& problem, std::string where);

    [[nodiscard]] bool failed() const { return m_problem->has_value(); }
    [[nodiscard]] const nlohmann::json& json() const { return *m_node; }
    [[nodiscard]] bool has(std::string_view key) const;

    /// Every key must be one of `keys`, and this must be an object.
    void onlyKeys(const std::vector<std::string>& keys);

    // Required where `has` is not asked first; each reports a missing key, a wrong type, or a value out of range.
    double number(std::string_view key, NumberRange range);
    std::int64_t integer(std::string_view key, std::int64_t low, std::int64_t high);
    std::uint64_t seed(std::string_view key); // 0 to 2^64 - 1
    std::string text(std::string_view key, std::size_t longest = 200);
    std::string choice(std::string_view key, std::span<const std::string> allowed);
    bool flag(std::string_view key);
    std::array<double, 2> pair(std::string_view key, NumberRange range); // [low, high]-like: any two numbers
    std::vector<int> integers(std::string_view key, std::size_t count, int low, int high); // exactly `count`
    std::vector<std::array<double, 2>> points(std::string_view key, std::size_t atLeast, NumberRange range);

    /// The same, with a value for a missing key.
    double numberOr(std::string_view key, double missing, NumberRange range);
    std::int64_t integerOr(std::string_view key, std::int64_t missing, std::int64_t low, std::int64_t high);
    std::array<double, 2> pairOr(std::string_view key, std::array<double, 2> missing, NumberRange range);

    /// A cursor to the object under `key`; a problem if it is missing or no object.
    JsonReader object(std::string_view key);
    /// Calls `read` for every element of the array under `key` (no call if missing); at most `most` elements.
    void each(std::string_view key, std::size_t max, const std::function<void(JsonReader)>& read);

    /// Reports a problem at `key` (or at the cursor itself if `key` is empty).
    void fail(std::string_view key, std::string what);

private:
    JsonReader(
        const nlohmann::json& node, std::optional<Problem>& problem, const std::string& where, std::string pointer);
    const nlohmann::json* find(std::string_view key, const char* wanted);
    std::optional<double> asNumber(const nlohmann::json& node, const std::string& below, NumberRange range);
    void failAt(const std::string& below, std::string what);

    const nlohmann::json* m_node;
    std::optional<Problem>* m_problem;
    std::string m_where;
    std::string m_pointer;
};

} // namespace fell::input
