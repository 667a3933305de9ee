// SPDX-License-Identifier: Apache-2.0
// A setup with its names looked up: the functions, formats and modes that it names.
#pragma once

#include <fell/mesh/chunk_mesh.h>
#include <fell/setup/setup.h>
#include <fell/terrain/generate.h>
#include <fell/voxels/storage_formats.h>

#include <cstdint>

namespace fell::setup {

// In the order of their tables in setup/stages.h and lod/selection.h.
enum class StreamShape : std::uint8_t { Pool, PerStage, Drawing };
enum class StreamOrder : std::uint8_t { Nearest, View };
enum class UploadMethod : std::uint8_t { BufferEach, Arena };
enum class Submission : std::uint8_t { PerBlock, PerChunk, Instanced, Indirect };
enum class SeeThroughOrder : std::uint8_t { ByChunk, Within };
enum class TextureFilter : std::uint8_t { Nearest, Smooth, Anisotropic };
enum class EditMethod : std::uint8_t { Gathered, Each };
enum class LightWhen : std::uint8_t { Whole, Later }; // a chunk is lit before it is shown, or after
enum class LodScheme : std::uint8_t { Off, Rings, Error };
enum class CoarseSource : std::uint8_t { Recipe, Finer };
enum class Seams : std::uint8_t { Open, Skirts, Stitched };

/// Everything that a setup says by name. Names of methods end here: nothing below compares them again. Numbers (edge,
/// distance, budgets) are the setup's own.
struct Pipeline {
    const Generator* generator = nullptr;
    const StorageFormat* form = nullptr;
    const LightMode* light = nullptr;
    LightWhen lit = LightWhen::Whole;
    const Mesher* mesher = nullptr;
    MeshFormat format;
    bool bakesShapes = true; // into the chunk's mesh; else they are objects
    bool isLightFlat = false; // a level a side
    StreamShape shape = StreamShape::Pool;
    StreamOrder order = StreamOrder::Nearest;
    UploadMethod upload = UploadMethod::Arena;
    LodScheme lod = LodScheme::Off;
    CoarseSource coarse = CoarseSource::Recipe;
    Seams seams = Seams::Stitched; // Open without levels of detail
    Submission submission = Submission::Indirect;
    SeeThroughOrder seeThrough = SeeThroughOrder::ByChunk;
    TextureFilter filter = TextureFilter::Nearest;
    EditMethod edit = EditMethod::Gathered;

    [[nodiscard]] bool isLit() const { return format.isLit(); }
    [[nodiscard]] bool hasLevels() const { return lod != LodScheme::Off; }
    /// What a chunk of a block set is meshed with. `sides` must outlive it.
    [[nodiscard]] ChunkMeshOptions meshOptions(const SideRules& sides) const;
};

/// Errors  Asserts that every name is one of its table: parseSetup and writeField have seen to that.
/// Cost    under 1 us.
Pipeline resolve(const Setup& setup);

} // namespace fell::setup
