// SPDX-License-Identifier: Apache-2.0
#include "exchange/surface.h"
#include "mesh/layouts.h"

#include <tiny_gltf.h>

#include <cmath>
#include <cstring>
#include <map>
#include <sstream>

namespace fell {
namespace {

/// One look of a block: sides of a material that share a colour become one primitive.
struct Look {
    Material material;
    int part; // 0 top, 1 side, 2 bottom
    auto operator<=>(
        const Look&) const = default; // NOLINT(modernize-use-nullptr): not one, but clang-tidy 14 thinks so
};

Look lookOfSide(const SurfaceSide& side)
{
    return {side.material, side.side == Side::Up ? 0 : side.side == Side::Down ? 2 : 1};
}

/// sRGB to linear, as glTF wants its factors (IEC 61966-2-1).
double linear(std::uint8_t byte)
{
    const double v = byte / 255.0;
    return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
}

template <typename T> void append(std::vector<unsigned char>& out, T value)
{
    unsigned char bytes[sizeof value];
    std::memcpy(bytes, &value, sizeof value);
    out.insert(out.end(), bytes, bytes + sizeof bytes);
}

/// Appends a view and an accessor on what the buffer holds from `from` on; returns the accessor's number.
int addAccessor(tinygltf::Model& model, std::size_t from, std::size_t count, int component, int type, int target)
{
    tinygltf::BufferView view;
    view.buffer = 0;
    view.byteOffset = from;
    view.byteLength = model.buffers[0].data.size() - from;
    view.target = target;
    model.bufferViews.push_back(view);
    tinygltf::Accessor accessor;
    accessor.bufferView = static_cast<int>(model.bufferViews.size()) - 1;
    accessor.componentType = component;
    accessor.type = type;
    accessor.count = count;
    model.accessors.push_back(accessor);
    return static_cast<int>(model.accessors.size()) - 1;
}

int addPositions(tinygltf::Model& model, const std::vector<const SurfaceSide*>& sides, double metres)
{
    auto& data = model.buffers[0].data;
    const std::size_t from = data.size();
    std::array<double, 3> low{1e30, 1e30, 1e30}, high{-1e30, -1e30, -1e30};
    for (const auto* side : sides)
        for (const auto& corner : cornersOf(*side))
            for (std::size_t axis = 0; axis < 3; ++axis) {
                const auto value = static_cast<float>(corner[axis] * metres);
                low[axis] = std::min<double>(low[axis], value);
                high[axis] = std::max<double>(high[axis], value);
                append(data, value);
            }
    const int accessor = addAccessor(
        model, from, sides.size() * 4, TINYGLTF_COMPONENT_TYPE_FLOAT, TINYGLTF_TYPE_VEC3, TINYGLTF_TARGET_ARRAY_BUFFER);
    model.accessors.back().minValues.assign(low.begin(), low.end());
    model.accessors.back().maxValues.assign(high.begin(), high.end());
    return accessor;
}

int addNormals(tinygltf::Model& model, const std::vector<const SurfaceSide*>& sides)
{
    auto& data = model.buffers[0].data;
    const std::size_t from = data.size();
    for (const auto* side : sides)
        for (int corner = 0; corner < 4; ++corner) {
            const ChunkPos normal = towards(side->side);
            for (const std::int64_t value : {normal.x, normal.y, normal.z})
                append(data, static_cast<float>(value));
        }
    return addAccessor(
        model, from, sides.size() * 4, TINYGLTF_COMPONENT_TYPE_FLOAT, TINYGLTF_TYPE_VEC3, TINYGLTF_TARGET_ARRAY_BUFFER);
}

int addIndices(tinygltf::Model& model, std::size_t quads)
{
    auto& data = model.buffers[0].data;
    const std::size_t from = data.size();
    for (std::size_t quad = 0; quad < quads; ++quad)
        for (const unsigned corner : kQuadIndices)
            append(data, static_cast<std::uint32_t>(quad * 4 + corner));
    return addAccessor(model, from, quads * 6, TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT, TINYGLTF_TYPE_SCALAR,
        TINYGLTF_TARGET_ELEMENT_ARRAY_BUFFER);
}

int addMaterial(tinygltf::Model& model, const BlockKind& kind, int part)
{
    static constexpr const char* kParts[]{"top", "side", "bottom"};
    const Rgb colour = part == 0 ? kind.top : part == 1 ? kind.side : kind.bottom;
    tinygltf::Material material;
    material.name = kind.name + " " + kParts[part];
    material.pbrMetallicRoughness.baseColorFactor = {linear(colour.r), linear(colour.g), linear(colour.b), 1};
    material.pbrMetallicRoughness.metallicFactor = 0;
    material.pbrMetallicRoughness.roughnessFactor = 1;
    model.materials.push_back(material);
    return static_cast<int>(model.materials.size()) - 1;
}

} // namespace

ExportFile toGlb(const std::vector<SurfaceSide>& surface, const Recipe& recipe)
{
    std::map<Look, std::vector<const SurfaceSide*>> looks;
    for (const SurfaceSide& side : surface)
        looks[lookOfSide(side)].push_back(&side);

    tinygltf::Model model;
    model.asset.version = "2.0";
    model.asset.generator = "fell";
    tinygltf::Mesh mesh;
    mesh.name = recipe.name;
    if (!looks.empty())
        model.buffers.emplace_back();
    for (const auto& [look, sides] : looks) {
        tinygltf::Primitive primitive;
        primitive.mode = TINYGLTF_MODE_TRIANGLES;
        primitive.attributes["POSITION"] = addPositions(model, sides, recipe.voxelMetres);
        primitive.attributes["NORMAL"] = addNormals(model, sides);
        primitive.indices = addIndices(model, sides.size());
        primitive.material = addMaterial(model, recipe.blocks.kinds[look.material], look.part);
        mesh.primitives.push_back(primitive);
    }
    tinygltf::Node node;
    node.name = recipe.name;
    if (!looks.empty()) { // a mesh without primitives is not valid glTF
        model.meshes.push_back(mesh);
        node.mesh = 0;
    }
    model.nodes.push_back(node);
    tinygltf::Scene scene;
    scene.nodes.push_back(0);
    model.scenes.push_back(scene);
    model.defaultScene = 0;

    std::ostringstream stream;
    tinygltf::TinyGLTF writer;
    writer.WriteGltfSceneToStream(&model, stream, false, true);
    ExportFile file;
    file.bytes = stream.str();
    file.count = {file.bytes.size(), surface.size() * 4, surface.size() * 2};
    return file;
}

} // namespace fell
