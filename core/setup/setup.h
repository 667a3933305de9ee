// SPDX-License-Identifier: Apache-2.0
// Every choice of every stage as one plain value.
#pragma once

#include <fell/cull/steps.h>
#include <fell/input/problem.h>
#include <fell/light/light_rules.h>
#include <fell/lod/selection.h>
#include <fell/mesh/meshers.h>
#include <fell/save/keep_choices.h>

#include <nlohmann/json_fwd.hpp>

#include <filesystem>
#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace fell::setup {

struct ChunkChoices {
    int edge = 32; // voxels: 16, 32 or 64
    bool operator==(const ChunkChoices&) const = default;
};

struct GenerateChoices {
    std::string method = "blocks";
    bool operator==(const GenerateChoices&) const = default;
};

struct StoreChoices {
    std::string form = "palette";
    bool operator==(const StoreChoices&) const = default;
};

struct StreamChoices {
    int distance = 4; // chunks
    double metres = 0; // in place of chunks, see settleDistance; 0: the chunks hold
    int workers = 0; // threads; 0 is one a core
    int memory = 2048; // MiB of voxels and meshes together; past it the farthest chunks go
    std::string shape = "pool"; // which threads do what
    std::string order = "nearest"; // which chunk is made first
    bool operator==(const StreamChoices&) const = default;
};

struct UploadChoices {
    std::string method = "arena";
    int budget = 2048; // KiB a frame
    int meshes = 64; // a frame
    int time = 800; // microseconds a frame
    bool operator==(const UploadChoices&) const = default;
};

struct DrawChoices {
    std::string submission = "indirect";
    std::string seeThrough = "by-chunk";
    std::string filter = "nearest";
    double fieldOfView = 65; // degrees from bottom to top
    double fog = 0.4; // where it begins, as a share of the render distance
    double budget = 16.6; // ms a frame
    bool operator==(const DrawChoices&) const = default;
};

struct EditChoices {
    std::string method = "gathered";
    bool operator==(const EditChoices&) const = default;
};

/// As it is made, it is demo/setups/near.json: the one default.
struct Setup {
    std::string name = "near";
    ChunkChoices chunk;
    GenerateChoices generate;
    StoreChoices store;
    LightChoices light;
    MeshChoices mesh;
    StreamChoices stream;
    UploadChoices upload;
    LodChoices lod;
    CullChoices cull;
    DrawChoices draw;
    EditChoices edit;
    KeepChoices keep;
    bool operator==(const Setup&) const = default;
};

/// One number or choice of a setup: what its path is, what is allowed, and how to read and write it.
struct SetupField {
    enum class Kind { Whole, Number, Choice, Choices } kind = Kind::Whole;
    std::string path; // e.g. "stream.distance"
    std::string title; // e.g. "render distance"
    std::string unit; // e.g. "chunks"
    std::string note; // what it does to the cost, one sentence
    double low = 0, high = 0; // Whole, Number
    std::vector<std::string> allowed; // Choice, Choices; for Whole: if not empty, the only values
    /// Choice: what is allowed next to `allowed`, as it is now: methods that were loaded. May be missing.
    std::function<std::vector<std::string>()> loaded{};
    /// Choice: the id that a text names which is not an id, such as the name of a loaded method; empty if it names
    /// none. May be missing.
    std::function<std::string(const std::string& text)> named{};
    std::function<nlohmann::json(const Setup&)> read;
    std::function<void(Setup&, const nlohmann::json&)> write; // the value has been checked
    /// `allowed` and what was loaded.
    [[nodiscard]] std::vector<std::string> choices() const;
};

/// All fields, in the order of the stages. Files, the command line, the window and transects read this one table.
const std::vector<SetupField>& setupFields();
const SetupField* findField(std::string_view path);
/// All paths as "allowed are ..." for an error, with the one that is nearest to `given`.
std::string allowedPaths(std::string_view given);

/// Checks `value` and writes it. Returns what is wrong with it, allowed values included.
std::optional<std::string> writeField(const SetupField& field, Setup& setup, const nlohmann::json& value);

/// Makes a mesher the setup's and switches off what it cannot do. Returns what was switched off and why, a sentence
/// each.
std::vector<std::string> useMesher(Setup& setup, const Mesher& mesher);

/// What no single field can check: a sentence about settings that do not fit, or nothing.
std::optional<Problem> checkSetup(const Setup& setup);

/// Where the render distance is given in metres: makes it the nearest whole number of the setup's chunks in a world of
/// this voxel length, at least one, so that setups with other chunk edges cover the same ground. Call it before a
/// setup is used in a world. Errors: more chunks than are allowed; the setup is left as it was.
std::optional<Problem> settleDistance(Setup& setup, double voxelMetres);
/// The same of a copy, for setups whose distance has been checked in that world. Asserts that.
Setup settledFor(Setup setup, double voxelMetres);

/// "path=value" as the command line gives it. Errors: unknown path (lists all), a value that is not allowed.
std::optional<Problem> applyOverride(Setup& setup, const std::string& assignment);
/// A value of the command line as JSON that `field` takes: a number, a text, or for Choices a list split at commas.
nlohmann::json valueFromText(const SetupField& field, const std::string& text);

/// Finds the setup that another one names as its "base".
using SetupBase = std::function<Outcome<Setup>(const std::string& name)>;

/// Setup files: demo/setups/*.json. Missing keys are those of "base", without one the defaults. Unknown keys and values
/// are problems, and so is a base where `base` is null.
Outcome<Setup> parseSetup(std::string_view json, const std::string& where, const SetupBase& base = {});
std::string toJson(const Setup& setup);

/// A file, or the name of one in `folder`. Errors: neither (the sentence lists the names), or what parseSetup says.
Outcome<Setup> findSetup(const std::string& nameOrFile, const std::filesystem::path& folder);

} // namespace fell::setup
