// SPDX-License-Identifier: Apache-2.0
#include <fell/blocks/srgb.h>
#include <fell/exchange/export_mesh.h>
#include <fell/input/text_file.h>

#include <tiny_gltf.h>

#include <cmath>
#include <cstring>
#include <map>
#include <sstream>

namespace fell::exchange {
namespace {

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

/// Appends floats of every vertex as one accessor.
template <typename Values>
int addFloats(tinygltf::Model& model, const ExportPart& part, int type, const Values& valuesOf)
{
    auto& data = model.buffers[0].data;
    const std::size_t from = data.size();
    for (const ExportVertex& vertex : part.vertices)
        for (const float value : valuesOf(vertex))
            append(data, value + 0.0f); // no negative zero
    return addAccessor(
        model, from, part.vertices.size(), TINYGLTF_COMPONENT_TYPE_FLOAT, type, TINYGLTF_TARGET_ARRAY_BUFFER);
}

int addPositions(tinygltf::Model& model, const ExportPart& part, double metres)
{
    const auto inMetres = [metres](const ExportVertex& of) {
        return std::array{static_cast<float>(of.place.x * metres), static_cast<float>(of.place.y * metres),
            static_cast<float>(of.place.z * metres)};
    };
    const int accessor = addFloats(model, part, TINYGLTF_TYPE_VEC3, inMetres);
    std::array<double, 3> low{1e30, 1e30, 1e30}, high{-1e30, -1e30, -1e30};
    for (const ExportVertex& vertex : part.vertices)
        for (std::size_t axis = 0; axis < 3; ++axis) {
            low[axis] = std::min<double>(low[axis], inMetres(vertex)[axis]);
            high[axis] = std::max<double>(high[axis], inMetres(vertex)[axis]);
        }
    model.accessors.back().minValues.assign(low.begin(), low.end());
    model.accessors.back().maxValues.assign(high.begin(), high.end());
    return accessor;
}

int addIndices(tinygltf::Model& model, const ExportPart& part)
{
    auto& data = model.buffers[0].data;
    const std::size_t from = data.size();
    for (const std::uint32_t index : part.indices)
        append(data, index);
    return addAccessor(model, from, part.indices.size(), TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT, TINYGLTF_TYPE_SCALAR,
        TINYGLTF_TARGET_ELEMENT_ARRAY_BUFFER);
}

/// The pictures of a block set, each embedded once.
class Textures {
public:
    Textures(const BlockSet& blocks, ExportFile& file)
        : m_blocks(blocks)
        , m_file(file)
    {
    }

    /// The number of the texture, or -1 where it cannot be read, which is said once.
    int add(tinygltf::Model& model, const std::string& name)
    {
        const auto [at, isNew] = m_known.try_emplace(name, -1);
        if (!isNew)
            return at->second;
        constexpr std::string_view kPng{"\x89PNG\r\n\x1a\n", 8};
        const auto bytes = readFile(m_blocks.folder / name);
        if (!bytes || bytes.value().rfind(kPng, 0) != 0) {
            m_file.leftOut.push_back(
                name + (bytes ? " is no PNG" : " cannot be read") + ": the block's colour replaces it");
            return -1;
        }
        auto& data = model.buffers[0].data;
        tinygltf::BufferView view;
        view.buffer = 0;
        view.byteOffset = data.size();
        view.byteLength = bytes.value().size();
        data.insert(data.end(), bytes.value().begin(), bytes.value().end());
        data.resize((data.size() + 3) / 4 * 4); // floats that follow are aligned
        model.bufferViews.push_back(view);
        tinygltf::Image image;
        image.bufferView = static_cast<int>(model.bufferViews.size()) - 1;
        image.mimeType = "image/png";
        model.images.push_back(image);
        if (model.samplers.empty()) {
            tinygltf::Sampler sampler;
            sampler.magFilter = TINYGLTF_TEXTURE_FILTER_NEAREST;
            sampler.minFilter = TINYGLTF_TEXTURE_FILTER_LINEAR_MIPMAP_LINEAR;
            model.samplers.push_back(sampler); // it repeats, as is usual
        }
        tinygltf::Texture texture;
        texture.source = static_cast<int>(model.images.size()) - 1;
        texture.sampler = 0;
        model.textures.push_back(texture);
        at->second = static_cast<int>(model.textures.size()) - 1;
        return at->second;
    }

private:
    const BlockSet& m_blocks;
    ExportFile& m_file;
    std::map<std::string, int> m_known;
};

int addMaterial(tinygltf::Model& model, const ExportPart& part, int texture)
{
    tinygltf::Material material;
    material.name = part.name;
    const auto factor = [texture](std::uint8_t of) { return texture < 0 ? linearOf(of / 255.0) : 1.0; };
    material.pbrMetallicRoughness.baseColorFactor
        = {factor(part.colour.r), factor(part.colour.g), factor(part.colour.b), part.opacity};
    material.pbrMetallicRoughness.baseColorTexture.index = texture;
    material.pbrMetallicRoughness.metallicFactor = 0;
    material.pbrMetallicRoughness.roughnessFactor = 1;
    if (part.opacity < 1)
        material.alphaMode = "BLEND";
    model.materials.push_back(material);
    return static_cast<int>(model.materials.size()) - 1;
}

} // namespace

ExportFile toGlb(const BoxSurface& surface, const Recipe& recipe)
{
    const std::vector<ExportPart> parts = exportParts(surface, recipe.blocks);
    ExportFile file;
    file.count = countOf(parts);
    tinygltf::Model model;
    model.asset.version = "2.0";
    model.asset.generator = "fell";
    tinygltf::Mesh mesh;
    mesh.name = recipe.name;
    if (!parts.empty())
        model.buffers.emplace_back();
    Textures textures(recipe.blocks, file);
    for (const ExportPart& part : parts) {
        tinygltf::Primitive primitive;
        primitive.mode = TINYGLTF_MODE_TRIANGLES;
        primitive.attributes["POSITION"] = addPositions(model, part, recipe.voxelMetres);
        primitive.attributes["NORMAL"] = addFloats(model, part, TINYGLTF_TYPE_VEC3, [](const ExportVertex& of) {
            return std::array{of.normal.x, of.normal.y, of.normal.z};
        });
        const int texture = part.texture.empty() ? -1 : textures.add(model, part.texture);
        if (texture >= 0) // coordinates without a texture are dead weight
            primitive.attributes["TEXCOORD_0"]
                = addFloats(model, part, TINYGLTF_TYPE_VEC2, [](const ExportVertex& of) { return of.uv; });
        primitive.indices = addIndices(model, part);
        primitive.material = addMaterial(model, part, texture);
        mesh.primitives.push_back(primitive);
    }
    tinygltf::Node node;
    node.name = recipe.name;
    if (!parts.empty()) { // a mesh without primitives is not valid glTF
        model.meshes.push_back(mesh);
        node.mesh = 0;
        const VoxelPos& at = surface.box.low;
        node.translation = {static_cast<double>(at.x) * recipe.voxelMetres,
            static_cast<double>(at.y) * recipe.voxelMetres, static_cast<double>(at.z) * recipe.voxelMetres};
    }
    model.nodes.push_back(node);
    tinygltf::Scene scene;
    scene.nodes.push_back(0);
    model.scenes.push_back(scene);
    model.defaultScene = 0;

    std::ostringstream stream;
    tinygltf::TinyGLTF writer;
    writer.WriteGltfSceneToStream(&model, stream, false, true);
    file.bytes = stream.str();
    file.count.bytes = file.bytes.size();
    return file;
}

} // namespace fell::exchange
