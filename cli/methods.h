// SPDX-License-Identifier: Apache-2.0
// Methods from outside in a setup.
#pragma once

#include <fell/setup/setup.h>

namespace fell::cli {

/// As setup::useMesher; standard error says what was switched off.
void chooseMesher(Setup& setup, const Mesher& mesher);

} // namespace fell::cli
