// SPDX-License-Identifier: Apache-2.0
// What a check of a method found, as the row of a document.
#pragma once

#include <fell/audit/method_check.h>

#include <nlohmann/json_fwd.hpp>

namespace fell::audit {

/// A row of fell-method-check. `hash`: of the file before it was checked.
nlohmann::ordered_json toJson(
    const std::string& file, const std::string& hash, const MethodCheck& found, const BlockSet& blocks);

} // namespace fell::audit
