// SPDX-License-Identifier: Apache-2.0
// Whatever bytes come: a volume whose every value can be read, or one sentence, never a crash.
#include "support/all_names.h"
#include <fell/exchange/nrrd_volume.h>

#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    const std::string_view bytes(reinterpret_cast<const char*>(data), size);
    const auto volume = fell::parseNrrd(bytes, "fuzz");
    if (!volume) {
        if (volume.problem().what.empty())
            std::abort();
        return 0;
    }
    fell::VolumeRule rule;
    rule.above = 0.5;
    (void)fell::eachChunkOf(volume.value(), rule, {-5, 7, 1}, [](const auto&, double) { return true; });
    return 0;
}
