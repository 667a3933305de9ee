// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/ledger.h>

#include <nlohmann/json.hpp>

#include <fell/input/json_reader.h>
#include <fell/input/text_file.h>
#include <fell/measure/ledger_entry.h>
#include <fell/measure/results.h>
#include <fell/save/chunk_codec.h>

#include <SQLiteCpp/SQLiteCpp.h>
#include <xxhash.h>

#include <algorithm>
#include <chrono>
#include <cstdlib>
#include <thread>

namespace fell::measure {
namespace {

constexpr int kApplication = 0x46656C6C; // "Fell"
constexpr int kVersion = 1;
constexpr int kLevel = 3; // of zstd
constexpr std::size_t kLargest = std::size_t{1} << 30; // bytes of one trial's document

constexpr const char* kTables = R"(
CREATE TABLE trial(
  id INTEGER PRIMARY KEY, key TEXT NOT NULL UNIQUE, date TEXT NOT NULL, world TEXT NOT NULL, seed TEXT NOT NULL,
  route TEXT NOT NULL, varied TEXT NOT NULL, setups TEXT NOT NULL, processor TEXT NOT NULL, driver TEXT NOT NULL,
  compiler TEXT NOT NULL, commit_id TEXT NOT NULL, tags TEXT NOT NULL DEFAULT '', finding TEXT NOT NULL,
  pinned INTEGER NOT NULL DEFAULT 0, stopped INTEGER NOT NULL, audit INTEGER, frame_ms REAL NOT NULL,
  mesh_ns REAL NOT NULL);
CREATE INDEX trial_by_date ON trial(date);
CREATE TABLE content(trial INTEGER PRIMARY KEY REFERENCES trial(id) ON DELETE CASCADE, document BLOB NOT NULL);
)";

/// SQLite does not wait where two processes switch a new file at the same time.
void switchToWal(SQLite::Database& base)
{
    constexpr int kTries = 200;
    for (int i = 0;; ++i) {
        try {
            base.exec("PRAGMA journal_mode = WAL");
            return;
        } catch (const SQLite::Exception& error) {
            const int code = error.getErrorCode() & 0xFF;
            if (i + 1 == kTries || (code != 5 && code != 6)) // SQLITE_BUSY, SQLITE_LOCKED
                throw;
            std::this_thread::sleep_for(std::chrono::milliseconds(10));
        }
    }
}

std::vector<std::string> wordsOf(std::string_view text)
{
    std::vector<std::string> words{""};
    for (const char c : text)
        if (c == ' ')
            words.emplace_back();
        else
            words.back() += c;
    std::erase(words, "");
    return words;
}

/// A word as a pattern of LIKE that matches only itself.
std::string patternOf(const std::string& word)
{
    std::string out = "%";
    for (const char c : word) {
        if (c == '%' || c == '_' || c == '\\')
            out += '\\';
        out += c;
    }
    return out + "%";
}

} // namespace

struct Ledger::Parts {
    std::filesystem::path file;
    mutable SQLite::Database base;

    /// Does the work; what the database throws becomes a sentence.
    template <typename Work> auto guarded(const char* what, const Work& work) const -> decltype(work())
    {
        try {
            return work();
        } catch (const SQLite::Exception& error) {
            return Problem{file.string(), "", std::string(what) + ": " + error.what()};
        }
    }

    std::int64_t insert(const TransectResult& trial, const std::string& document, const std::string& tags)
    {
        const TrialEntry entry = entryOf(trial, document);
        SQLite::Statement known(base, "SELECT id FROM trial WHERE key = ?");
        known.bind(1, entry.key);
        if (known.executeStep())
            return -known.getColumn(0).getInt64();
        SQLite::Statement add(base,
            "INSERT INTO trial(key, date, world, seed, route, varied, setups, processor, driver, compiler, commit_id, "
            "tags, finding, stopped, audit, frame_ms, mesh_ns) VALUES(?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, "
            "?)");
        int at = 0;
        for (const std::string& text :
            {entry.key, entry.date, entry.world, std::to_string(entry.seed), entry.route, entry.varied, entry.setups,
                entry.processor, entry.driver, entry.compiler, entry.commit, tags, entry.finding})
            add.bind(++at, text);
        add.bind(++at, entry.isStopped ? 1 : 0);
        if (entry.auditDifferences)
            add.bind(++at, static_cast<std::int64_t>(*entry.auditDifferences));
        else
            add.bind(++at);
        add.bind(++at, entry.frameMs);
        add.bind(++at, entry.meshNs);
        add.exec();
        const std::int64_t id = base.getLastInsertRowid();
        const std::string bytes = compressed(document, kLevel);
        SQLite::Statement content(base, "INSERT INTO content(trial, document) VALUES(?, ?)");
        content.bind(1, id);
        content.bindNoCopy(2, bytes.data(), static_cast<int>(bytes.size()));
        content.exec();
        return id;
    }

    /// Changes one trial by a statement whose last ? is its number.
    std::optional<Problem> change(const char* sql, const std::string& text, std::int64_t id)
    {
        return guarded("could not be written", [&]() -> std::optional<Problem> {
            SQLite::Statement statement(base, sql);
            statement.bind(1, text);
            statement.bind(2, id);
            if (statement.exec() == 0)
                return Problem{file.string(), "", "has no trial " + std::to_string(id)};
            return std::nullopt;
        });
    }

    [[nodiscard]] Outcome<std::string> documentOf(std::int64_t id) const
    {
        return guarded("could not be read", [&]() -> Outcome<std::string> {
            SQLite::Statement get(base, "SELECT document FROM content WHERE trial = ?");
            get.bind(1, id);
            if (!get.executeStep())
                return Problem{file.string(), "", "has no trial " + std::to_string(id)};
            const SQLite::Column bytes = get.getColumn(0);
            auto text = decompressed(
                {static_cast<const char*>(bytes.getBlob()), static_cast<std::size_t>(bytes.getBytes())}, kLargest);
            if (!text)
                return Problem{file.string(), "",
                    "holds trial " + std::to_string(id) + " damaged: its checksum is another; the others can be read"};
            return *std::move(text);
        });
    }
};

std::filesystem::path homeLedger()
{
    const char *data = std::getenv("XDG_DATA_HOME"), *home = std::getenv("HOME"); // NOLINT(concurrency-mt-unsafe)
    const std::filesystem::path base = data && *data
        ? std::filesystem::path(data)
        : std::filesystem::path(home && *home ? home : ".") / ".local" / "share";
    return base / "fell" / "ledger.db";
}

Ledger::Ledger(std::unique_ptr<Parts> parts)
    : m_parts(std::move(parts))
{
}

Ledger::~Ledger() = default;

Outcome<std::unique_ptr<Ledger>> Ledger::open(const std::filesystem::path& file)
{
    if (file.empty())
        return Problem{"", "", "the name of the ledger is empty: give a file name"};
    if (file.has_parent_path())
        if (auto problem = makeFolder(file.parent_path()))
            return *problem;
    try {
        constexpr int kPatience = 5000; // ms for another process to finish its write
        auto parts = std::unique_ptr<Parts>(new Parts{file,
            SQLite::Database(std::filesystem::absolute(file).string(), // ":memory:" is a file's name too
                SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE, kPatience)});
        SQLite::Database& base = parts->base;
        base.exec("PRAGMA trusted_schema = OFF");
        base.exec("PRAGMA cell_size_check = ON");
        if (base.execAndGet("SELECT count(*) FROM sqlite_master WHERE type IN ('view', 'trigger')").getInt() > 0)
            return Problem{
                file.string(), "", "has views or triggers, which no ledger of Fell has: choose another file"};
        const bool isNew = base.execAndGet("SELECT count(*) FROM sqlite_master").getInt() == 0;
        const int application = base.execAndGet("PRAGMA application_id").getInt(),
                  version = base.execAndGet("PRAGMA user_version").getInt();
        if (!isNew && application != kApplication)
            return Problem{
                file.string(), "", "is a database of another application, no ledger of Fell: choose another file"};
        if (version > kVersion)
            return Problem{file.string(), "",
                "is a ledger of version " + std::to_string(version) + ", up to " + std::to_string(kVersion)
                    + " can be opened; a newer Fell made it"};
        base.exec("PRAGMA foreign_keys = ON");
        if (isNew) {
            switchToWal(base);
            SQLite::Transaction all(base, SQLite::TransactionBehavior::IMMEDIATE);
            if (base.execAndGet("SELECT count(*) FROM sqlite_master").getInt()
                == 0) { // no other process made it meanwhile
                base.exec(kTables);
                base.exec("PRAGMA application_id = " + std::to_string(kApplication));
                base.exec("PRAGMA user_version = " + std::to_string(kVersion));
            }
            all.commit();
        }
        return std::unique_ptr<Ledger>(new Ledger(std::move(parts)));
    } catch (const SQLite::Exception& error) {
        return Problem{file.string(), "", std::string("could not be opened as a ledger: ") + error.what()};
    }
}

Outcome<std::int64_t> Ledger::keep(const TransectResult& trial)
{
    return m_parts->guarded("could not be written", [&]() -> Outcome<std::int64_t> {
        SQLite::Transaction all(m_parts->base, SQLite::TransactionBehavior::IMMEDIATE);
        const std::int64_t id = m_parts->insert(trial, toJson(trial, RawSamples::With).dump(), "");
        all.commit();
        return std::abs(id);
    });
}

Outcome<std::vector<TrialEntry>> Ledger::find(std::string_view search) const
{
    return m_parts->guarded("could not be read", [&]() -> Outcome<std::vector<TrialEntry>> {
        const auto words = wordsOf(search);
        std::string sql = "SELECT " + std::string(kListed) + " FROM trial";
        for (std::size_t i = 0; i < words.size(); ++i)
            sql += std::string(i == 0 ? " WHERE " : " AND ")
                + "(date || ' ' || world || ' ' || route || ' ' || varied || ' ' || setups || ' ' || processor || ' ' "
                  "|| driver || ' ' || compiler || ' ' || commit_id || ' ' || tags || ' ' || finding) LIKE ? ESCAPE "
                  "'\\'";
        SQLite::Statement list(m_parts->base, sql + " ORDER BY date DESC, id DESC");
        for (std::size_t i = 0; i < words.size(); ++i)
            list.bind(static_cast<int>(i) + 1, patternOf(words[i]));
        std::vector<TrialEntry> out;
        while (list.executeStep())
            out.push_back(entryFrom(list));
        return out;
    });
}

Outcome<TransectResult> Ledger::load(std::int64_t id) const
{
    const auto document = m_parts->documentOf(id);
    if (!document)
        return document.problem();
    return parseResultJson(document.value(), m_parts->file.string() + ", trial " + std::to_string(id));
}

std::optional<Problem> Ledger::setTags(std::int64_t id, const std::string& tags)
{
    return m_parts->change("UPDATE trial SET tags = ? WHERE id = ?", tags, id);
}

std::optional<Problem> Ledger::pin(std::int64_t id, bool isPinned)
{
    return m_parts->guarded("could not be written", [&]() -> std::optional<Problem> {
        SQLite::Transaction all(m_parts->base, SQLite::TransactionBehavior::IMMEDIATE);
        if (isPinned) {
            SQLite::Statement others(m_parts->base,
                "UPDATE trial SET pinned = 0 WHERE (world, seed, route, varied) = (SELECT world, seed, route, varied "
                "FROM trial WHERE id = ?)");
            others.bind(1, id);
            others.exec();
        }
        if (auto problem = m_parts->change("UPDATE trial SET pinned = ? WHERE id = ?", isPinned ? "1" : "0", id))
            return problem;
        all.commit();
        return std::nullopt;
    });
}

Outcome<std::optional<std::int64_t>> Ledger::baselineOf(const TransectResult& trial) const
{
    return m_parts->guarded("could not be read", [&]() -> Outcome<std::optional<std::int64_t>> {
        SQLite::Statement get(
            m_parts->base, "SELECT id FROM trial WHERE pinned AND world = ? AND seed = ? AND route = ? AND varied = ?");
        get.bind(1, trial.world);
        get.bind(2, std::to_string(trial.seed));
        get.bind(3, trial.route);
        get.bind(4, variedIn(trial));
        return get.executeStep() ? std::optional(std::int64_t{get.getColumn(0).getInt64()}) : std::nullopt;
    });
}

std::optional<Problem> Ledger::remove(std::span<const std::int64_t> ids)
{
    return m_parts->guarded("could not be written", [&]() -> std::optional<Problem> {
        SQLite::Transaction all(m_parts->base, SQLite::TransactionBehavior::IMMEDIATE);
        SQLite::Statement remove(m_parts->base, "DELETE FROM trial WHERE id = ?");
        for (const std::int64_t id : ids) {
            remove.bind(1, id);
            remove.exec();
            remove.reset();
        }
        all.commit();
        return std::nullopt;
    });
}

Outcome<std::string> Ledger::exportJson(std::span<const std::int64_t> ids) const
{
    const auto entries = find();
    if (!entries)
        return entries.problem();
    nlohmann::ordered_json root{{"format", "fell-ledger"}, {"version", kVersion}};
    root["trials"] = nlohmann::ordered_json::array();
    for (const std::int64_t id : ids) {
        const auto document = m_parts->documentOf(id);
        if (!document)
            return document.problem();
        const auto entry = std::find_if(
            entries.value().begin(), entries.value().end(), [id](const TrialEntry& one) { return one.id == id; });
        root["trials"].push_back({{"tags", entry != entries.value().end() ? entry->tags : ""},
            {"trial", nlohmann::ordered_json::parse(document.value(), nullptr, false)}});
    }
    return root.dump() + "\n";
}

Outcome<std::string> Ledger::exportCsv(std::span<const std::int64_t> ids) const
{
    std::vector<TransectResult> trials;
    for (const std::int64_t id : ids) {
        auto trial = load(id);
        if (!trial)
            return trial.problem();
        trials.push_back(trial.take());
    }
    return toCsv(trials);
}

Outcome<ImportCounts> Ledger::importJson(std::string_view json, const std::string& where)
{
    struct Read {
        TransectResult trial;
        std::string document, tags;
    };
    // Ordered, so that a trial's document is the same text here as there, and so is its key.
    const auto parsed = parseOrderedJson(json, where);
    if (!parsed)
        return parsed.problem();
    const nlohmann::ordered_json& root = parsed.value();
    if (!root.is_object())
        return Problem{where, "", "is neither an exported ledger nor a transect's JSON, which are allowed"};
    std::vector<Read> all;
    std::optional<Problem> problem;
    const auto add = [&](const nlohmann::ordered_json& document, std::string tags, const std::string& at) {
        auto trial = parseResultJson(document.dump(), at);
        if (!trial)
            problem = trial.problem();
        else
            all.push_back({trial.take(), document.dump(), std::move(tags)});
    };
    if (root.contains("trials")) {
        if (!root.contains("format") || root["format"] != "fell-ledger" || !root["trials"].is_array())
            return Problem{
                where, "/format", "is no exported ledger: \"fell-ledger\" with a list of trials is expected"};
        if (!root.contains("version") || root["version"] != kVersion)
            return Problem{where, "/version", "is none that is known: " + std::to_string(kVersion) + " is expected"};
        for (std::size_t i = 0; i < root["trials"].size() && !problem; ++i) {
            const auto& one = root["trials"][i];
            const std::string at = where + ", trials/" + std::to_string(i);
            if (!one.is_object() || !one.contains("trial"))
                return Problem{at, "", "holds no trial"};
            add(one["trial"], one.contains("tags") && one["tags"].is_string() ? one["tags"].get<std::string>() : "",
                at);
        }
    } else {
        add(root, "", where);
    }
    if (problem)
        return *problem;
    return m_parts->guarded("could not be written", [&]() -> Outcome<ImportCounts> {
        ImportCounts counts;
        SQLite::Transaction transaction(m_parts->base, SQLite::TransactionBehavior::IMMEDIATE);
        for (const Read& one : all)
            ++(m_parts->insert(one.trial, one.document, one.tags) > 0 ? counts.added : counts.known);
        transaction.commit();
        return counts;
    });
}

} // namespace fell::measure
