// SPDX-License-Identifier: Apache-2.0
// fell-cli world import: heights and volumes from elsewhere become a world file.
#include "import_command.h"

#include <fell/exchange/world_import.h>

#include <nlohmann/json.hpp>

#include <charconv>
#include <iostream>

namespace fell::cli {
namespace {

/// "3=slate,7=glass".
std::optional<Problem> readIds(const std::string& text, ImportSpec& spec)
{
    for (const std::string& part : splitList(text)) {
        const std::size_t equals = part.find('=');
        std::int64_t id = 0;
        const auto read = std::from_chars(part.data(), part.data() + std::min(equals, part.size()), id);
        const auto material
            = equals == std::string::npos ? std::nullopt : findMaterial(spec.like.blocks, part.substr(equals + 1));
        if (read.ec != std::errc{} || !material || read.ptr != part.data() + equals)
            return Problem{"--ids " + text, "", "\"" + part + "\" is no NUMBER=BLOCK of the world's blocks"};
        spec.ids[id] = *material;
    }
    return std::nullopt;
}

std::optional<Problem> readNumbers(const ImportArguments& arguments, ImportSpec& spec)
{
    int read = 0;
    const auto isAll = [&read](const std::string& text) { return static_cast<std::size_t>(read) == text.size(); };
    if (std::sscanf(arguments.heights.c_str(), "%lf,%lf%n", &spec.heights[0], &spec.heights[1], &read) != 2
        || !isAll(arguments.heights))
        return Problem{"--heights " + arguments.heights, "", "LOW,HIGH in metres is expected"};
    if (std::sscanf(arguments.at.c_str(), "%ld,%ld,%ld%n", &spec.at.x, &spec.at.y, &spec.at.z, &read) != 3
        || !isAll(arguments.at))
        return Problem{"--at " + arguments.at, "", "x,y,z in voxels is expected"};
    return arguments.ids.empty() ? std::nullopt : readIds(arguments.ids, spec);
}

} // namespace

int importWorld(const ImportArguments& arguments, const std::stop_token& stop)
{
    auto like = findWorld(arguments.like, demoFolder());
    if (!like)
        return fail(like.problem());
    if (const auto kind = importKindOf(arguments.in); kind && arguments.command) {
        const auto [unused, why] = *kind == ImportKind::Volume
            ? std::pair{std::vector<std::string>{"--metres", "--heights"},
                "it is for height maps, and this is a volume"}
            : *kind == ImportKind::Heights ? std::pair{std::vector<std::string>{"--at", "--ids", "--threshold"},
                  "it is for volumes, and this is a height map"}
                                           : std::pair{std::vector<std::string>{"--metres", "--heights", "--ids",
                                                           "--threshold", "--material", "--like"},
                                               "chunks say their materials and lengths themselves"};
        if (auto problem = checkUnused(*arguments.command, unused, why))
            return fail(*problem);
    }
    ImportSpec spec;
    spec.in = arguments.in;
    spec.out = arguments.out;
    spec.like = like.take();
    spec.material = arguments.material;
    spec.metresPerPixel = arguments.metres;
    spec.threshold = arguments.threshold;
    if (const auto wrong = readNumbers(arguments, spec))
        return fail(*wrong);
    const auto made = exchange::importWorld(spec, [&stop](double share) {
        showProgress(share, "importing");
        return !stop.stop_requested();
    });
    if (stop.stop_requested())
        return kStopped;
    if (!made)
        return fail(made.problem(),
            made.problem().what.find("written") != std::string::npos
                    || made.problem().what.find("cannot be made") != std::string::npos
                ? kCannotWrite
                : kBadInput);
    const ImportResult& result = made.value();
    nlohmann::ordered_json said{{"file", arguments.out}, {"size", result.size}, {"type", result.type},
        {"chunks", result.chunks}, {"edits", result.voxels}, {"bytes", result.bytes}};
    if (!result.heights.empty()) {
        said["heights"] = result.heights.string();
        said["metres_across"] = {static_cast<double>(result.size[0]) * arguments.metres,
            static_cast<double>(result.size[2]) * arguments.metres};
    }
    if (arguments.json)
        printDocument("fell-import", said);
    else
        for (const auto& [key, value] : said.items())
            std::cout << key << ": " << (value.is_string() ? value.get<std::string>() : value.dump()) << "\n";
    return kDone;
}

void addImportOptions(CLI::App& command, ImportArguments& arguments)
{
    arguments.command = &command;
    command
        .add_option("in", arguments.in,
            "a height map (.png, grey, 8 or 16 bits), a volume (.nrrd), or chunks (.chunks, a folder of them, or - for "
            "standard input)")
        ->required();
    command.add_option("file", arguments.out, "the world file to make")->required();
    command.add_flag("--json", arguments.json, "one JSON document");
    command.add_option("--like", arguments.like, "the world that gives block set, seed and voxel length")
        ->capture_default_str();
    command.add_option("--metres", arguments.metres, "heights: metres per pixel")->capture_default_str();
    command.add_option("--heights", arguments.heights, "heights: LOW,HIGH in metres of black and white")
        ->capture_default_str();
    command.add_option(
        "--material", arguments.material, "one block type; not given: heights are covered by height and slope");
    command.add_option("--threshold", arguments.threshold, "volumes: what is above it is solid");
    command.add_option("--ids", arguments.ids, "volumes: NUMBER=BLOCK,NUMBER=BLOCK; else what the file says");
    command.add_option("--at", arguments.at, "volumes: x,y,z of its lowest corner, voxels; chunks: of their origin")
        ->capture_default_str();
}

} // namespace fell::cli
