// SPDX-License-Identifier: Apache-2.0
#include <fell/exchange/export_mesh.h>

#include <fell/mesh/layouts.h>

#include <algorithm>
#include <bit>
#include <cassert>
#include <map>
#include <tuple>
#include <unordered_map>

namespace fell::exchange {
namespace {

struct VertexHash {
    std::size_t operator()(const ExportVertex& of) const
    {
        std::uint64_t hash = 0;
        for (const float value :
            {of.place.x, of.place.y, of.place.z, of.normal.x, of.normal.y, of.normal.z, of.uv[0], of.uv[1]})
            hash = mix64(hash ^ std::bit_cast<std::uint32_t>(value + 0.0f)); // no negative zero
        return hash;
    }
};

constexpr const char* kParts[]{"top", "side", "bottom", "colour"};

int partOf(Side side)
{
    return side == Side::Up ? 0 : side == Side::Down ? 2 : 1;
}

/// The side that a normal is nearest to.
Side nearestSide(glm::vec3 normal)
{
    const glm::vec3 size{std::abs(normal.x), std::abs(normal.y), std::abs(normal.z)};
    if (size.y >= size.x && size.y >= size.z)
        return normal.y >= 0 ? Side::Up : Side::Down;
    if (size.x >= size.z)
        return normal.x >= 0 ? Side::East : Side::West;
    return normal.z >= 0 ? Side::South : Side::North;
}

class Parts {
public:
    explicit Parts(const BlockSet& blocks)
        : m_blocks(blocks)
    {
    }

    void add(const SurfaceQuad& quad)
    {
        Built& to = partFor(quad.material, partOf(quad.side), std::nullopt);
        const ChunkPos towardsIt = stepOf(quad.side);
        const glm::vec3 normal{towardsIt.x, towardsIt.y, towardsIt.z};
        std::array<std::uint32_t, 4> corners{};
        const auto places = cornersOf(
            QuadFields{quad.voxel[0], quad.voxel[1], quad.voxel[2], quad.width, quad.height, quad.side, quad.material});
        for (std::size_t i = 0; i < 4; ++i) {
            const glm::vec3 place{places[i][0], places[i][1], places[i][2]};
            corners[i] = to.vertex({place, normal, textureAt(place, quad.side)});
        }
        for (const unsigned corner : kQuadIndices)
            to.part.indices.push_back(corners[corner]);
    }

    void add(const SurfaceTriangle& triangle)
    {
        const Side side = nearestSide(triangle.normal);
        constexpr float kUpward = 0.5F; // steeper ones look like the block's sides, as where it is drawn
        const int part = triangle.normal.y > kUpward ? 0 : triangle.normal.y < -kUpward ? 2 : 1;
        Built& to = partFor(triangle.material, part, triangle.colour);
        for (const glm::vec3& corner : triangle.corners)
            to.part.indices.push_back(to.vertex({corner, triangle.normal, textureAt(corner, side)}));
    }

    std::vector<ExportPart> take()
    {
        std::vector<ExportPart> out;
        for (auto& [key, built] : m_parts)
            out.push_back(std::move(built.part));
        return out;
    }

private:
    struct Built {
        ExportPart part;
        std::unordered_map<ExportVertex, std::uint32_t, VertexHash> known;
        std::uint32_t vertex(const ExportVertex& of)
        {
            const auto [at, isNew] = known.try_emplace(of, static_cast<std::uint32_t>(part.vertices.size()));
            if (isNew)
                part.vertices.push_back(of);
            return at->second;
        }
    };

    Built& partFor(Material material, int part, const std::optional<Rgb>& own)
    {
        const BlockKind& kind = m_blocks.kinds[material];
        if (own)
            part = 3;
        const Rgb colour = own ? *own : part == 0 ? kind.top : part == 1 ? kind.side : kind.bottom;
        const std::uint32_t number = own ? static_cast<std::uint32_t>(own->r << 16 | own->g << 8 | own->b) : 0;
        const auto [at, isNew] = m_parts.try_emplace(std::tuple(material, part, number));
        if (isNew) {
            ExportPart& to = at->second.part;
            to.material = material;
            to.part = part;
            to.colour = colour;
            to.name = kind.name + " " + kParts[part];
            if (own) {
                char hex[8];
                std::snprintf(hex, sizeof hex, "%06x", number);
                to.name += std::string(" ") + hex;
            }
            to.texture = own ? std::string() : kind.textures[static_cast<std::size_t>(part)];
            to.opacity = kind.matter == Matter::Solid ? 1 : kind.opacity;
        }
        return at->second;
    }

    const BlockSet& m_blocks;
    std::map<std::tuple<Material, int, std::uint32_t>, Built> m_parts;
};

} // namespace

std::array<float, 2> textureAt(glm::vec3 place, Side side)
{
    switch (side) {
    case Side::Up:
        return {place.x, place.z};
    case Side::Down:
        return {place.x, -place.z};
    case Side::East:
        return {-place.z, -place.y};
    case Side::West:
        return {place.z, -place.y};
    case Side::South:
        return {place.x, -place.y};
    case Side::North:
        break;
    }
    return {-place.x, -place.y};
}

std::vector<ExportPart> exportParts(const BoxSurface& surface, const BlockSet& blocks)
{
    Parts parts(blocks);
    for (const SurfaceQuad& quad : surface.quads)
        parts.add(quad);
    for (const SurfaceTriangle& triangle : surface.triangles)
        parts.add(triangle);
    return parts.take();
}

ExportCount countOf(const std::vector<ExportPart>& parts)
{
    ExportCount count;
    for (const ExportPart& part : parts) {
        count.vertices += part.vertices.size();
        count.triangles += part.indices.size() / 3;
    }
    return count;
}

std::span<const MeshFileFormat> meshFileFormats()
{
    static constexpr std::array<MeshFileFormat, 3> kFormats{
        {{"glb", "Binary glTF 2.0"}, {"ply", "PLY"}, {"obj", "Wavefront OBJ"}}};
    return kFormats;
}

ExportFile toMeshFile(
    const std::string& format, const BoxSurface& surface, const Recipe& recipe, const std::string& materialFile)
{
    assert(std::any_of(meshFileFormats().begin(), meshFileFormats().end(),
        [&format](const MeshFileFormat& known) { return format == known.id; }));
    return format == "glb" ? toGlb(surface, recipe)
        : format == "ply"  ? toPly(surface, recipe)
                           : toObj(surface, recipe, materialFile);
}

} // namespace fell::exchange
