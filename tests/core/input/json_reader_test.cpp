// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/input/json_reader.h>

#include <nlohmann/json.hpp>

#include <gtest/gtest.h>

namespace fell::json_reader_test {
namespace {

/// Reads `text` with `read` and returns the problem as a sentence, or nothing.
std::string problemOf(const std::string& text, const std::function<void(JsonReader&)>& read)
{
    auto parsed = parseJson(text, "file.json");
    if (!parsed)
        return sentence(parsed.problem());
    std::optional<Problem> problem;
    JsonReader reader(parsed.value(), problem, "file.json");
    read(reader);
    return problem ? sentence(*problem) : "";
}

TEST(JsonReader, ReadsWhatIsThere)
{
    auto parsed = parseJson(R"({"n": 2.5, "i": -3, "s": "slate", "b": true, "p": [1, 2], "o": {"k": 4}})", "f");
    std::optional<Problem> problem;
    JsonReader reader(parsed.value(), problem, "f");
    EXPECT_EQ(reader.number("n", {0, 3}), 2.5);
    EXPECT_EQ(reader.integer("i", -5, 5), -3);
    EXPECT_EQ(reader.text("s"), "slate");
    EXPECT_TRUE(reader.flag("b"));
    EXPECT_EQ(reader.pair("p", {0, 9}), (std::array<double, 2>{1, 2}));
    EXPECT_EQ(reader.object("o").integer("k", 0, 9), 4);
    EXPECT_EQ(reader.numberOr("missing", 7, {0, 9}), 7);
    EXPECT_FALSE(problem);
}

TEST(JsonReader, SaysWhereANumberIsOutOfRangeAndWhatIsAllowed)
{
    EXPECT_EQ(problemOf(R"({"a": {"gain": 1.5}})",
                  [](JsonReader& r) {
                      r.object("a").number("gain", {0.05, 1});
                  }),
        "file.json, at /a/gain: is 1.5, a number from 0.05 to 1 is expected");
}

TEST(JsonReader, SaysWhichTypeStandsWhereANumberIsWanted)
{
    EXPECT_EQ(problemOf(R"({"n": "two"})",
                  [](JsonReader& r) {
                      r.number("n", {0, 1});
                  }),
        "file.json, at /n: is a text, a number from 0 to 1 is expected");
    EXPECT_EQ(problemOf(R"({"n": 1.5})", [](JsonReader& r) { r.integer("n", 0, 4); }),
        "file.json, at /n: is 1.5, a whole number from 0 to 4 is expected");
}

TEST(JsonReader, NamesAnUnknownKeyAndAllThatAreKnown)
{
    EXPECT_EQ(problemOf(R"({"octavs": 1})",
                  [](JsonReader& r) {
                      r.onlyKeys({"octaves", "gain"});
                  }),
        "file.json, at /octavs: is not a known key, allowed are octaves or gain: did you mean \"octaves\"?");
}

TEST(JsonReader, EscapesKeysInPointersAsRfc6901Says)
{
    EXPECT_EQ(problemOf(R"({"a/b~c": 1})", [](JsonReader& r) { r.onlyKeys({"k"}); }),
        "file.json, at /a~1b~0c: is not a known key, allowed are k");
}

TEST(JsonReader, PointsIntoPairsAndPoints)
{
    EXPECT_EQ(problemOf(R"({"p": [1, "x"]})",
                  [](JsonReader& r) {
                      r.pair("p", {0, 9});
                  }),
        "file.json, at /p/1: is a text, a number from 0 to 9 is expected");
    EXPECT_EQ(problemOf(R"({"path": [[0, 0], [1, 99]]})",
                  [](JsonReader& r) {
                      r.points("path", 2, {0, 9});
                  }),
        "file.json, at /path/1/1: is 99, a number from 0 to 9 is expected");
    EXPECT_EQ(problemOf(R"({"path": [[0, 0], 3]})",
                  [](JsonReader& r) {
                      r.points("path", 2, {0, 9});
                  }),
        "file.json, at /path/1: is a number, a point [x, z] is expected");
}

TEST(JsonReader, ReadsSoManyWholeNumbersAndPointsToTheWrongOne)
{
    const auto read = [](JsonReader& r) { r.integers("gives", 3, 0, 15); };
    EXPECT_EQ(problemOf(R"({"gives": [1, 16, 3]})", read),
        "file.json, at /gives/1: is 16, a whole number from 0 to 15 is expected");
    EXPECT_EQ(problemOf(R"({"gives": [1, 2.5, 3]})", read),
        "file.json, at /gives/1: is 2.5, a whole number from 0 to 15 is expected");
    EXPECT_EQ(problemOf(R"({"gives": [1, 2]})", read),
        "file.json, at /gives: is an array, an array of 3 whole numbers from 0 to 15 is expected");
}

TEST(JsonReader, KeepsTheFirstProblemOnly)
{
    EXPECT_EQ(problemOf(R"({"a": 5, "b": 5})",
                  [](JsonReader& r) {
                      r.number("a", {0, 1});
                      r.number("b", {0, 1});
                      EXPECT_TRUE(r.failed());
                  }),
        "file.json, at /a: is 5, a number from 0 to 1 is expected");
}

TEST(JsonReader, ReadsSeedsOfAll64Bits)
{
    auto parsed = parseJson(R"({"low": 0, "high": 18446744073709551615})", "f");
    std::optional<Problem> problem;
    JsonReader reader(parsed.value(), problem, "f");
    EXPECT_EQ(reader.seed("low"), 0u);
    EXPECT_EQ(reader.seed("high"), ~std::uint64_t{0});
    EXPECT_FALSE(problem);
    EXPECT_NE(problemOf(R"({"s": -1})", [](JsonReader& r) { r.seed("s"); }), "");
    EXPECT_NE(problemOf(R"({"s": 1.5})", [](JsonReader& r) { r.seed("s"); }), "");
}

TEST(JsonReader, SaysLineAndColumnWhereBytesAreNoJson)
{
    // By hand: the trailing comma is in line 2; the brace in line 3 is the first wrong byte.
    const auto parsed = parseJson("{\n  \"a\": 1,\n}", "file.json");
    ASSERT_FALSE(parsed);
    EXPECT_EQ(sentence(parsed.problem()), "file.json: is no JSON: it breaks at line 3, column 1");
}

TEST(JsonReader, RefusesBytesThatAreNoTextAndNestingWithoutEnd)
{
    EXPECT_FALSE(parseJson(std::string("\x00\xff\x80", 3), "f"));
    EXPECT_FALSE(parseJson(std::string(100, '['), "f"));
    EXPECT_FALSE(parseJson(std::string(100, '[') + std::string(100, ']'), "f"));
    EXPECT_FALSE(parseJson("", "f"));
}

TEST(JsonReader, LimitsTheNumberOfElements)
{
    int count = 0;
    EXPECT_EQ(
        problemOf(R"({"a": [{}, {}, {}]})", [&](JsonReader& r) { r.each("a", 3, [&](JsonReader) { ++count; }); }), "");
    EXPECT_EQ(count, 3);
    EXPECT_NE(
        problemOf(R"({"a": [{}, {}, {}]})", [&](JsonReader& r) { r.each("a", 2, [&](JsonReader) { ++count; }); }), "");
    EXPECT_EQ(count, 3);
}

TEST(ListOf, JoinsWithCommasAndOr)
{
    EXPECT_EQ(listOf(std::vector<std::string>{"a"}), "a");
    EXPECT_EQ(listOf(std::vector<std::string>{"a", "b"}), "a or b");
    EXPECT_EQ(listOf(std::vector<std::string>{"a", "b", "c"}), "a, b or c");
}

} // namespace
} // namespace fell::json_reader_test
