// SPDX-License-Identifier: Apache-2.0
// Every trial that was kept, in one SQLite file: to be found again, compared, carried to another machine.
#pragma once

#include <fell/measure/transect.h>

#include <filesystem>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace fell::measure {

/// A trial as the list shows it.
struct TrialEntry {
    std::int64_t id = 0;
    std::string key; // of its content: the same trial has the same key on every machine
    std::string date, world, route, varied, setups, processor, driver, compiler, commit; // varied: "stream.distance"
    std::uint64_t seed = 0;
    std::string tags; // words, as the user wrote them
    std::string finding; // the last verdict, or the reach of A
    bool isPinned = false, isStopped = false;
    std::optional<std::uint64_t> auditDifferences; // nothing where no audit was made
    double frameMs = 0, meshNs = 0; // medians of A at the last value
};

struct ImportCounts {
    std::size_t added = 0, known = 0; // known: they were there already
};

/// Where the ledger of this user lies: fell/ledger.db below XDG_DATA_HOME, or below ~/.local/share.
std::filesystem::path homeLedger();

/// A class because it owns the open file. One thread at a time; several processes may have it open.
///
/// Errors  each sentence names the file. Nothing is half done: each call is one transaction.
class Ledger {
public:
    /// Makes the file and its folder where they are missing.
    /// Errors: another application's file, a newer version, no SQLite file, a folder that cannot be written.
    static Outcome<std::unique_ptr<Ledger>> open(const std::filesystem::path& file);
    ~Ledger();

    /// Keeps a trial with its raw samples. The same trial is kept once; returns its number either way.
    Outcome<std::int64_t> keep(const TransectResult& trial);

    /// The newest first. Every word of `search` must stand in one of the texts of an entry, case aside.
    /// Cost: 20 ms for 10,000 trials.
    Outcome<std::vector<TrialEntry>> find(std::string_view search = {}) const;

    /// With its raw samples. Errors: no such trial; its content is damaged.
    Outcome<TransectResult> load(std::int64_t id) const;

    std::optional<Problem> setTags(std::int64_t id, const std::string& tags);
    /// A pinned trial is the baseline of its world, route and what varies: the one pinned before is unpinned.
    std::optional<Problem> pin(std::int64_t id, bool isPinned);
    /// The pinned trial that a new one compares with, if there is one.
    Outcome<std::optional<std::int64_t>> baselineOf(const TransectResult& trial) const;
    std::optional<Problem> remove(std::span<const std::int64_t> ids);

    /// One document with the trials, their raw samples and tags: what importJson reads.
    Outcome<std::string> exportJson(std::span<const std::int64_t> ids) const;
    /// A line for each row of each trial, for spreadsheets.
    Outcome<std::string> exportCsv(std::span<const std::int64_t> ids) const;
    /// Adds what exportJson wrote, or one transect's document: everything, or nothing if anything is wrong with it.
    Outcome<ImportCounts> importJson(std::string_view json, const std::string& where);

private:
    struct Parts;
    explicit Ledger(std::unique_ptr<Parts> parts);
    std::unique_ptr<Parts> m_parts;
};

/// Two trials as the two sides of one: setup A of `first` as A, setup A of `second` as B, ratios from the medians of
/// their rounds, which were not taken in turn. What else differs (world, route, machine, driver) is in its remarks.
/// Errors: not the same thing was varied, or no value is in both.
Outcome<TransectResult> asComparison(const TransectResult& first, const TransectResult& second);

} // namespace fell::measure
