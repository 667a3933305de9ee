// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/ledger_entry.h>

#include <SQLiteCpp/SQLiteCpp.h>
#include <fell/measure/ledger.h>

#include <fell/input/json_reader.h>
#include <fell/measure/findings.h>

#include <xxhash.h>

#include <algorithm>
#include <cstdlib>

namespace fell::measure {
namespace {

std::string keyOf(const std::string& document)
{
    const XXH128_hash_t hash = XXH3_128bits(document.data(), document.size());
    XXH128_canonical_t bytes;
    XXH128_canonicalFromHash(&bytes, hash);
    std::string key;
    for (const unsigned char byte : bytes.digest) {
        constexpr const char* kDigits = "0123456789abcdef";
        key += {kDigits[byte >> 4], kDigits[byte & 15]};
    }
    return key;
}

} // namespace

TrialEntry entryOf(const TransectResult& trial, const std::string& document)
{
    TrialEntry entry;
    entry.key = keyOf(document);
    entry.date = trial.machine.date;
    entry.world = trial.world;
    entry.seed = trial.seed;
    entry.route = trial.route;
    entry.varied = variedIn(trial);
    entry.setups = trial.a.name + (trial.b ? " / " + trial.b->name : "");
    entry.processor = trial.machine.processor;
    entry.driver = trial.driver;
    entry.compiler = trial.machine.compiler;
    entry.commit = trial.machine.commit;
    entry.isStopped = trial.stopped;
    if (!trial.ratios.empty()) {
        const auto frames = std::find_if(trial.ratios.rbegin(), trial.ratios.rend(),
            [](const TransectRatio& ratio) { return ratio.what == "frame_ms"; });
        entry.finding = verdictOf(frames != trial.ratios.rend() ? *frames : trial.ratios.back(), trial.rounds);
    } else if (const auto all = findingsOf(trial, Verdicts::Last); !all.empty()) {
        entry.finding = all.front();
    }
    for (const AuditNote& audit : trial.audits)
        entry.auditDifferences = entry.auditDifferences.value_or(0) + audit.differences;
    for (const TransectRow& row : trial.rows)
        if (row.side == 'A') {
            entry.frameMs = row.frameMs.p50;
            entry.meshNs = row.meshNs.p50;
        }
    return entry;
}

TrialEntry entryFrom(SQLite::Statement& row)
{
    TrialEntry entry;
    int at = 0;
    entry.id = row.getColumn(at++).getInt64();
    entry.key = row.getColumn(at++).getString();
    entry.date = row.getColumn(at++).getString();
    entry.world = row.getColumn(at++).getString();
    entry.seed = std::strtoull(row.getColumn(at++).getText("0"), nullptr, 10); // SQLite's own are signed
    entry.route = row.getColumn(at++).getString();
    entry.varied = row.getColumn(at++).getString();
    entry.setups = row.getColumn(at++).getString();
    entry.processor = row.getColumn(at++).getString();
    entry.driver = row.getColumn(at++).getString();
    entry.compiler = row.getColumn(at++).getString();
    entry.commit = row.getColumn(at++).getString();
    entry.tags = row.getColumn(at++).getString();
    entry.finding = row.getColumn(at++).getString();
    entry.isPinned = row.getColumn(at++).getInt() != 0;
    entry.isStopped = row.getColumn(at++).getInt() != 0;
    if (const SQLite::Column audit = row.getColumn(at++); !audit.isNull())
        entry.auditDifferences = static_cast<std::uint64_t>(audit.getInt64());
    entry.frameMs = row.getColumn(at++).getDouble();
    entry.meshNs = row.getColumn(at++).getDouble();
    return entry;
}

} // namespace fell::measure
