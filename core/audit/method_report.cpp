// SPDX-License-Identifier: Apache-2.0
#include <fell/audit/method_report.h>

#include <nlohmann/json.hpp>

namespace fell::audit {

nlohmann::ordered_json toJson(
    const std::string& file, const std::string& hash, const MethodCheck& found, const BlockSet& blocks)
{
    nlohmann::ordered_json out{{"file", file}, {"hash", hash}, {"name", found.method.name}, {"cases", found.cases},
        {"passed", !found.fault}, {"fault", nullptr}};
    if (!found.fault)
        return out;
    const PaddedVoxels& at = found.fault->counterexample;
    auto voxels = nlohmann::ordered_json::array();
    for (int y = -at.apron; y < at.edge + at.apron; ++y)
        for (int z = -at.apron; z < at.edge + at.apron; ++z)
            for (int x = -at.apron; x < at.edge + at.apron; ++x)
                if (at.edge > 0 && at.at(x, y, z) != kOpen)
                    voxels.push_back({{"at", {x, y, z}}, {"block", blocks.kinds[at.at(x, y, z)].name}});
    out["fault"] = {{"kind", textOf(found.fault->kind)}, {"sentence", sentenceOf(*found.fault, blocks)},
        {"edge", at.edge}, {"voxels", voxels}};
    return out;
}

} // namespace fell::audit
