// SPDX-License-Identifier: Apache-2.0
// Whatever bytes come: a recipe or one sentence, never a crash.
#include "support/all_names.h"
#include <fell/assets/block_set_file.h>
#include <fell/terrain/recipe.h>

#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    const auto blocks = [](const std::string&) -> fell::Outcome<fell::BlockSet> {
        fell::BlockSet set;
        set.kinds.push_back({"slate", {}, {}, {}, 0});
        return set;
    };
    const auto recipe = fell::parseRecipe(text, "fuzz", blocks);
    if (!recipe && recipe.problem().what.empty())
        std::abort();
    (void)fell::parseBlockSet(text, "fuzz");
    return 0;
}
