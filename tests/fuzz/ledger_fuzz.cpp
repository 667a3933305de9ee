// SPDX-License-Identifier: Apache-2.0
// Whatever an exported ledger holds: all of its trials are added or none is, and what was added can be found, read and
// exported. Whatever the content of a trial in the file holds: it is read or refused in a sentence.
#include "support/all_names.h"
#include <fell/input/temp_folder.h>
#include <fell/measure/ledger.h>
#include <fell/save/chunk_codec.h>

#include <SQLiteCpp/SQLiteCpp.h>

#include <cstdlib>

namespace {

const std::filesystem::path& ledgerFile()
{
    static const auto kFolder = fell::TempFolder::make().take();
    static const std::filesystem::path kFile = kFolder->path() / "ledger.db";
    return kFile;
}

void putDocument(std::string_view document)
{
    SQLite::Database base(ledgerFile().string(), SQLite::OPEN_READWRITE);
    SQLite::Statement put(base, "UPDATE content SET document = ?");
    put.bindNoCopy(1, document.data(), static_cast<int>(document.size()));
    put.exec();
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    auto opened = fell::Ledger::open(ledgerFile());
    if (!opened)
        std::abort();
    const auto ledger = opened.take();
    const auto before = ledger->find();
    const auto added = ledger->importJson(text, "fuzz");
    const auto all = ledger->find();
    if (!before || !all || all.value().size() - before.value().size() != (added ? added.value().added : 0))
        std::abort();
    std::vector<std::int64_t> ids;
    for (const fell::TrialEntry& one : all.value())
        if (ids.emplace_back(one.id); !ledger->load(one.id))
            std::abort(); // it was added
    if (!ids.empty()) {
        const auto exported = ledger->exportJson(ids);
        if (!exported || !ledger->exportCsv(ids) || !ledger->importJson(exported.value(), "exported")
            || ledger->find().value().size() != ids.size())
            std::abort(); // it knows each of them already
        for (const bool isSqueezed : {true, false}) {
            putDocument(isSqueezed ? fell::compressed(text, 1) : std::string(text));
            (void)ledger->load(ids.front());
            (void)ledger->exportJson(ids);
            (void)ledger->exportCsv(ids);
        }
        if (ledger->remove(ids))
            std::abort();
    }
    return 0;
}
