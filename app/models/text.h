// SPDX-License-Identifier: GPL-3.0-or-later
// Numbers as people read them: three figures, a unit, never more.
#pragma once

#include <fell/namespaces.h>

#include <QString>

#include <cstdint>

namespace fell::app {

/// "212", "41.2 k", "1.31 M": at most four figures. For counts.
QString countText(std::uint64_t count);
/// "11.6 KiB", "6.2 MiB", "1.20 GiB".
QString bytesText(std::uint64_t bytes);
/// Three figures without a unit: "0.31", "8.9", "47", "212".
QString figureText(double value);

} // namespace fell::app
