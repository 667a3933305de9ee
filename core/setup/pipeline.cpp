// SPDX-License-Identifier: Apache-2.0
#include <fell/setup/pipeline.h>

#include <fell/setup/stages.h>

#include <algorithm>
#include <cassert>

namespace fell::setup {
namespace {

/// The enumerator whose number is the place of `id` in its table.
template <typename Enum, typename Table> Enum named(const Table& table, const std::string& id)
{
    const auto found = std::find_if(table.begin(), table.end(), [&id](const auto& entry) { return id == entry.id; });
    assert(found != table.end());
    return static_cast<Enum>(found - table.begin());
}

} // namespace

ChunkMeshOptions Pipeline::meshOptions(const SideRules& sides) const
{
    return {mesher, format,
        {&sides, format.occlusion == OcclusionForm::Corners, format.occlusion != OcclusionForm::None}, bakesShapes,
        isLightFlat};
}

Pipeline resolve(const Setup& setup)
{
    Pipeline out;
    out.generator = findGenerator(setup.generate.method);
    out.form = findForm(setup.store.form);
    out.light = findLightMode(setup.light.mode);
    out.lit = named<LightWhen>(lightArrivals(), setup.light.arrival);
    out.mesher = findMesher(setup.mesh.mesher);
    assert(out.generator && out.form && out.light && out.mesher);
    out.bakesShapes = setup.mesh.models == "baked";
    out.isLightFlat = setup.light.sample == "flat";
    out.shape = named<StreamShape>(streamShapes(), setup.stream.shape);
    out.order = named<StreamOrder>(streamOrders(), setup.stream.order);
    out.upload = named<UploadMethod>(uploadMethods(), setup.upload.method);
    out.lod = named<LodScheme>(lodSchemes(), setup.lod.scheme);
    out.coarse = named<CoarseSource>(coarseSources(), setup.lod.made);
    out.seams = out.hasLevels() ? named<Seams>(seamMethods(), setup.lod.seams) : Seams::Open;
    out.submission = named<Submission>(drawMethods(), setup.draw.submission);
    out.seeThrough = named<SeeThroughOrder>(seeThroughModes(), setup.draw.seeThrough);
    out.filter = named<TextureFilter>(textureFilters(), setup.draw.filter);
    out.edit = named<EditMethod>(editMethods(), setup.edit.method);
    out.format = {findLayout(setup.mesh.layout), out.light->format(),
        named<OcclusionForm>(shadeModes(), setup.mesh.ambientOcclusion), setup.light.sample == "cells",
        out.submission == Submission::PerBlock};
    assert(out.format.layout);
    return out;
}

} // namespace fell::setup
