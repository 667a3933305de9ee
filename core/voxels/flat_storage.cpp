// SPDX-License-Identifier: Apache-2.0
// The forms that keep voxels in rows: array, runs, layers.
#include <fell/voxels/storage_formats.h>

#include <algorithm>

namespace fell::voxels {
namespace {

std::size_t indexOf(int edge, int x, int y, int z)
{
    return static_cast<std::size_t>((y * edge + z) * edge + x);
}

template <typename T> std::size_t heapBytes(const std::vector<T>& v)
{
    return v.capacity() * sizeof(T);
}

class ArrayVoxels final : public VoxelStorage {
public:
    ArrayVoxels(int edge, std::span<const Material> voxels)
        : m_edge(edge)
        , m_voxels(voxels.begin(), voxels.end())
    {
    }
    [[nodiscard]] Material at(int x, int y, int z) const override { return m_voxels[indexOf(m_edge, x, y, z)]; }
    void readRow(int y, int z, Material* out) const override
    {
        std::copy_n(m_voxels.data() + indexOf(m_edge, 0, y, z), m_edge, out);
    }
    void set(int x, int y, int z, Material material) override { m_voxels[indexOf(m_edge, x, y, z)] = material; }
    [[nodiscard]] std::unique_ptr<VoxelStorage> copy() const override { return std::make_unique<ArrayVoxels>(*this); }
    [[nodiscard]] std::size_t bytes() const override { return sizeof *this + heapBytes(m_voxels); }

private:
    int m_edge;
    std::vector<Material> m_voxels;
};

class RunVoxels final : public VoxelStorage {
public:
    RunVoxels(int edge, std::span<const Material> voxels)
        : m_edge(edge)
    {
        const auto rows = static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge);
        m_first.reserve(rows + 1);
        for (std::size_t row = 0; row < rows; ++row) {
            m_first.push_back(static_cast<std::uint32_t>(m_runs.size()));
            addRuns(voxels.data() + row * static_cast<std::size_t>(edge), m_runs);
        }
        m_first.push_back(static_cast<std::uint32_t>(m_runs.size()));
        m_runs.shrink_to_fit();
    }
    [[nodiscard]] Material at(int x, int y, int z) const override
    {
        const Run* run = m_runs.data() + m_first[rowOf(y, z)];
        while (run->end <= x)
            ++run;
        return run->material;
    }
    void readRow(int y, int z, Material* out) const override
    {
        int x = 0;
        for (const Run* run = m_runs.data() + m_first[rowOf(y, z)]; x < m_edge; ++run)
            for (; x < run->end; ++x)
                out[x] = run->material;
    }
    void set(int x, int y, int z, Material material) override
    {
        std::vector<Material> row(static_cast<std::size_t>(m_edge));
        readRow(y, z, row.data());
        row[static_cast<std::size_t>(x)] = material;
        std::vector<Run> runs;
        addRuns(row.data(), runs);
        const std::size_t at = rowOf(y, z);
        const auto grown = static_cast<std::uint32_t>(runs.size()) - (m_first[at + 1] - m_first[at]); // may wrap round
        const auto from = m_runs.erase(m_runs.begin() + m_first[at], m_runs.begin() + m_first[at + 1]);
        m_runs.insert(from, runs.begin(), runs.end());
        for (std::size_t later = at + 1; later < m_first.size(); ++later)
            m_first[later] += grown;
    }
    [[nodiscard]] std::unique_ptr<VoxelStorage> copy() const override { return std::make_unique<RunVoxels>(*this); }
    [[nodiscard]] std::size_t bytes() const override { return sizeof *this + heapBytes(m_first) + heapBytes(m_runs); }

private:
    struct Run {
        std::uint16_t end; // the x after its last voxel
        Material material;
    };
    [[nodiscard]] std::size_t rowOf(int y, int z) const { return static_cast<std::size_t>(y * m_edge + z); }
    void addRuns(const Material* row, std::vector<Run>& to) const
    {
        for (int x = 0; x < m_edge; ++x)
            if (x > 0 && row[x] == row[x - 1])
                ++to.back().end;
            else
                to.push_back({static_cast<std::uint16_t>(x + 1), row[x]});
    }

    int m_edge;
    std::vector<std::uint32_t> m_first; // of each row, and one past the last
    std::vector<Run> m_runs;
};

class LayerVoxels final : public VoxelStorage {
public:
    LayerVoxels(int edge, std::span<const Material> voxels)
        : m_edge(edge)
    {
        const auto size = static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge);
        for (std::size_t y = 0; y < static_cast<std::size_t>(edge); ++y)
            m_layers.push_back(layerOf(voxels.subspan(y * size, size)));
    }
    [[nodiscard]] Material at(int x, int y, int z) const override
    {
        const Layer& layer = m_layers[static_cast<std::size_t>(y)];
        return layer.voxels.empty() ? layer.all : layer.voxels[static_cast<std::size_t>(z * m_edge + x)];
    }
    void readRow(int y, int z, Material* out) const override
    {
        const Layer& layer = m_layers[static_cast<std::size_t>(y)];
        if (layer.voxels.empty())
            std::fill_n(out, m_edge, layer.all);
        else
            std::copy_n(layer.voxels.data() + static_cast<std::ptrdiff_t>(z) * m_edge, m_edge, out);
    }
    void set(int x, int y, int z, Material material) override
    {
        Layer& layer = m_layers[static_cast<std::size_t>(y)];
        if (layer.voxels.empty() && layer.all == material)
            return;
        if (layer.voxels.empty())
            layer.voxels.assign(static_cast<std::size_t>(m_edge) * static_cast<std::size_t>(m_edge), layer.all);
        layer.voxels[static_cast<std::size_t>(z * m_edge + x)] = material;
        if (std::all_of(layer.voxels.begin(), layer.voxels.end(), [=](Material m) { return m == material; }))
            layer = {material, {}};
    }
    [[nodiscard]] std::unique_ptr<VoxelStorage> copy() const override { return std::make_unique<LayerVoxels>(*this); }
    [[nodiscard]] std::size_t bytes() const override
    {
        std::size_t sum = sizeof *this + heapBytes(m_layers);
        for (const Layer& layer : m_layers)
            sum += heapBytes(layer.voxels);
        return sum;
    }

private:
    struct Layer {
        Material all = kOpen; // where `voxels` is empty
        std::vector<Material> voxels;
    };
    static Layer layerOf(std::span<const Material> voxels)
    {
        const bool alike = std::all_of(voxels.begin(), voxels.end(), [&](Material m) { return m == voxels[0]; });
        return alike ? Layer{voxels[0], {}} : Layer{kOpen, {voxels.begin(), voxels.end()}};
    }
    int m_edge;
    std::vector<Layer> m_layers;
};

} // namespace

std::unique_ptr<VoxelStorage> holdArray(int edge, std::span<const Material> voxels)
{
    return std::make_unique<ArrayVoxels>(edge, voxels);
}

std::unique_ptr<VoxelStorage> holdRuns(int edge, std::span<const Material> voxels)
{
    return std::make_unique<RunVoxels>(edge, voxels);
}

std::unique_ptr<VoxelStorage> holdLayers(int edge, std::span<const Material> voxels)
{
    return std::make_unique<LayerVoxels>(edge, voxels);
}

} // namespace fell::voxels
