// SPDX-License-Identifier: Apache-2.0
// Why is there a hole? One chunk in the view from a place of a route.
#include "commands.h"
#include "offscreen.h"
#include <fell/stream/why_not_drawn.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <chrono>
#include <iostream>
#include <thread>

namespace fell::cli {
namespace {

struct WhyArguments {
    WorldArguments world;
    std::string route, chunk, voxel;
    double along = 0.3;
};

/// Three whole numbers "x,y,z", at most `max` away from 0; nothing where it is none.
std::optional<VoxelPos> placeOf(const std::string& text, std::int64_t max)
{
    const auto parts = splitList(text);
    std::array<std::int64_t, 3> at{};
    if (parts.size() != 3)
        return std::nullopt;
    for (std::size_t i = 0; i < 3; ++i) {
        const char* end = parts[i].data() + parts[i].size();
        const auto read = std::from_chars(parts[i].data(), end, at[i]);
        if (read.ec != std::errc{} || read.ptr != end || at[i] < -max || at[i] > max)
            return std::nullopt;
    }
    return VoxelPos{at[0], at[1], at[2]};
}

Outcome<ChunkPos> askedChunk(const WhyArguments& arguments, int edge)
{
    constexpr std::int64_t kFarthest = std::int64_t{1} << 40; // voxels, and more than enough chunks
    if (arguments.chunk.empty() == arguments.voxel.empty())
        return Problem{
            "--chunk, --voxel", "", "one of the two is expected, as three whole numbers, e.g. --chunk=0,1,-2"};
    const bool isChunk = !arguments.chunk.empty();
    const std::string& text = isChunk ? arguments.chunk : arguments.voxel;
    const auto place = placeOf(text, isChunk ? kFarthest / edge : kFarthest);
    if (!place)
        return Problem{(isChunk ? "--chunk " : "--voxel ") + text, "",
            "is no place; three whole numbers at most 2^40 voxels from the origin are allowed, e.g. 0,1,-2"};
    return isChunk ? ChunkPos{place->x, place->y, place->z} : chunkOf(*place, edge);
}

/// The chunk itself, or with levels of detail the coarser one that is shown in its place.
ChunkPos shownFor(ChunkPos chunk, const LodCover* cover)
{
    if (!cover)
        return chunk;
    for (ChunkPos at = chunk; at.level <= kMaxLevel; at = parentOf(at))
        if (std::any_of(cover->chunks.begin(), cover->chunks.end(),
                [&at](const ShownChunk& shown) { return shown.chunk == at; }))
            return at;
    return chunk;
}

/// A worker may hold the map of chunks for a moment.
std::optional<ChunkDetails> detailsOf(const Streamer& streamer, ChunkPos chunk, const std::stop_token& stop)
{
    while (!stop.stop_requested()) {
        if (auto details = streamer.probe(chunk))
            return details;
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
    return std::nullopt;
}

std::string textOf(ChunkPos chunk)
{
    return std::to_string(chunk.x) + "," + std::to_string(chunk.y) + "," + std::to_string(chunk.z)
        + (chunk.level > 0 ? " of level " + std::to_string(chunk.level) : "");
}

struct Answer {
    ChunkPos asked, shown, viewer;
    ChunkDetails details;
    std::optional<ChunkFigures> held;
    std::string why; // empty: drawn
};

nlohmann::ordered_json jsonOf(const Answer& answer)
{
    const auto place = [](ChunkPos at) { return nlohmann::ordered_json{at.x, at.y, at.z}; };
    return {{"chunk", place(answer.asked)}, {"shown_by", place(answer.shown)}, {"level", answer.shown.level},
        {"camera_chunk", place(answer.viewer)}, {"state", wordsOf(answer.details.stage)}, {"drawn", answer.why.empty()},
        {"why", answer.why}, {"voxel_bytes", answer.details.voxelBytes}, {"light_bytes", answer.details.lightBytes},
        {"mesh_bytes", answer.held ? answer.held->bytes : 0},
        {"quads", answer.held ? answer.held->quads[0] + answer.held->quads[1] + answer.held->quads[2] : 0},
        {"triangles", answer.held ? answer.held->shapeTriangles : 0}};
}

void say(const Answer& answer, const std::string& from)
{
    std::cout << "chunk " << textOf(answer.asked) << ", seen from " << from << " (chunk " << textOf(answer.viewer)
              << ")\n";
    if (answer.shown.level > 0)
        std::cout << "  shown by chunk " << textOf(answer.shown) << "\n";
    std::cout << "  " << (answer.why.empty() ? "drawn; it may lie behind nearer chunks" : "not drawn: " + answer.why)
              << "\n  state: " << wordsOf(answer.details.stage) << "; " << answer.details.voxelBytes
              << " bytes of voxels, " << answer.details.lightBytes << " of light";
    if (answer.held)
        std::cout << ", " << answer.held->bytes << " of mesh, "
                  << answer.held->quads[0] + answer.held->quads[1] + answer.held->quads[2] << " quads, "
                  << answer.held->shapeTriangles << " triangles";
    std::cout << "\n";
}

int runWhy(const WhyArguments& arguments, const std::stop_token& stop)
{
    auto opened = openSetup(arguments.world.setup, arguments.world);
    if (!opened)
        return fail(opened.problem());
    Setup setup = opened.take();
    std::shared_ptr<WorldChanges> changes;
    const auto terrain = openWorld(arguments.world, &changes);
    if (!terrain)
        return fail(terrain.problem());
    if (auto problem = settleDistance(setup, terrain.value()->recipe.voxelMetres))
        return fail(*problem);
    const auto route = openRoute(arguments.route, arguments.world.world, *terrain.value(), changes);
    if (!route)
        return fail(route.problem());
    if (!(arguments.along >= 0 && arguments.along <= 1))
        return fail({"--along", "", "0 to 1 along the route is allowed"});
    const auto chunk = askedChunk(arguments, setup.chunk.edge);
    if (!chunk)
        return fail(chunk.problem());
    auto made = Offscreen::create({960, 600});
    if (!made)
        return fail(made.problem(), kMachineLacks);
    const auto offscreen = made.take();
    Renderer& renderer = offscreen->renderer();
    const RenderTarget& target = offscreen->target();
    const Eye eye = eyeOn(route.value(), arguments.along, *terrain.value());
    renderer.begin(setup, *terrain.value());
    Streamer streamer(terrain.value(), setup, {}, changes);
    streamer.lookThrough(pixelsPerRadian(setup.draw.fieldOfView, target.height()));
    if (!fill(renderer, streamer, eye, setup, stop))
        return kStopped;
    target.bind();
    (void)renderer.draw(eye, target.width(), target.height(), {});
    Answer answer;
    answer.asked = chunk.value();
    const auto cover = streamer.cover();
    answer.shown = shownFor(answer.asked, cover.get());
    answer.viewer = chunkOf(eye.cell, setup.chunk.edge);
    const auto details = detailsOf(streamer, answer.shown, stop);
    if (!details)
        return kStopped;
    answer.details = *details;
    answer.held = renderer.figuresOf(answer.shown);
    answer.why = whyNotDrawn(answer.shown, answer.details, answer.held.has_value(), renderer.rejectedBy(answer.shown));
    if (arguments.world.json)
        printDocument("fell-why", jsonOf(answer));
    else
        say(answer, "route " + route.value().name + " at " + nlohmann::json(arguments.along).dump());
    return kDone;
}

} // namespace

Run addWhy(CLI::App& parser)
{
    auto* command = parser.add_subcommand("why", "say why a chunk is not drawn from a place on a route");
    auto arguments = std::make_shared<WhyArguments>();
    addWorldOptions(*command, arguments->world);
    addMethodOption(*command, arguments->world);
    addRouteOption(*command, arguments->route);
    command->add_option("--along", arguments->along, "where on the route, 0 to 1")->capture_default_str();
    command->add_option(
        "--chunk", arguments->chunk, "the chunk: x,y,z in chunks of the setup's edge, e.g. --chunk=0,1,-2");
    command->add_option("--voxel", arguments->voxel, "the chunk that contains this voxel, x,y,z");
    addDeviceOption(*command);
    return [arguments](const std::stop_token& stop) { return runWhy(*arguments, stop); };
}

} // namespace fell::cli
