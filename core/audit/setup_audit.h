// SPDX-License-Identifier: Apache-2.0
// A quick audit of the methods that a trial is about to measure.
#pragma once

#include <fell/audit/audit.h>
#include <fell/measure/transect.h>

namespace fell::audit {

/// Audits each mesher that the setups and what varies name, and the light if any of them has some. Cost: two seconds
/// or so; the full audits are longer and more thorough.
std::vector<AuditNote> auditMethodsOf(const TransectSpec& spec, const std::stop_token& stop = {});

} // namespace fell::audit
