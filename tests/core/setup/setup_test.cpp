// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/temp_folder.h"
#include <fell/demo/demo_folder.h>
#include <fell/input/text_file.h>
#include <fell/mesh/layouts.h>
#include <fell/setup/setup.h>
#include <fell/setup/stages.h>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include <random>
#include <set>

namespace fell::setup_test {
namespace {

TEST(Setup, ComesBackFromItsFileAsItWas)
{
    fell::Setup setup;
    setup.name = "mine";
    setup.chunk.edge = 64;
    setup.mesh.mesher = "every";
    setup.stream.distance = 11;
    setup.cull.steps = {"view-planes"};
    setup.draw.budget = 8.25;
    const auto back = parseSetup(toJson(setup), "f");
    ASSERT_TRUE(back) << sentence(back.problem());
    EXPECT_EQ(back.value(), setup);
}

TEST(Setup, EveryFieldCanBeWrittenAndReadAndRefusesWhatIsOutside)
{
    for (const SetupField& field : setupFields()) {
        fell::Setup setup;
        const auto value = field.read(setup);
        EXPECT_FALSE(writeField(field, setup, value)) << field.path;
        EXPECT_EQ(setup, fell::Setup{}) << field.path;
        EXPECT_TRUE(writeField(field, setup, nullptr)) << field.path;
        if (field.kind == SetupField::Kind::Whole || field.kind == SetupField::Kind::Number) {
            EXPECT_TRUE(writeField(field, setup, field.high + 1)) << field.path;
            EXPECT_TRUE(writeField(field, setup, field.low - 1)) << field.path;
            EXPECT_TRUE(writeField(field, setup, "many")) << field.path;
        } else {
            EXPECT_TRUE(writeField(field, setup, "no-such-method")) << field.path;
        }
        EXPECT_FALSE(field.note.empty()) << field.path << " says nothing about its cost";
    }
}

/// A value that the field takes, by chance.
nlohmann::json someValue(const SetupField& field, std::mt19937_64& dice)
{
    if (field.kind == SetupField::Kind::Choices) {
        nlohmann::json list = nlohmann::json::array();
        for (const std::string& one : field.allowed)
            if (dice() % 2)
                list.push_back(one);
        return list;
    }
    if (field.kind == SetupField::Kind::Choice)
        return field.allowed[dice() % field.allowed.size()];
    if (!field.allowed.empty())
        return std::stoi(field.allowed[dice() % field.allowed.size()]);
    const double share = static_cast<double>(dice() >> 11) * 0x1p-53;
    const double number = field.low + share * (field.high - field.low);
    return field.kind == SetupField::Kind::Whole ? nlohmann::json(static_cast<int>(number)) : nlohmann::json(number);
}

TEST(Setup, AnySetupThatCanBeSaidComesBackFromItsFile)
{
    std::mt19937_64 dice(1847);
    int compared = 0;
    for (int i = 0; i < 300; ++i) {
        fell::Setup setup;
        setup.name = "by chance " + std::to_string(i);
        for (const SetupField& field : setupFields())
            ASSERT_FALSE(writeField(field, setup, someValue(field, dice))) << field.path;
        if (checkSetup(setup))
            continue; // choices that do not go together
        const auto back = parseSetup(toJson(setup), "f");
        ASSERT_TRUE(back) << sentence(back.problem());
        for (const SetupField& field : setupFields())
            EXPECT_EQ(field.read(back.value()), field.read(setup)) << field.path;
        ++compared;
    }
    EXPECT_GT(compared, 50);
}

TEST(Setup, AValueOnTheCommandLineIsThatOfTheFile)
{
    std::mt19937_64 dice(1848);
    for (const SetupField& field : setupFields())
        for (int i = 0; i < 8; ++i) {
            const nlohmann::json value = someValue(field, dice);
            std::string text = value.is_string() ? value.get<std::string>() : value.dump();
            if (value.is_array()) {
                text.clear();
                for (const auto& one : value)
                    text += (text.empty() ? "" : ",") + one.get<std::string>();
                if (text.empty())
                    continue; // an empty list is said with the word none or not at all
            }
            fell::Setup written, said;
            ASSERT_FALSE(writeField(field, written, value));
            const auto problem = applyOverride(said, field.path + "=" + text);
            ASSERT_FALSE(problem) << field.path << "=" << text << ": " << sentence(*problem);
            EXPECT_EQ(field.read(said), field.read(written)) << field.path << "=" << text;
        }
}

TEST(Setup, EveryEndOfEveryRangeIsAllowedAndWhatLiesBeyondNamesIt)
{
    for (const SetupField& field : setupFields()) {
        if (field.kind != SetupField::Kind::Whole && field.kind != SetupField::Kind::Number)
            continue;
        fell::Setup setup;
        if (field.allowed.empty())
            for (const double end : {field.low, field.high}) {
                const nlohmann::json value = field.kind == SetupField::Kind::Whole
                    ? nlohmann::json(static_cast<int>(end))
                    : nlohmann::json(end);
                EXPECT_FALSE(writeField(field, setup, value)) << field.path << " at " << end;
            }
        const auto problem = writeField(field, setup, nlohmann::json(field.high + 1));
        ASSERT_TRUE(problem) << field.path;
        EXPECT_NE(problem->find(field.allowed.empty() ? std::to_string(static_cast<int>(field.low)).substr(0, 1)
                                                      : field.allowed.front()),
            std::string::npos)
            << field.path << ": " << *problem << " does not say what is allowed";
    }
}

TEST(Setup, ThereIsOneDefaultWhichIsNear)
{
    const auto near = findSetup("near", demoFolder() / "setups");
    ASSERT_TRUE(near);
    for (const SetupField& field : setupFields())
        EXPECT_EQ(field.read(near.value()), field.read(fell::Setup{})) << field.path;
    EXPECT_EQ(near.value(), fell::Setup{});
}

TEST(Setup, MetresBecomeWholeChunksAndTheLastThatWasSaidHolds)
{
    fell::Setup setup;
    ASSERT_FALSE(applyOverride(setup, "stream.metres=100"));
    ASSERT_FALSE(settleDistance(setup, 0.5));
    EXPECT_EQ(setup.stream.distance, 6) << "chunks of 16 m: 6.25";
    setup.chunk.edge = 16;
    ASSERT_FALSE(settleDistance(setup, 0.5));
    EXPECT_EQ(setup.stream.distance, 13) << "chunks of 8 m: 12.5";
    ASSERT_FALSE(settleDistance(setup, 1000));
    EXPECT_EQ(setup.stream.distance, 1) << "at least one";
    EXPECT_TRUE(settleDistance(setup, 0.01)) << "625 chunks, without levels of detail";
    EXPECT_EQ(setup.stream.distance, 1) << "and nothing was changed";
    ASSERT_FALSE(applyOverride(setup, "stream.distance=3"));
    ASSERT_FALSE(settleDistance(setup, 0.5));
    EXPECT_EQ(setup.stream.distance, 3);
}

TEST(Setup, OverridesNameTheirPathAndWhatIsAllowed)
{
    fell::Setup setup;
    EXPECT_FALSE(applyOverride(setup, "mesh.mesher=every"));
    EXPECT_FALSE(applyOverride(setup, "stream.distance=12"));
    EXPECT_FALSE(applyOverride(setup, "draw.budget=33.3"));
    EXPECT_FALSE(applyOverride(setup, "cull.steps=view-planes,distance"));
    EXPECT_EQ(setup.mesh.mesher, "every");
    EXPECT_EQ(setup.stream.distance, 12);
    EXPECT_EQ(setup.draw.budget, 33.3);
    EXPECT_EQ(setup.cull.steps, (std::vector<std::string>{"view-planes", "distance"}));
    EXPECT_FALSE(applyOverride(setup, "cull.steps="));
    EXPECT_TRUE(setup.cull.steps.empty());

    const fell::Setup before = setup;
    const std::pair<const char*, const char*> wrong[]{{"mesh.mesher=best", "exposed, greedy, greedy-bits or bevelled"},
        {"chunk.edge=33", "16, 32 or 64"}, {"stream.distance=0", "from 1 to 1024"},
        {"stream.distance=3.5", "whole number"}, {"mesh.colour=red", "is no setting; allowed are"},
        {"mesh.mesher", "path=value is expected"}, {"cull.steps=distance,distance", "different"}};
    for (const auto& [text, part] : wrong) {
        const auto problem = applyOverride(setup, text);
        ASSERT_TRUE(problem) << text;
        EXPECT_NE(problem->what.find(part), std::string::npos) << problem->what;
        EXPECT_EQ(setup, before) << "nothing changes";
    }
}

TEST(Setup, FilesWithWrongKeysOrValuesSayWhere)
{
    const std::pair<const char*, const char*> cases[]{
        {R"({"format": "fell-setup", "version": 1, "name": "x", "mesh": {"mesher": "best"}})", "/mesh/mesher"},
        {R"({"format": "fell-setup", "version": 1, "name": "x", "mesh": {"colour": 1}})", "/mesh/colour"},
        {R"({"format": "fell-setup", "version": 1, "name": "x", "mush": {}})", "/mush"},
        {R"({"format": "fell-setup", "version": 1, "name": "x", "mesh": 3})", "/mesh"},
        {R"({"format": "fell-setup", "version": 9, "name": "x"})", "/version"},
        {R"({"format": "fell-setup", "version": 1})", "/name"},
    };
    for (const auto& [text, pointer] : cases) {
        const auto setup = parseSetup(text, "s.json");
        ASSERT_FALSE(setup) << text;
        EXPECT_EQ(setup.problem().pointer, pointer);
    }
}

TEST(Setup, DemosAreFoundByNameAndDifferInEveryStageThatHasTwoMethods)
{
    const auto near = findSetup("near", demoFolder() / "setups"), plain = findSetup("plain", demoFolder() / "setups"),
               longView = findSetup("long-view", demoFolder() / "setups");
    ASSERT_TRUE(near && plain && longView);
    for (const Stage& stage : stages())
        if (stage.methods().size() > 1) {
            const auto& other = stage.id == "levels" ? longView : near; // near needs none
            EXPECT_NE(findField(stage.path)->read(other.value()), findField(stage.path)->read(plain.value()))
                << stage.id;
        }
    const auto none = findSetup("far", demoFolder() / "setups");
    ASSERT_FALSE(none);
    EXPECT_NE(none.problem().what.find("long-view, near, plain or valley"), std::string::npos);
}

TEST(Setup, MissingKeysComeFromTheBase)
{
    const test::TempFolder folder;
    const std::string head = R"({"format": "fell-setup", "version": 1, "name": )";
    const auto file = folder.write("mine.json", head + R"("mine", "base": "near", "stream": {"distance": 7}})");
    const auto mine = findSetup(file.string(), demoFolder() / "setups");
    ASSERT_TRUE(mine) << sentence(mine.problem());
    fell::Setup wanted = findSetup("near", demoFolder() / "setups").take();
    wanted.name = "mine";
    wanted.stream.distance = 7;
    EXPECT_EQ(mine.value(), wanted);
    // A base of a base, in a file next to it.
    const auto next = folder.write("next.json", head + R"("next", "base": "mine.json", "chunk": {"edge": 16}})");
    const auto two = findSetup(next.string(), demoFolder() / "setups");
    ASSERT_TRUE(two) << sentence(two.problem());
    EXPECT_EQ(two.value().stream.distance, 7);
    EXPECT_EQ(two.value().chunk.edge, 16);
    const auto round = folder.write("round.json", head + R"("round", "base": "round.json"})");
    const auto endless = findSetup(round.string(), demoFolder() / "setups");
    ASSERT_FALSE(endless);
    EXPECT_NE(sentence(endless.problem()).find("lead back to itself"), std::string::npos);
    const auto none
        = findSetup(folder.write("n.json", head + R"("n", "base": "far"})").string(), demoFolder() / "setups");
    ASSERT_FALSE(none);
    EXPECT_EQ(none.problem().pointer, "/base");
    EXPECT_NE(none.problem().what.find("long-view, near, plain or valley"), std::string::npos) << none.problem().what;
}

TEST(Setup, AFarDistanceNeedsLevelsOfDetail)
{
    fell::Setup setup;
    EXPECT_FALSE(checkSetup(setup));
    setup.stream.distance = kFarthestPlain + 1;
    ASSERT_TRUE(checkSetup(setup));
    EXPECT_NE(checkSetup(setup)->what.find("choose lod.scheme rings or error"), std::string::npos);
    const auto read
        = parseSetup(R"({"format": "fell-setup", "version": 1, "name": "x", "stream": {"distance": 99}})", "f");
    ASSERT_FALSE(read);
    EXPECT_EQ(read.problem().pointer, "/stream/distance");
    setup.lod.scheme = "error";
    EXPECT_FALSE(checkSetup(setup));
}

TEST(UseMesher, SwitchesOffWhatTheMesherCannotDo)
{
    fell::Setup setup;
    setup.lod.scheme = "rings";
    setup.mesh.ambientOcclusion = "rim";
    setup.cull.steps = {"octree", "hidden", "facing"};
    const auto said = useMesher(setup, *findMesher("bevelled"));
    EXPECT_EQ(setup.mesh.mesher, "bevelled");
    EXPECT_EQ(setup.lod.scheme, "off");
    EXPECT_EQ(setup.cull.steps, (std::vector<std::string>{"octree", "facing"}));
    EXPECT_EQ(setup.mesh.ambientOcclusion, "rim") << "it takes that";
    EXPECT_FALSE(checkSetup(setup));
    ASSERT_EQ(said.size(), 2U);
    EXPECT_EQ(said[0], "lod.scheme=off, because bevelled has no seams between levels of detail");
    EXPECT_EQ(useMesher(setup, *findMesher("greedy")).size(), 0U);
}

TEST(SetupFields, ALibraryThatIsNotLoadedIsSaidToBeOne)
{
    fell::Setup setup;
    const auto wrong = writeField(*findField("mesh.mesher"), setup, "rows@12345678");
    ASSERT_TRUE(wrong);
    EXPECT_NE(wrong->find("a method from a library that is not loaded: --method FILE loads it"), std::string::npos)
        << *wrong;
    EXPECT_NE(writeField(*findField("mesh.mesher"), setup, "greeedy")->find("greedy"), std::string::npos);
}

TEST(Stages, StandInTheOrderOfThePipelineWithTheMethodsOfTheirTables)
{
    std::vector<std::string> ids;
    for (const Stage& stage : stages()) {
        ids.push_back(stage.id);
        EXPECT_FALSE(stage.methods().empty());
        const SetupField* field = findField(stage.path);
        ASSERT_NE(field, nullptr) << stage.path;
        std::set<std::string> methods;
        for (const auto& method : stage.methods()) {
            methods.insert(method.id);
            EXPECT_FALSE(method.note.empty());
        }
        EXPECT_EQ(methods, std::set<std::string>(field->allowed.begin(), field->allowed.end()));
    }
    EXPECT_EQ(ids, (std::vector<std::string>{"generate", "light", "mesh", "upload", "levels", "cull", "draw", "edit"}));
}

} // namespace
} // namespace fell::setup_test
