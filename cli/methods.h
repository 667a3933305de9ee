// SPDX-License-Identifier: Apache-2.0
// Methods from outside in a setup.
#pragma once

#include <fell/setup/setup.h>

namespace fell::cli {

/// Makes it the setup's mesher and switches off what it cannot do; standard error says so.
void useMesher(Setup& setup, const Mesher& mesher);

} // namespace fell::cli
