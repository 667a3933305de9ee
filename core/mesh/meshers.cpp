// SPDX-License-Identifier: Apache-2.0
// The table of meshers. A new one is a file next to this one and a line here.
#include <fell/mesh/meshers.h>

#include <algorithm>
#include <atomic>
#include <cassert>
#include <mutex>
#include <vector>

namespace fell::mesh {
namespace {

const std::array<Mesher, 5> kOwn{{
    {"every", "every face", "Emits all six faces of every solid voxel: 12 triangles per voxel. The baseline.",
        meshEverySide, {.drawsHidden = true}},
    {"exposed", "exposed faces", "Emits one quad per exposed face. Reads the neighbours at chunk borders.",
        meshExposedBits, {}},
    {"greedy", "greedy, masks", "Merges equal faces into rectangles, with a mask per slice: the textbook method.",
        meshGreedyTaught, {.mergesFaces = true}},
    {"greedy-bits", "greedy, bits",
        "Merges equal faces into the same rectangles, from 64-bit rows of occupancy: a fraction of the time.",
        meshGreedyBits, {.mergesFaces = true}},
    {"bevelled", "bevelled blocks",
        "Exposed faces with edges towards air cut at 45 degrees. Emits triangles, which are not merged.", meshBevelled,
        {.makesTriangles = true, .takesSeams = false, .keepsCubes = false}},
}};

constexpr std::array<ShadeMode, 3> kShadeModes{{
    {"none", "none", "No ambient occlusion (AO): the largest rectangles."},
    {"corners", "AO at corners", "Quads store AO at their corners. Only faces of equal AO are merged."},
    {"rim", "AO ring per quad", "4 bytes per quad store the ring of voxels around it. Faces are merged as without AO."},
}};

/// Fell's own meshers and those that were added. There is room for all that may come, so none ever moves, and readers
/// see only those that are complete.
class Table {
public:
    Table()
    {
        m_all.reserve(kOwn.size() + kMaxOutsideMeshers);
        m_all.assign(kOwn.begin(), kOwn.end());
        m_first = m_all.data();
        m_count = m_all.size();
    }
    [[nodiscard]] std::span<const Mesher> all() const { return {m_first, m_count.load(std::memory_order_acquire)}; }
    const Mesher* add(const Mesher& mesher)
    {
        const std::scoped_lock lock(m_mutex);
        assert(std::none_of(
            m_all.begin(), m_all.end(), [&mesher](const Mesher& m) { return std::string_view(m.id) == mesher.id; }));
        if (m_all.size() == kOwn.size() + kMaxOutsideMeshers)
            return nullptr;
        m_all.push_back(mesher);
        m_count.store(m_all.size(), std::memory_order_release);
        return &m_all.back();
    }

private:
    std::mutex m_mutex; // of those that add
    std::vector<Mesher> m_all;
    const Mesher* m_first = nullptr;
    std::atomic<std::size_t> m_count = 0;
};

Table& table()
{
    static Table all;
    return all;
}

} // namespace

std::span<const Mesher> meshers()
{
    return table().all();
}

const Mesher* addMesher(const Mesher& mesher)
{
    return table().add(mesher);
}

int widestApron()
{
    const auto all = table().all();
    return std::max_element(all.begin(), all.end(), [](const Mesher& a, const Mesher& b) {
        return a.traits.apron < b.traits.apron;
    })->traits.apron;
}

void meshSurface(const Mesher& mesher, const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out)
{
    if (voxels.apron > mesher.traits.apron)
        mesher.mesh(narrowed(voxels, mesher.traits.apron), rules, out);
    else
        mesher.mesh(voxels, rules, out);
}

std::span<const ShadeMode> shadeModes()
{
    return kShadeModes;
}

const Mesher* findMesher(std::string_view id)
{
    const auto all = table().all();
    const auto found = std::find_if(all.begin(), all.end(), [id](const Mesher& m) { return m.id == id; });
    if (found != all.end())
        return &*found;
    const std::string_view name = id.substr(0, id.find('@'));
    std::vector<const Mesher*> builds;
    for (const Mesher& mesher : all.subspan(kOwn.size())) {
        const std::string_view other = mesher.id;
        if (other.substr(0, other.find('@')) == name)
            builds.push_back(&mesher);
    }
    return builds.size() == 1 ? builds[0] : nullptr; // of two builds it does not say which
}

} // namespace fell::mesh
