// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/text.h>

#include <cmath>

namespace fell::app {

QString figureText(double value)
{
    const double size = std::abs(value);
    return QString::number(value, 'f', size < 0.9995 ? 2 : size < 99.95 ? 1 : 0);
}

QString countText(std::uint64_t count)
{
    if (count < 10000)
        return QString::number(count);
    const auto value = static_cast<double>(count);
    return count < 1000000 ? figureText(value / 1e3) + " k" : QString::number(value / 1e6, 'f', 2) + " M";
}

QString bytesText(std::uint64_t bytes)
{
    const double kib = static_cast<double>(bytes) / 1024;
    if (kib < 1000)
        return figureText(kib) + " KiB";
    return kib < 1000 * 1024 ? figureText(kib / 1024) + " MiB" : QString::number(kib / 1024 / 1024, 'f', 2) + " GiB";
}

} // namespace fell::app
