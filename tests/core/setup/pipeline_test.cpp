// SPDX-License-Identifier: Apache-2.0
#include <fell/setup/pipeline.h>

#include "support/all_names.h"
#include <fell/setup/stages.h>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include <set>

namespace fell::pipeline_test {
namespace {

Pipeline with(const char* path, const nlohmann::json& value)
{
    fell::Setup setup;
    setup.lod.scheme = "rings"; // seams are of levels
    EXPECT_FALSE(writeField(*findField(path), setup, value)) << path << " = " << value;
    return resolve(setup);
}

TEST(Pipeline, EveryNameIsItsOwnEnumerator)
{
    EXPECT_EQ(with("stream.shape", "pool").shape, StreamShape::Pool);
    EXPECT_EQ(with("stream.shape", "per-stage").shape, StreamShape::PerStage);
    EXPECT_EQ(with("stream.shape", "drawing").shape, StreamShape::Drawing);
    EXPECT_EQ(with("stream.order", "nearest").order, StreamOrder::Nearest);
    EXPECT_EQ(with("stream.order", "view").order, StreamOrder::View);
    EXPECT_EQ(with("upload.method", "buffer-each").upload, UploadMethod::BufferEach);
    EXPECT_EQ(with("upload.method", "arena").upload, UploadMethod::Arena);
    EXPECT_EQ(with("draw.submission", "per-block").submission, Submission::PerBlock);
    EXPECT_EQ(with("draw.submission", "per-chunk").submission, Submission::PerChunk);
    EXPECT_EQ(with("draw.submission", "instanced").submission, Submission::Instanced);
    EXPECT_EQ(with("draw.submission", "indirect").submission, Submission::Indirect);
    EXPECT_EQ(with("draw.seeThrough", "by-chunk").seeThrough, SeeThroughOrder::ByChunk);
    EXPECT_EQ(with("draw.seeThrough", "within").seeThrough, SeeThroughOrder::Within);
    EXPECT_EQ(with("draw.filter", "nearest").filter, TextureFilter::Nearest);
    EXPECT_EQ(with("draw.filter", "smooth").filter, TextureFilter::Smooth);
    EXPECT_EQ(with("draw.filter", "anisotropic").filter, TextureFilter::Anisotropic);
    EXPECT_EQ(with("edit.method", "gathered").edit, EditMethod::Gathered);
    EXPECT_EQ(with("edit.method", "each").edit, EditMethod::Each);
    EXPECT_EQ(with("light.arrival", "whole").lit, LightWhen::Whole);
    EXPECT_EQ(with("light.arrival", "later").lit, LightWhen::Later);
    EXPECT_EQ(with("lod.scheme", "off").lod, LodScheme::Off);
    EXPECT_EQ(with("lod.scheme", "rings").lod, LodScheme::Rings);
    EXPECT_EQ(with("lod.scheme", "error").lod, LodScheme::Error);
    EXPECT_EQ(with("lod.made", "recipe").coarse, CoarseSource::Recipe);
    EXPECT_EQ(with("lod.made", "finer").coarse, CoarseSource::Finer);
    EXPECT_EQ(with("lod.seams", "open").seams, Seams::Open);
    EXPECT_EQ(with("lod.seams", "skirts").seams, Seams::Skirts);
    EXPECT_EQ(with("lod.seams", "stitched").seams, Seams::Stitched);
    EXPECT_EQ(with("mesh.shade", "none").format.occlusion, OcclusionForm::None);
    EXPECT_EQ(with("mesh.shade", "corners").format.occlusion, OcclusionForm::Corners);
    EXPECT_EQ(with("mesh.shade", "rim").format.occlusion, OcclusionForm::Rings);
    EXPECT_TRUE(with("mesh.models", "baked").bakesShapes);
    EXPECT_FALSE(with("mesh.models", "objects").bakesShapes);
    EXPECT_TRUE(with("light.sample", "flat").isLightFlat);
    EXPECT_FALSE(with("light.sample", "cells").isLightFlat);
}

TEST(Pipeline, MethodsAreThoseOfTheirTables)
{
    for (const Mesher& mesher : meshers())
        EXPECT_EQ(with("mesh.mesher", mesher.id).mesher, &mesher);
    for (const Generator& generator : generators())
        EXPECT_EQ(with("generate.method", generator.id).generator, &generator);
    for (const LightMode& mode : lightModes())
        EXPECT_EQ(with("light.mode", mode.id).light, &mode);
    EXPECT_EQ(with("lod.scheme", "off").seams, Seams::Open) << "without levels there is nothing to close";
}

/// Bytes by hand from the layouts' descriptions in mesh/layouts.h.
TEST(Pipeline, TheFormatHasTheSizesOfItsParts)
{
    struct Case {
        const char* layout;
        std::size_t unlit, lit;
    };
    std::set<std::pair<int, int>> pairs;
    for (const LightMode& mode : lightModes()) {
        pairs.insert({mode.lamps, mode.sky});
        for (const Case& one : {Case{"floats", 192, 192}, Case{"corners", 32, 32}, Case{"packed", 8, 20}}) {
            fell::Setup setup;
            setup.light.mode = mode.id;
            setup.mesh.layout = one.layout;
            ASSERT_FALSE(checkSetup(setup)) << "all nine pairs of channels work";
            const MeshFormat format = resolve(setup).format;
            EXPECT_EQ(format.isLit(), mode.lamps + mode.sky > 0);
            EXPECT_EQ(format.vertexBytes(), format.isLit() ? one.lit : one.unlit) << mode.id << " " << one.layout;
            EXPECT_EQ(format.quadBytes(), format.vertexBytes() + 4) << "a word with each quad";
            EXPECT_EQ(format.cellWords(), !format.isLit() ? 0u : mode.lamps + mode.sky > 4 ? 4u : 2u);
            setup.draw.submission = "per-block";
            EXPECT_EQ(resolve(setup).format.cellWords(), 0u);
        }
    }
    EXPECT_EQ(pairs.size(), 9u);
}

TEST(CheckSetup, RefusesWhatAMesherCannotDoAndSaysWhatHelps)
{
    fell::Setup setup;
    setup.mesh.mesher = "bevelled";
    EXPECT_FALSE(checkSetup(setup)) << "of the default setup only the mesher is another";
    const auto problemOf = [](const fell::Setup& wrong) {
        const auto problem = checkSetup(wrong);
        return problem ? sentence(*problem) : std::string();
    };
    fell::Setup levels = setup;
    levels.lod.scheme = "rings";
    EXPECT_NE(problemOf(levels).find("choose lod.scheme off, or another mesher"), std::string::npos);
    fell::Setup hidden = setup;
    hidden.cull.steps = {"octree", "hidden"};
    EXPECT_NE(problemOf(hidden).find("leave \"hidden\" out of cull.steps"), std::string::npos);
    for (const Mesher& mesher : meshers())
        if (!mesher.traits.makesTriangles) {
            levels.mesh.mesher = hidden.mesh.mesher = mesher.id;
            EXPECT_EQ(problemOf(levels) + problemOf(hidden), "") << mesher.id;
        }
}

TEST(Pipeline, MeshesAreMadeWithTheShadeThatTheFormatHas)
{
    const SideRules sides{};
    EXPECT_TRUE(with("mesh.shade", "corners").meshOptions(sides).rules.ambientOcclusion);
    EXPECT_FALSE(with("mesh.shade", "rim").meshOptions(sides).rules.ambientOcclusion);
    EXPECT_EQ(with("mesh.shade", "rim").meshOptions(sides).rules.sides, &sides);
}

} // namespace
} // namespace fell::pipeline_test
