// SPDX-License-Identifier: Apache-2.0
// A world from above and in section, at preview size, without any chunk of it.
#pragma once

#include <fell/terrain/generate.h>

#include <stop_token>

namespace fell::terrain {

struct MapSpec {
    int width = 512, height = 512; // pixels, 16 to 4096
    double metresPerPixel = 4; // 0.05 to 1000
    std::array<double, 2> middle{}; // metres, x and z
};

/// Row after row from north to south, each from west to east.
struct TerrainMap {
    int width = 0, height = 0;
    double metresPerPixel = 0;
    std::vector<float> heights; // metres
    std::vector<float> slopes; // metres up a metre along
    std::vector<Material> materials; // on top; water where the ground is below it
    std::vector<float> columnNs; // what a column cost where the pixel is, by the clock
    float min = 0, max = 0; // of the heights
};

/// Ground of the level of detail whose voxels are nearest to a pixel and no longer. Several threads.
/// A world that is a pattern has no ground: its map is empty. `stop` is asked between blocks; the rest is then 0.
/// Cost: 512 x 512 pixels of Corrowdale about 40 ms on two threads.
TerrainMap mapOf(const Terrain& terrain, const MapSpec& spec, const std::stop_token& stop = {});

enum class MapLook : std::uint8_t { Relief, Height, Slope, Top, Cost };
struct MapLookChoice {
    MapLook look;
    const char* id;
    const char* title;
    const char* note;
};
std::span<const MapLookChoice> mapLooks();

/// Three bytes a pixel, red first. Relief is shaded from the north-west (Horn, "Hill Shading and the Reflectance Map",
/// 1981); height, slope and cost are an even scale from dark to light.
std::vector<std::uint8_t> pictureOf(const TerrainMap& map, const BlockSet& blocks, MapLook look);

/// A vertical cut: row after row from the top.
struct TerrainSection {
    int columns = 0, rows = 0;
    double metresPerCell = 0, top = 0; // metres: the upper edge of the first row
    std::vector<Material> cells;
};

struct SectionSpec {
    std::array<double, 2> from{}, to{}; // metres, x and z
    int columns = 256; // 16 to 1024
    int rows = 64; // 16 to 512
};

/// What chunks of the nearest level of detail hold along a line: caves, overhangs, trees and water included. The
/// ground's middle height is in the upper half.
/// Cost: the columns of the chunks that the line touches, and a microsecond a cell where caves can be; Corrowdale about
/// 6 ms on two threads.
TerrainSection sectionOf(const Terrain& terrain, const SectionSpec& spec, const std::stop_token& stop = {});

} // namespace fell::terrain
