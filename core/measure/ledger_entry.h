// SPDX-License-Identifier: Apache-2.0
// What the list of a ledger shows of a run. Private to measure/.
#pragma once

#include <fell/measure/ledger.h>

#include <string>

namespace SQLite {
class Statement;
}

namespace fell::measure {

/// The columns of a row of the list, as entryFrom reads them.
constexpr const char* kListed = "id, key, date, world, seed, route, varied, setups, processor, driver, compiler, "
                                "commit_id, tags, finding, pinned, stopped, audit, frame_ms, mesh_ns";
TrialEntry entryFrom(SQLite::Statement& row);

/// The entry of a run whose document this is; its key is the document's hash (XXH3, 128 bits), so that the same run is
/// known again.
TrialEntry entryOf(const TransectResult& trial, const std::string& document);

} // namespace fell::measure
