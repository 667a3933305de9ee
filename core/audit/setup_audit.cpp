// SPDX-License-Identifier: Apache-2.0
#include <fell/audit/setup_audit.h>

#include <nlohmann/json.hpp>

#include <fell/audit/light_audit.h>
#include <fell/measure/sample.h>

#include <set>

namespace fell::audit {
namespace {

/// All setups that will be measured: both, with each of the values that vary.
std::vector<Setup> setupsOf(const TransectSpec& spec)
{
    std::vector<Setup> all{spec.a};
    if (spec.b)
        all.push_back(*spec.b);
    const auto vary = [&all](const std::string& path, const std::vector<nlohmann::json>& values) {
        std::vector<Setup> varied;
        for (const Setup& setup : all)
            for (const auto& value : values) {
                varied.push_back(setup);
                writeField(*findField(path), varied.back(), value);
            }
        all = std::move(varied);
    };
    vary(spec.vary, spec.values);
    if (!spec.second.empty())
        vary(spec.second, spec.secondValues);
    return all;
}

} // namespace

std::vector<AuditNote> auditMethodsOf(const TransectSpec& spec, const std::stop_token& stop)
{
    constexpr std::uint64_t kMeshCases = 50, kLightCases = 20;
    std::set<std::string> meshers;
    bool isLit = false;
    for (const Setup& setup : setupsOf(spec)) {
        meshers.insert(setup.mesh.mesher);
        isLit |= setup.light.mode != "none";
    }
    constexpr std::size_t kMeshChunks = 4;
    const auto chunks
        = surfaceChunks(*spec.terrain, *findGenerator("blocks"), 16, kMeshChunks, stop, spec.changes.get());
    std::vector<AuditNote> notes;
    for (const std::string& id : meshers) {
        MeshAuditSpec mesh;
        mesh.blocks = spec.terrain->recipe.blocks;
        mesh.cases = kMeshCases;
        mesh.meshers = {findMesher(id)};
        mesh.chunks = chunks;
        const AuditRow row = auditMesh(mesh, stop);
        notes.push_back({"mesh, " + id, row.cases, row.differences});
    }
    if (isLit && !stop.stop_requested()) {
        LightAuditSpec light;
        light.blocks = spec.terrain->recipe.blocks;
        light.cases = kLightCases;
        light.editsAWorld = 10;
        light.orders = 2;
        const AuditRow row = auditLight(light, stop);
        notes.push_back({"light", row.cases, row.differences});
    }
    return notes;
}

} // namespace fell::audit
