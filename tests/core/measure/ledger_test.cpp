// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/ledger.h>

#include <nlohmann/json.hpp>

#include "support/all_names.h"
#include "support/temp_folder.h"
#include <fell/input/text_file.h>
#include <fell/measure/results.h>

#include <SQLiteCpp/SQLiteCpp.h>
#include <gtest/gtest.h>

#include <cmath>

namespace fell::ledger_test {
namespace {

TransectResult trialOf(const std::string& world, const std::string& date, std::vector<double> frames = {10, 10.2, 9.8})
{
    TransectResult trial;
    trial.world = world;
    trial.seed = 18446744073709551615u; // the largest
    trial.vary = "stream.distance";
    trial.unit = "chunks";
    trial.route = "Beck to summit";
    trial.driver = "a software rasteriser";
    trial.rounds = 3;
    trial.frames = 2;
    trial.width = 640;
    trial.height = 400;
    trial.machine = {"a processor", 2, "a compiler", "x86-64-v3", "abc123", date};
    trial.a.name = "near";
    trial.a.mesh.mesher = "greedy";
    for (const int value : {4, 8}) {
        TransectRow row;
        row.setup = "near";
        row.value = value;
        row.frameRounds = frames;
        for (double& frame : row.frameRounds)
            frame *= value / 4.0;
        row.meshRounds = {100, 101, 99};
        row.frameMs.p50 = percentile(row.frameRounds, 50);
        row.frameMs.p95 = row.frameMs.p50;
        row.frameMs.count = 6;
        row.frameSamples = {1.1F, 2.2F, 3.3F, 4.4F, 5.5F, 0.1F};
        row.meshNs.p50 = 100;
        row.meshSamples = {100, 101.5F};
        trial.rows.push_back(row);
    }
    concludeFromRows(trial);
    return trial;
}

struct LedgerTest : testing::Test {
    test::TempFolder folder;
    std::filesystem::path file = folder.path() / "deep" / "ledger.db";
    std::unique_ptr<Ledger> ledger = Ledger::open(file).take();

    std::vector<TrialEntry> found(std::string_view search = {}) { return ledger->find(search).take(); }
};

TEST_F(LedgerTest, KeepsATrialWholeAndOnlyOnce)
{
    const TransectResult trial = trialOf("Corrowdale", "2026-11-26T10:00:00Z");
    const std::int64_t id = ledger->keep(trial).take();
    EXPECT_EQ(ledger->keep(trial).take(), id);
    ledger = Ledger::open(file).take(); // as after a restart
    const auto entries = found();
    ASSERT_EQ(entries.size(), 1u);
    EXPECT_EQ(entries[0].world, "Corrowdale");
    EXPECT_EQ(entries[0].seed, 18446744073709551615u);
    EXPECT_EQ(entries[0].setups, "near");
    EXPECT_EQ(entries[0].frameMs, 20) << "the last value's";
    EXPECT_FALSE(entries[0].auditDifferences);
    EXPECT_EQ(entries[0].finding, "A near reaches 6.64 chunks within 16.6 ms at p95") << "between 4 and 8, by hand";
    const auto back = ledger->load(id);
    ASSERT_TRUE(back) << sentence(back.problem());
    EXPECT_EQ(toJson(back.value(), RawSamples::With).dump(), toJson(trial, RawSamples::With).dump());
    EXPECT_EQ(back.value().rows[1].frameSamples, trial.rows[1].frameSamples);
    EXPECT_FALSE(ledger->load(id + 1));
}

TEST_F(LedgerTest, IsSearchedByWordsNewestFirst)
{
    ASSERT_TRUE(ledger->keep(trialOf("Corrowdale", "2026-11-24T10:00:00Z")));
    ASSERT_TRUE(ledger->keep(trialOf("Lit gallery", "2026-11-26T10:00:00Z")));
    const std::int64_t last = ledger->keep(trialOf("100% dust", "2026-11-25T10:00:00Z")).take();
    const auto all = found();
    ASSERT_EQ(all.size(), 3u);
    EXPECT_EQ(all[0].world, "Lit gallery");
    EXPECT_EQ(all[2].world, "Corrowdale");
    EXPECT_EQ(found("GALLERY 2026").size(), 1u) << "every word, case aside";
    EXPECT_EQ(found("gallery dust").size(), 0u);
    EXPECT_EQ(found("100%").size(), 1u) << "a wildcard matches only itself";
    EXPECT_EQ(found("100_").size(), 0u);
    EXPECT_EQ(found("'; DROP TABLE trial; --").size(), 0u);
    EXPECT_FALSE(ledger->setTags(last, "before the rewrite"));
    EXPECT_EQ(found("rewrite").size(), 1u);
    EXPECT_TRUE(ledger->setTags(999, "none"));
    EXPECT_EQ(found().size(), 3u);
}

TEST_F(LedgerTest, OnePinnedTrialIsTheBaselineOfItsKind)
{
    const TransectResult one = trialOf("Corrowdale", "2026-11-24T10:00:00Z"),
                         other = trialOf("Corrowdale", "2026-11-25T10:00:00Z"),
                         elsewhere = trialOf("Dust", "2026-11-25T10:00:00Z");
    const std::int64_t a = ledger->keep(one).take(), b = ledger->keep(other).take(), c = ledger->keep(elsewhere).take();
    EXPECT_FALSE(ledger->baselineOf(one).take());
    for (const std::int64_t id : {a, c, b})
        EXPECT_FALSE(ledger->pin(id, true));
    EXPECT_EQ(ledger->baselineOf(one).take(), b) << "the first was unpinned";
    EXPECT_EQ(ledger->baselineOf(elsewhere).take(), c);
    EXPECT_FALSE(ledger->pin(b, false));
    EXPECT_FALSE(ledger->baselineOf(one).take());
    EXPECT_TRUE(ledger->pin(77, true));
    EXPECT_EQ(ledger->baselineOf(elsewhere).take(), c) << "what failed changed nothing";
}

TEST_F(LedgerTest, GoesToAnotherMachineAndIsKnownThere)
{
    const std::int64_t a = ledger->keep(trialOf("Corrowdale", "2026-11-24T10:00:00Z")).take(),
                       b = ledger->keep(trialOf("Dust", "2026-11-25T10:00:00Z")).take();
    EXPECT_FALSE(ledger->setTags(a, "first"));
    const std::string text = ledger->exportJson(std::vector{a, b}).take();
    auto other = Ledger::open(folder.path() / "other.db").take();
    const auto counts = other->importJson(text, "export.json");
    ASSERT_TRUE(counts) << sentence(counts.problem());
    EXPECT_EQ(counts.value().added, 2u);
    EXPECT_EQ(other->importJson(text, "export.json").take().known, 2u);
    const auto entries = other->find("first").take();
    ASSERT_EQ(entries.size(), 1u);
    EXPECT_EQ(entries[0].key, found("first")[0].key);
    EXPECT_EQ(other->load(entries[0].id).take().rows[0].frameSamples.size(), 6u);
    // One transect's own document goes in as well.
    const std::string single = toJson(trialOf("Solid", "2026-11-20T10:00:00Z")).dump();
    EXPECT_EQ(other->importJson(single, "transect.json").take().added, 1u);
    const std::string csv = ledger->exportCsv(std::vector{a, b}).take();
    EXPECT_EQ(std::count(csv.begin(), csv.end(), '\n'), 1 + 2 * 2);
    EXPECT_NE(csv.find("Dust"), std::string::npos);
}

TEST_F(LedgerTest, AnImportIsAllOrNothing)
{
    const std::int64_t a = ledger->keep(trialOf("Corrowdale", "2026-11-24T10:00:00Z")).take();
    auto json = nlohmann::ordered_json::parse(ledger->exportJson(std::vector{a}).take());
    auto second = json["trials"][0];
    second["trial"]["date"] = "later";
    second["trial"]["rows"][0]["mesh_ns"].erase("p50");
    json["trials"][0]["trial"]["world"] = "Elsewhere";
    json["trials"].push_back(second);
    const auto result = ledger->importJson(json.dump(), "bad.json");
    ASSERT_FALSE(result);
    EXPECT_NE(sentence(result.problem()).find("bad.json, trials/1"), std::string::npos) << sentence(result.problem());
    EXPECT_NE(sentence(result.problem()).find("p50"), std::string::npos);
    EXPECT_EQ(found().size(), 1u);
    for (const char* text : {"", "[]", "{}", "{\"trials\": 3}", "{\"format\": \"fell-ledger\", \"trials\": [1]}",
             "{\"format\": \"fell-ledger\", \"version\": 1, \"trials\": [1]}"})
        EXPECT_FALSE(ledger->importJson(text, "bad.json")) << text;
    const std::string good = json.dump();
    for (std::size_t length = 0; length < good.size(); length += 97)
        (void)ledger->importJson(good.substr(0, length), "bad.json"); // must not crash
    EXPECT_EQ(found().size(), 1u);
}

TEST_F(LedgerTest, WhatIsRemovedIsGone)
{
    const std::int64_t a = ledger->keep(trialOf("Corrowdale", "2026-11-24T10:00:00Z")).take(),
                       b = ledger->keep(trialOf("Dust", "2026-11-25T10:00:00Z")).take();
    EXPECT_FALSE(ledger->remove(std::vector{a}));
    EXPECT_FALSE(ledger->load(a));
    EXPECT_TRUE(ledger->load(b));
    ASSERT_EQ(found().size(), 1u);
}

TEST_F(LedgerTest, ADamagedTrialIsNamedAndTheOthersRead)
{
    const std::int64_t a = ledger->keep(trialOf("Corrowdale", "2026-11-24T10:00:00Z")).take(),
                       b = ledger->keep(trialOf("Dust", "2026-11-25T10:00:00Z")).take();
    ledger.reset();
    {
        SQLite::Database base(file.string(), SQLite::OPEN_READWRITE);
        SQLite::Statement get(base, "SELECT document FROM content WHERE trial = ?");
        get.bind(1, a);
        ASSERT_TRUE(get.executeStep());
        std::string bytes = get.getColumn(0).getString();
        bytes[bytes.size() / 2] ^= 0x10;
        SQLite::Statement put(base, "UPDATE content SET document = ? WHERE trial = ?");
        put.bind(1, bytes.data(), static_cast<int>(bytes.size()));
        put.bind(2, a);
        get.reset();
        put.exec();
    }
    ledger = Ledger::open(file).take();
    const auto damaged = ledger->load(a);
    ASSERT_FALSE(damaged);
    EXPECT_NE(sentence(damaged.problem()).find("damaged"), std::string::npos);
    EXPECT_TRUE(ledger->load(b));
    EXPECT_EQ(found().size(), 2u);
}

TEST_F(LedgerTest, RefusesWhatIsNoLedgerOfThisVersion)
{
    const auto problem = [this](const char* name) {
        const auto opened = Ledger::open(folder.path() / name);
        return opened ? std::string() : sentence(opened.problem());
    };
    {
        SQLite::Database other((folder.path() / "other.db").string(), SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
        other.exec("CREATE TABLE letters(text TEXT)");
    }
    EXPECT_NE(problem("other.db").find("another application"), std::string::npos);
    (void)writeFile(folder.path() / "text.db", std::string(5000, 'x'));
    EXPECT_NE(problem("text.db").find("could not be opened as a ledger"), std::string::npos);
    ledger.reset();
    {
        SQLite::Database base(file.string(), SQLite::OPEN_READWRITE);
        base.exec("PRAGMA user_version = 99");
    }
    EXPECT_NE(problem("deep/ledger.db").find("version 99"), std::string::npos);
    (void)writeFile(folder.path() / "file", "");
    EXPECT_NE(problem("file/ledger.db"), "");
}

TEST_F(LedgerTest, TwoOpenAtOnceSeeEachOthersTrials)
{
    auto second = Ledger::open(file).take();
    ASSERT_TRUE(ledger->keep(trialOf("Corrowdale", "2026-11-24T10:00:00Z")));
    ASSERT_TRUE(second->keep(trialOf("Dust", "2026-11-25T10:00:00Z")));
    EXPECT_EQ(found().size(), 2u);
    EXPECT_EQ(second->find().take().size(), 2u);
}

TEST(Besides, ComparesSetupAOfBothAndSaysWhatElseDiffers)
{
    const TransectResult now = trialOf("Corrowdale", "2026-11-26T10:00:00Z", {20, 20.4, 19.6});
    TransectResult then = trialOf("Corrowdale", "2026-11-20T10:00:00Z");
    then.machine.commit = "older";
    then.rows.erase(then.rows.begin()); // only value 8 is in both
    const auto both = asComparison(now, then);
    ASSERT_TRUE(both) << sentence(both.problem());
    ASSERT_EQ(both.value().rows.size(), 2u);
    EXPECT_EQ(both.value().rows[1].side, 'B');
    ASSERT_EQ(both.value().ratios.size(), 2u);
    EXPECT_EQ(both.value().ratios[0].what, "frame_ms");
    EXPECT_NEAR(both.value().ratios[0].ratio.ratio, 2, 1e-9) << "every round took twice as long";
    EXPECT_GT(both.value().ratios[0].ratio.low, 1.9);
    EXPECT_NEAR(both.value().ratios[1].ratio.ratio, 1, 1e-9);
    std::string remarks;
    for (const auto& remark : both.value().remarks)
        remarks += remark + "\n";
    EXPECT_NE(remarks.find("The commit differs: A's is abc123, B's is older."), std::string::npos) << remarks;
    EXPECT_NE(remarks.find("not in turn"), std::string::npos);
    EXPECT_EQ(remarks.find("route differs"), std::string::npos);
    then.vary = "chunk.edge";
    EXPECT_FALSE(asComparison(now, then));
    then.vary = now.vary;
    then.rows[0].value = 5;
    EXPECT_FALSE(asComparison(now, then));
}

} // namespace
} // namespace fell::ledger_test
