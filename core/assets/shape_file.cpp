// SPDX-License-Identifier: Apache-2.0
// Model files to shapes. The two libraries do the reading; here is only what becomes of it.
#include <fell/assets/shape_file.h>

#include <fell/blocks/srgb.h>
#include <glm/geometric.hpp>
#include <glm/gtc/quaternion.hpp>
#include <glm/gtc/type_ptr.hpp>
#include <glm/mat4x4.hpp>
#include <tiny_gltf.h>
#include <tiny_obj_loader.h>

#include <algorithm>
#include <cmath>
#include <cstring>

namespace fell::assets {
namespace {

constexpr Rgb kUnpainted{0x9A, 0x9C, 0x98};

Problem wrong(const std::filesystem::path& file, std::string what)
{
    return Problem{file.string(), "", std::move(what)};
}

/// Of linear light, as glTF has it.
std::uint8_t toSrgb(double linear)
{
    return static_cast<std::uint8_t>(std::lround(255 * screenOf(std::clamp(linear, 0.0, 1.0))));
}

/// Adds a triangle of a model whose origin is the middle of the voxel's floor; one without area is left out.
void addTriangle(std::vector<ShapeTriangle>& to, std::array<glm::vec3, 3> corners, Rgb colour)
{
    for (auto& corner : corners)
        corner += glm::vec3{0.5F, 0, 0.5F};
    const glm::vec3 across = glm::cross(corners[1] - corners[0], corners[2] - corners[0]);
    if (glm::length(across) > 1e-9F)
        to.push_back({corners, glm::normalize(across), colour, std::nullopt});
}

glm::mat4 transformOf(const tinygltf::Node& node)
{
    if (node.matrix.size() == 16)
        return glm::mat4(glm::make_mat4(node.matrix.data()));
    glm::dmat4 m(1);
    if (node.translation.size() == 3)
        m[3] = {node.translation[0], node.translation[1], node.translation[2], 1};
    if (node.rotation.size() == 4)
        m *= glm::mat4_cast(glm::dquat(node.rotation[3], node.rotation[0], node.rotation[1], node.rotation[2]));
    if (node.scale.size() == 3)
        for (int axis = 0; axis < 3; ++axis)
            m[axis] *= node.scale[static_cast<std::size_t>(axis)];
    return glm::mat4(m);
}

/// Reads what a glTF file says of triangles. A class because its parts share the model and where they put triangles.
class GltfTriangles {
public:
    GltfTriangles(const tinygltf::Model& model, std::vector<ShapeTriangle>& out)
        : m_model(model)
        , m_out(out)
    {
    }

    /// False if the file refers to something that it does not hold.
    bool read()
    {
        const int scene = std::max(0, m_model.defaultScene);
        if (static_cast<std::size_t>(scene) >= m_model.scenes.size())
            return false;
        for (const int node : m_model.scenes[static_cast<std::size_t>(scene)].nodes)
            if (!addNode(node, glm::mat4(1), 0))
                return false;
        return true;
    }

private:
    bool addNode(int index, const glm::mat4& parent, int depth)
    {
        constexpr int kDeepest = 32;
        constexpr int kMaxNodes = 10'000; // a node that is named twice counts twice: without a limit 2^32 of them
        if (++m_nodes > kMaxNodes || index < 0 || static_cast<std::size_t>(index) >= m_model.nodes.size()
            || depth > kDeepest)
            return false;
        const tinygltf::Node& node = m_model.nodes[static_cast<std::size_t>(index)];
        const glm::mat4 here = parent * transformOf(node);
        if (node.mesh >= 0) {
            if (static_cast<std::size_t>(node.mesh) >= m_model.meshes.size())
                return false;
            for (const auto& primitive : m_model.meshes[static_cast<std::size_t>(node.mesh)].primitives)
                if (!addPrimitive(primitive, here))
                    return false;
        }
        for (const int child : node.children)
            if (!addNode(child, here, depth + 1))
                return false;
        return true;
    }

    /// The bytes of an accessor's element, or null where it reaches beyond its buffer.
    const unsigned char* element(const tinygltf::Accessor& accessor, std::size_t i, std::size_t bytes) const
    {
        if (accessor.bufferView < 0 || static_cast<std::size_t>(accessor.bufferView) >= m_model.bufferViews.size())
            return nullptr;
        const auto& view = m_model.bufferViews[static_cast<std::size_t>(accessor.bufferView)];
        const int stride = accessor.ByteStride(view);
        if (view.buffer < 0 || static_cast<std::size_t>(view.buffer) >= m_model.buffers.size() || stride < 1)
            return nullptr;
        const auto& data = m_model.buffers[static_cast<std::size_t>(view.buffer)].data;
        const std::size_t at = view.byteOffset + accessor.byteOffset + i * static_cast<std::size_t>(stride);
        return i < accessor.count && at + bytes <= data.size() ? data.data() + at : nullptr;
    }

    const tinygltf::Accessor* accessor(int index) const
    {
        return index < 0 || static_cast<std::size_t>(index) >= m_model.accessors.size()
            ? nullptr
            : &m_model.accessors[static_cast<std::size_t>(index)];
    }

    /// The number of the i-th vertex that a primitive names.
    std::optional<std::size_t> vertexNumber(const tinygltf::Accessor* indices, std::size_t i) const
    {
        if (!indices)
            return i;
        const int size = tinygltf::GetComponentSizeInBytes(static_cast<std::uint32_t>(indices->componentType));
        const unsigned char* bytes = size > 0 ? element(*indices, i, static_cast<std::size_t>(size)) : nullptr;
        if (!bytes)
            return std::nullopt;
        std::size_t number = 0; // little-endian, unsigned: glTF allows no other
        for (int b = size - 1; b >= 0; --b)
            number = number << 8 | bytes[b];
        return number;
    }

    Rgb colourOf(int material) const
    {
        if (material < 0 || static_cast<std::size_t>(material) >= m_model.materials.size())
            return kUnpainted;
        const auto& base = m_model.materials[static_cast<std::size_t>(material)].pbrMetallicRoughness.baseColorFactor;
        return base.size() < 3 ? kUnpainted : Rgb{toSrgb(base[0]), toSrgb(base[1]), toSrgb(base[2])};
    }

    bool addPrimitive(const tinygltf::Primitive& primitive, const glm::mat4& transform)
    {
        if (primitive.mode != TINYGLTF_MODE_TRIANGLES && primitive.mode != -1)
            return true; // lines and points have no surface
        const auto named = primitive.attributes.find("POSITION");
        const auto* places = accessor(named == primitive.attributes.end() ? -1 : named->second);
        const auto* indices = accessor(primitive.indices);
        if (!places || places->componentType != TINYGLTF_COMPONENT_TYPE_FLOAT || places->type != TINYGLTF_TYPE_VEC3
            || (primitive.indices >= 0 && !indices))
            return false;
        const Rgb colour = colourOf(primitive.material);
        const std::size_t count = (indices ? indices : places)->count;
        for (std::size_t i = 0; i + 2 < count && m_out.size() <= kMaxShapeTriangles; i += 3) {
            std::array<glm::vec3, 3> corners{};
            for (std::size_t corner = 0; corner < 3; ++corner) {
                const auto number = vertexNumber(indices, i + corner);
                const unsigned char* bytes = number ? element(*places, *number, 12) : nullptr;
                if (!bytes)
                    return false;
                float p[3];
                std::memcpy(p, bytes, sizeof p);
                corners[corner] = glm::vec3(transform * glm::vec4(p[0], p[1], p[2], 1));
            }
            addTriangle(m_out, corners, colour);
        }
        return true;
    }

    const tinygltf::Model& m_model;
    std::vector<ShapeTriangle>& m_out;
    int m_nodes = 0; // visited
};

std::optional<Problem> readGltf(const std::filesystem::path& file, std::vector<ShapeTriangle>& out)
{
    tinygltf::TinyGLTF reader;
    // Pictures are not read: blocks have their own textures.
    reader.SetImageLoader([](tinygltf::Image*, int, std::string*, std::string*, int, int, const unsigned char*, int,
                              void*) { return true; },
        nullptr);
    tinygltf::Model model;
    std::string error, warning;
    const bool good = file.extension() == ".glb" ? reader.LoadBinaryFromFile(&model, &error, &warning, file.string())
                                                 : reader.LoadASCIIFromFile(&model, &error, &warning, file.string());
    if (!good)
        return wrong(file, "is no glTF 2.0 model: " + error.substr(0, error.find('\n')));
    if (!GltfTriangles(model, out).read())
        return wrong(file, "is a damaged glTF model: it refers to data that it does not hold");
    return std::nullopt;
}

std::optional<Problem> readObj(const std::filesystem::path& file, std::vector<ShapeTriangle>& out)
{
    tinyobj::ObjReaderConfig config;
    config.triangulate = true;
    tinyobj::ObjReader reader;
    if (!reader.ParseFromFile(file.string(), config))
        return wrong(file, "is no OBJ model: " + reader.Error().substr(0, reader.Error().find('\n')));
    const auto& places = reader.GetAttrib().vertices;
    const auto byte = [](double c) { return static_cast<std::uint8_t>(std::lround(255 * std::clamp(c, 0.0, 1.0))); };
    for (const auto& shape : reader.GetShapes())
        for (std::size_t face = 0; face * 3 + 2 < shape.mesh.indices.size() && out.size() <= kMaxShapeTriangles;
             ++face) {
            std::array<glm::vec3, 3> corners{};
            for (std::size_t i = 0; i < 3; ++i) {
                const int index = shape.mesh.indices[face * 3 + i].vertex_index;
                if (index < 0 || static_cast<std::size_t>(index) * 3 + 2 >= places.size())
                    return wrong(file, "is a damaged OBJ model: a face names a vertex that is not there");
                corners[i] = glm::make_vec3(&places[static_cast<std::size_t>(index) * 3]);
            }
            const int material = face < shape.mesh.material_ids.size() ? shape.mesh.material_ids[face] : -1;
            Rgb colour = kUnpainted;
            if (material >= 0 && static_cast<std::size_t>(material) < reader.GetMaterials().size()) {
                const auto& diffuse = reader.GetMaterials()[static_cast<std::size_t>(material)].diffuse;
                colour = {byte(diffuse[0]), byte(diffuse[1]), byte(diffuse[2])};
            }
            addTriangle(out, corners, colour);
        }
    return std::nullopt;
}

} // namespace

Outcome<BlockShape> loadShape(const std::filesystem::path& file)
{
    const std::string kind = file.extension().string();
    if (kind != ".gltf" && kind != ".glb" && kind != ".obj")
        return wrong(file, "is no model that is read here, allowed are .gltf, .glb or .obj");
    std::error_code error;
    if (!std::filesystem::is_regular_file(file, error))
        return wrong(file, "there is no such model");
    std::vector<ShapeTriangle> triangles;
    if (auto problem = kind == ".obj" ? readObj(file, triangles) : readGltf(file, triangles))
        return *problem;
    if (triangles.empty())
        return wrong(file, "holds no triangle");
    if (triangles.size() > kMaxShapeTriangles)
        return wrong(file, "holds more than " + std::to_string(kMaxShapeTriangles) + " triangles, the most allowed");
    for (const auto& triangle : triangles)
        for (const auto& corner : triangle.corners)
            for (int axis = 0; axis < 3; ++axis)
                if (!(std::fabs(corner[axis] - 0.5F) <= kFarthestShape)) // also where it is no number
                    return wrong(file, "reaches farther than 8 voxels from its own, the most allowed");
    return shapeFrom(std::move(triangles));
}

} // namespace fell::assets
