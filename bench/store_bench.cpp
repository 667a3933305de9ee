// SPDX-License-Identifier: Apache-2.0
// Bytes and row reads of the forms in which voxels are held. Ratios of bytes are counted, not timed.
#include "in_turn.h"
#include <fell/demo/demo_folder.h>
#include <fell/measure/store_trial.h>

namespace fell::bench {
namespace {

std::vector<std::vector<Material>> materialsOf(int edge, std::size_t count)
{
    const auto terrain = makeTerrain(findWorld("corrowdale", demoFolder()).take());
    return sampleCubes(*terrain, *findGenerator("blocks"), edge, count);
}

bool readsBack(const VoxelStorage& held, const std::vector<Material>& voxels, int edge)
{
    std::vector<Material> row(static_cast<std::size_t>(edge));
    for (int i = 0; i < edge * edge; ++i) {
        held.readRow(i / edge, i % edge, row.data());
        if (!std::equal(row.begin(), row.end(), voxels.begin() + static_cast<std::ptrdiff_t>(i) * edge))
            return false;
    }
    return true;
}

/// Bytes of `large` over bytes of `small` for the same cubes; with `shapeAlone` the small one holds only solid or open.
void bytesOver(
    benchmark::State& state, const char* large, const char* small, int edge, std::size_t count, bool shapeAlone)
{
    double largeBytes = 0, smallBytes = 0;
    for (const auto& voxels : materialsOf(edge, count)) {
        auto shape = voxels;
        if (shapeAlone)
            for (Material& m : shape)
                m = m != kOpen;
        const auto a = findForm(large)->hold(edge, voxels), b = findForm(small)->hold(edge, shape);
        if (!readsBack(*a, voxels, edge) || !readsBack(*b, shape, edge))
            return state.SkipWithError("a form does not read back what it was given");
        largeBytes += static_cast<double>(a->bytes());
        smallBytes += static_cast<double>(b->bytes());
    }
    for (auto _ : state)
        benchmark::DoNotOptimize(smallBytes);
    state.counters["ratio"] = largeBytes / smallBytes;
    state.counters["large_bytes"] = largeBytes;
    state.counters["small_bytes"] = smallBytes;
}
BENCHMARK_CAPTURE(bytesOver, narrow, "octree-wide", "octree-narrow", 256, 1, false)
    ->Name("store/octree_wide_over_narrow/corrowdale256")
    ->Iterations(1);
BENCHMARK_CAPTURE(bytesOver, shape, "array", "octree-narrow", 256, 1, true)
    ->Name("store/array_over_octree_narrow_shape/corrowdale256")
    ->Iterations(1);
BENCHMARK_CAPTURE(bytesOver, palette, "array", "palette", 32, 128, false)
    ->Name("store/array_over_palette/corrowdale")
    ->Iterations(1);

/// Time to read all rows of a chunk: palette / array, so 2 is twice as slow.
void paletteRowsOverArray(benchmark::State& state)
{
    const auto cubes = materialsOf(32, 64);
    std::vector<std::unique_ptr<VoxelStorage>> palette, array;
    for (const auto& voxels : cubes) {
        palette.push_back(holdPalette(32, voxels));
        array.push_back(holdArray(32, voxels));
        if (!readsBack(*palette.back(), voxels, 32))
            return state.SkipWithError("the palette does not read back what it was given");
    }
    std::array<Material, 32> row;
    const auto readAll = [&row](const VoxelStorage& held) {
        for (int y = 0; y < 32; ++y)
            for (int z = 0; z < 32; ++z) {
                held.readRow(y, z, row.data());
                benchmark::DoNotOptimize(row);
            }
    };
    compareInTurn(
        state, cubes.size(), [&](std::size_t i) { readAll(*palette[i]); }, [&](std::size_t i) { readAll(*array[i]); });
}
BENCHMARK(paletteRowsOverArray)->Name("store/palette_rows_over_array/corrowdale");

} // namespace
} // namespace fell::bench
