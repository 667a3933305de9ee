// SPDX-License-Identifier: Apache-2.0
// The one table of everything that a setup can say.
#include <fell/input/json_reader.h>
#include <fell/input/nearest.h>
#include <fell/mesh/chunk_mesh.h>
#include <fell/setup/setup.h>
#include <fell/setup/stages.h>
#include <fell/terrain/generate.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cassert>
#include <charconv>
#include <cmath>

namespace fell::setup {
namespace {

using Json = nlohmann::json;
constexpr double kFarthestMetres = 100000;

template <typename Part, typename Value> using In = Value Part::*;

template <typename Part, typename Value>
SetupField field(SetupField::Kind kind, std::string path, Part Setup::*part, In<Part, Value> value)
{
    SetupField out;
    out.kind = kind;
    out.path = std::move(path);
    out.read = [part, value](const Setup& setup) { return Json(setup.*part.*value); };
    out.write = [part, value](Setup& setup, const Json& json) { setup.*part.*value = json.get<Value>(); };
    return out;
}

SetupField described(SetupField field, std::string title, std::string unit, std::string note)
{
    field.title = std::move(title);
    field.unit = std::move(unit);
    field.note = std::move(note);
    return field;
}

SetupField ranged(SetupField field, double low, double high)
{
    field.low = low;
    field.high = high;
    return field;
}

template <typename Table> SetupField chosenFrom(SetupField field, const Table& table)
{
    for (const auto& entry : table)
        field.allowed.emplace_back(entry.id);
    return field;
}

/// Long: it is the table of all fields.
std::vector<SetupField> makeFields()
{
    using Kind = SetupField::Kind;
    std::vector<SetupField> fields;
    auto edge = ranged(field(Kind::Whole, "chunk.edge", &Setup::chunk, &ChunkChoices::edge), 16, 64);
    edge.allowed = {"16", "32", "64"};
    fields.push_back(described(std::move(edge), "chunk edge", "voxels",
        "Larger chunks: fewer draw calls and less border work, but each edit and each mesh costs more."));
    fields.push_back(described(
        chosenFrom(field(Kind::Choice, "generate.method", &Setup::generate, &GenerateChoices::method), generators()),
        "generator", "", "Computes voxels from the recipe. All generators produce the same voxels."));
    fields.push_back(
        described(chosenFrom(field(Kind::Choice, "store.form", &Setup::store, &StoreChoices::form), voxelForms()),
            "storage format", "", "How a chunk's voxels are stored. Affects memory, and the read cost of meshing."));
    fields.push_back(described(
        chosenFrom(field(Kind::Choice, "light.mode", &Setup::light, &LightChoices::mode), lightModes()), "light", "",
        "The light channels. Each costs time, half a byte per voxel where it varies, and more quads."));
    fields.push_back(
        described(chosenFrom(field(Kind::Choice, "light.sample", &Setup::light, &LightChoices::sample), lightSamples()),
            "light on faces", "", "How light varies over a face. Affects the number of quads and the frame time."));
    fields.push_back(described(
        chosenFrom(field(Kind::Choice, "light.arrival", &Setup::light, &LightChoices::arrival), lightArrivals()),
        "light of new chunks", "",
        "Shown first: chunks appear earlier but half-lit, and each mesh is uploaded twice."));
    fields.push_back(
        described(chosenFrom(field(Kind::Choice, "mesh.mesher", &Setup::mesh, &MeshChoices::mesher), meshers()),
            "mesher", "", "Turns voxels into triangles. Affects mesh time, memory and frame time."));
    fields.back().loaded = [] {
        std::vector<std::string> ids;
        for (const Mesher& mesher : meshers())
            if (const std::string id = mesher.id; id.find('@') != std::string::npos)
                ids.push_back(id);
        return ids;
    };
    fields.back().named = [](const std::string& text) {
        const Mesher* mesher = findMesher(text);
        return std::string(mesher ? mesher->id : "");
    };
    fields.push_back(
        described(chosenFrom(field(Kind::Choice, "mesh.layout", &Setup::mesh, &MeshChoices::layout), vertexLayouts()),
            "vertex format", "", "Bytes per vertex. Affects upload time and GPU memory."));
    fields.push_back(described(
        chosenFrom(field(Kind::Choice, "mesh.shade", &Setup::mesh, &MeshChoices::ambientOcclusion), shadeModes()),
        "ambient occlusion", "", "Darkens enclosed corners. Costs mesh time; AO at corners makes rectangles smaller."));
    fields.push_back(
        described(chosenFrom(field(Kind::Choice, "mesh.models", &Setup::mesh, &MeshChoices::models), modelModes()),
            "shaped blocks", "", "Part of the chunk's mesh, or one draw call each. Affects the number of draw calls."));
    fields.push_back(described(
        ranged(field(Kind::Whole, "stream.distance", &Setup::stream, &StreamChoices::distance), 1, kFarthestWithLevels),
        "render distance", "chunks",
        "Without levels of detail, loaded chunks grow with its cube and visible chunks with its square."));
    fields.back().write = [](Setup& setup, const Json& json) {
        setup.stream.distance = json.get<int>();
        setup.stream.metres = 0; // what was said last holds
    };
    fields.push_back(described(
        ranged(field(Kind::Number, "stream.metres", &Setup::stream, &StreamChoices::metres), 0, kFarthestMetres),
        "render distance in metres", "m",
        "The same ground at any chunk edge, rounded to whole chunks. 0: use the distance in chunks."));
    fields.push_back(
        described(ranged(field(Kind::Whole, "stream.workers", &Setup::stream, &StreamChoices::workers), 0, 64),
            "workers", "threads", "Threads that generate, light and mesh. 0: one per core."));
    fields.push_back(described(
        ranged(field(Kind::Whole, "stream.memory", &Setup::stream, &StreamChoices::memory), 64, 65536), "memory", "MiB",
        "Limit for voxels, light and meshes. When it is full, the farthest chunks are unloaded first."));
    fields.push_back(described(
        chosenFrom(field(Kind::Choice, "stream.shape", &Setup::stream, &StreamChoices::shape), streamShapes()),
        "threading", "", "Which threads build chunks. Affects frame time and idle cores."));
    fields.push_back(described(
        chosenFrom(field(Kind::Choice, "stream.order", &Setup::stream, &StreamChoices::order), streamOrders()),
        "order of work", "", "Which chunk is built first. Outdated work is not started."));
    fields.push_back(described(
        chosenFrom(field(Kind::Choice, "upload.method", &Setup::upload, &UploadChoices::method), uploadMethods()),
        "upload", "", "How meshes are copied to GPU memory."));
    fields.push_back(described(
        ranged(field(Kind::Whole, "upload.budget", &Setup::upload, &UploadChoices::budget), 16, 262144),
        "upload budget", "KiB per frame", "A larger budget fills the view sooner and makes frames longer until then."));
    fields.push_back(
        described(ranged(field(Kind::Whole, "upload.meshes", &Setup::upload, &UploadChoices::meshes), 1, 4096),
            "meshes", "per frame", "The same, counted in meshes: each upload has a fixed cost."));
    fields.push_back(
        described(ranged(field(Kind::Whole, "upload.time", &Setup::upload, &UploadChoices::time), 50, 100000), "time",
            "us per frame", "Time per frame for streaming, checked after each mesh."));
    fields.push_back(
        described(chosenFrom(field(Kind::Choice, "lod.scheme", &Setup::lod, &LodChoices::scheme), lodSchemes()),
            "levels of detail", "", "Which chunks use coarser voxels. Affects everything that grows with distance."));
    fields.push_back(
        described(chosenFrom(field(Kind::Choice, "lod.made", &Setup::lod, &LodChoices::made), coarseSources()),
            "made from", "", "The source of a coarser chunk's voxels."));
    fields.push_back(
        described(chosenFrom(field(Kind::Choice, "lod.seams", &Setup::lod, &LodChoices::seams), seamMethods()), "seams",
            "", "How cracks between levels are closed."));
    fields.push_back(described(ranged(field(Kind::Whole, "lod.levels", &Setup::lod, &LodChoices::levels), 1, kMaxLevel),
        "coarsest level", "", "Each level halves the detail. The coarsest reaches the render distance."));
    fields.push_back(described(ranged(field(Kind::Whole, "lod.detail", &Setup::lod, &LodChoices::detail), 4, 32),
        "ring", "chunks", "Width of each ring, in chunks of its level."));
    fields.push_back(described(ranged(field(Kind::Number, "lod.error", &Setup::lod, &LodChoices::error), 0.25, 64),
        "error", "pixels", "Largest error of a level on screen."));
    fields.push_back(
        described(chosenFrom(field(Kind::Choices, "cull.steps", &Setup::cull, &CullChoices::steps), cullSteps()),
            "cull steps", "", "Tests that reject chunks, in this order."));
    fields.push_back(
        described(chosenFrom(field(Kind::Choice, "cull.reach", &Setup::cull, &CullChoices::reach), cullReaches()),
            "distance as", "", "How the step distance measures: in space or horizontally."));
    auto leaf = ranged(field(Kind::Whole, "cull.leaf", &Setup::cull, &CullChoices::leaf), 1, 4);
    leaf.allowed = {"1", "2", "4"};
    fields.push_back(described(std::move(leaf), "octree leaf", "chunks",
        "Chunks along an edge of an octree leaf. Larger leaves: fewer nodes, more chunks tested."));
    fields.push_back(
        described(chosenFrom(field(Kind::Choice, "cull.facing", &Setup::cull, &CullChoices::facing), facingModes()),
            "facing by", "", "The box that decides which face directions are back-facing."));
    fields.push_back(
        described(chosenFrom(field(Kind::Choice, "cull.hidden", &Setup::cull, &CullChoices::hidden), hiddenModes()),
            "hidden by", "", "A walk along portals, a coarse depth buffer, or both."));
    fields.push_back(described(
        chosenFrom(field(Kind::Choice, "draw.submission", &Setup::draw, &DrawChoices::submission), drawMethods()),
        "draw submission", "", "How chunks are submitted to the driver."));
    fields.push_back(described(
        chosenFrom(field(Kind::Choice, "draw.seeThrough", &Setup::draw, &DrawChoices::seeThrough), seeThroughModes()),
        "transparent order", "", "How glass and water are sorted. Within chunks is exact and costs more."));
    fields.push_back(
        described(chosenFrom(field(Kind::Choice, "draw.filter", &Setup::draw, &DrawChoices::filter), textureFilters()),
            "texture filter", "", "How distant textures are read. Affects the cost per pixel."));
    fields.push_back(
        described(ranged(field(Kind::Number, "draw.fieldOfView", &Setup::draw, &DrawChoices::fieldOfView), 20, 120),
            "field of view", "degrees", "A wider view contains more chunks."));
    fields.push_back(
        described(ranged(field(Kind::Number, "draw.fog", &Setup::draw, &DrawChoices::fog), 0, 1), "fog from",
            "of the distance", "Where fog begins, as a share of the render distance. It hides the last chunks."));
    fields.push_back(described(ranged(field(Kind::Number, "draw.budget", &Setup::draw, &DrawChoices::budget), 1, 1000),
        "frame budget", "ms", "The limit that frames are compared with. It changes nothing else."));
    fields.push_back(described(
        chosenFrom(field(Kind::Choice, "edit.method", &Setup::edit, &EditChoices::method), editMethods()),
        "edit method", "", "Batched: each affected chunk is relit and remeshed once. Voxel by voxel: once per voxel."));
    fields.push_back(
        described(chosenFrom(field(Kind::Choice, "keep.what", &Setup::keep, &KeepChoices::what), keepModes()),
            "saved in the file", "", "Contents of a new world file: changed voxels, or all visited chunks."));
    fields.push_back(
        described(chosenFrom(field(Kind::Choice, "keep.group", &Setup::keep, &KeepChoices::group), keepGroups()),
            "rows of the file", "", "Unit of a new world file: a chunk, a column of chunks, or a cube of chunks."));
    fields.push_back(
        described(ranged(field(Kind::Whole, "keep.autosave", &Setup::keep, &KeepChoices::autosave), 0, 3600),
            "autosave", "s", "Longest time until a change is on the disk. 0: save only on request."));
    return fields;
}

std::string plain(double value)
{
    char text[32];
    const auto end = std::to_chars(text, text + sizeof text, value);
    return {text, end.ptr};
}

bool isAllowed(const SetupField& field, const Json& value)
{
    const auto choices = field.choices();
    return value.is_string() && std::find(choices.begin(), choices.end(), value.get<std::string>()) != choices.end();
}

bool fits(const SetupField& field, const Json& value)
{
    switch (field.kind) {
    case SetupField::Kind::Whole:
        if (!value.is_number_integer() || value.get<double>() < field.low || value.get<double>() > field.high)
            return false;
        return field.allowed.empty() || isAllowed(field, std::to_string(value.get<long>()));
    case SetupField::Kind::Number:
        return value.is_number() && value.get<double>() >= field.low && value.get<double>() <= field.high;
    case SetupField::Kind::Choice:
        return isAllowed(field, value)
            || (field.named && value.is_string() && !field.named(value.get<std::string>()).empty());
    case SetupField::Kind::Choices:
        return value.is_array() && std::all_of(value.begin(), value.end(), [&](const Json& one) {
            return isAllowed(field, one) && std::count(value.begin(), value.end(), one) == 1;
        });
    }
    return false;
}

std::string wanted(const SetupField& field, const Json& given)
{
    if (field.kind == SetupField::Kind::Choices) {
        std::string nearest;
        for (const Json& one : given)
            if (nearest.empty() && one.is_string() && !isAllowed(field, one))
                nearest = nearestName(one.get<std::string>(), field.allowed);
        return "allowed is a list of different ones of " + listOf(field.allowed)
            + (nearest.empty() ? "" : ": did you mean \"" + nearest + "\"?");
    }
    const std::string text = given.is_string() ? given.get<std::string>() : std::string();
    if (field.loaded && text.find('@') != std::string::npos)
        return "a method from a library that is not loaded: --method FILE loads it, in the window Setup > Load method";
    if (!field.allowed.empty())
        return allowedNames(text, field.choices());
    return std::string(field.kind == SetupField::Kind::Whole ? "a whole number" : "a number") + " from "
        + plain(field.low) + " to " + plain(field.high) + " is expected";
}

} // namespace

std::vector<std::string> SetupField::choices() const
{
    std::vector<std::string> all = allowed;
    if (loaded)
        for (std::string& id : loaded())
            all.push_back(std::move(id));
    return all;
}

const std::vector<SetupField>& setupFields()
{
    static const std::vector<SetupField> kFields = makeFields();
    return kFields;
}

const SetupField* findField(std::string_view path)
{
    const auto& fields = setupFields();
    const auto found
        = std::find_if(fields.begin(), fields.end(), [path](const SetupField& f) { return f.path == path; });
    return found == fields.end() ? nullptr : &*found;
}

std::string allowedPaths(std::string_view given)
{
    std::vector<std::string> paths;
    for (const SetupField& known : setupFields())
        paths.push_back(known.path);
    return allowedNames(given, paths);
}

std::optional<std::string> writeField(const SetupField& field, Setup& setup, const Json& value)
{
    if (!fits(field, value))
        return (value.is_number_float() && !std::isfinite(value.get<double>())
                       ? std::string("is not a finite number")
                       : "is " + value.dump(-1, ' ', false, Json::error_handler_t::replace))
            + ", " + wanted(field, value);
    const bool isOther = field.kind == SetupField::Kind::Choice && field.named && !isAllowed(field, value);
    field.write(setup, isOther ? Json(field.named(value.get<std::string>())) : value);
    return std::nullopt;
}

Json valueFromText(const SetupField& field, const std::string& text)
{
    if (field.kind == SetupField::Kind::Choices) {
        Json list = Json::array();
        for (std::size_t from = 0; from < text.size();) {
            const std::size_t comma = std::min(text.find_first_of(",+", from), text.size()); // + as in --vary
            list.push_back(text.substr(from, comma - from));
            from = comma + 1;
        }
        return list;
    }
    if (field.kind == SetupField::Kind::Choice)
        return text;
    const char* end = text.data() + text.size();
    long whole = 0;
    if (const auto read = std::from_chars(text.data(), end, whole); read.ec == std::errc{} && read.ptr == end)
        return whole;
    double number = 0;
    if (const auto read = std::from_chars(text.data(), end, number);
        read.ec == std::errc{} && read.ptr == end && std::isfinite(number))
        return number;
    return text;
}

std::optional<Problem> settleDistance(Setup& setup, double voxelMetres)
{
    if (setup.stream.metres <= 0)
        return std::nullopt;
    const double chunk = setup.chunk.edge * voxelMetres;
    const double chunks = std::max(1.0, std::round(setup.stream.metres / chunk));
    const int max = hasLevels(setup.lod) ? kFarthestWithLevels : kFarthestPlain;
    if (chunks > max)
        return Problem{"stream.metres", "",
            "is " + Json(setup.stream.metres).dump() + " m, which is more than " + std::to_string(max)
                + " chunks; at most " + Json(max * chunk).dump() + " m are allowed with this chunk edge in this world"};
    setup.stream.distance = static_cast<int>(chunks);
    return std::nullopt;
}

Setup settledFor(Setup setup, double voxelMetres)
{
    [[maybe_unused]] const auto problem = settleDistance(setup, voxelMetres);
    assert(!problem);
    return setup;
}

std::optional<Problem> checkSetup(const Setup& setup)
{
    if (!hasLevels(setup.lod) && setup.stream.distance > kFarthestPlain)
        return Problem{"stream.distance", "",
            "is " + std::to_string(setup.stream.distance) + " chunks, which without levels of detail is at most "
                + std::to_string(kFarthestPlain) + ": lower it, or choose lod.scheme rings or error"};
    const Mesher* mesher = findMesher(setup.mesh.mesher);
    if (!mesher)
        return std::nullopt; // said where the name was read
    const std::string who = "is \"" + setup.mesh.mesher + "\", which ";
    if (!mesher->traits.takesSeams && hasLevels(setup.lod))
        return Problem{"mesh.mesher", "",
            who + "cannot close the borders where levels of detail meet: choose lod.scheme off, or another mesher"};
    if (!mesher->traits.takesOcclusion && setup.mesh.ambientOcclusion != "none")
        return Problem{"mesh.mesher", "", who + "takes no corner shade: choose mesh.shade none, or another mesher"};
    const auto& steps = setup.cull.steps;
    if (!mesher->traits.keepsCubes && std::find(steps.begin(), steps.end(), "hidden") != steps.end())
        return Problem{"mesh.mesher", "",
            who
                + "lets one see past the edges of blocks: leave \"hidden\" out of cull.steps, or choose another "
                  "mesher"};
    return std::nullopt;
}

std::optional<Problem> applyOverride(Setup& setup, const std::string& assignment)
{
    const std::size_t equals = assignment.find('=');
    const std::string path = assignment.substr(0, equals);
    const SetupField* field = findField(path);
    if (!field)
        return Problem{"--set " + assignment, "", "is no setting; " + allowedPaths(path)};
    if (equals == std::string::npos)
        return Problem{"--set " + assignment, "", "has no value; path=value is expected, e.g. stream.distance=6"};
    if (auto wrong = writeField(*field, setup, valueFromText(*field, assignment.substr(equals + 1))))
        return Problem{"--set " + path, "", *wrong};
    return std::nullopt;
}

} // namespace fell::setup
