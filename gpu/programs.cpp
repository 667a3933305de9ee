// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/programs.h>

namespace fell::gpu {

namespace {

ProgramSource sourceOf(const ProgramKey& key)
{
    using Light = ProgramKey::Light;
    const bool shapes = key.vertices == ProgramKey::Vertices::Shapes;
    std::string defines = "#define LAYOUT " + std::to_string(static_cast<int>(key.vertices)) + "\n";
    if (key.instanced)
        defines += "#define INSTANCED\n";
    if (key.overlay)
        defines += "#define OVERLAY\n";
    if (shapes)
        defines += "#define SHAPES\n";
    if (key.triangles != ProgramKey::Triangles::Listed)
        defines += key.triangles == ProgramKey::Triangles::Pulled ? "#define PULLED\n" : "#define INDEXED\n";
    defines += "#define LAMPS " + std::to_string(key.lamps) + "\n#define SKIES " + std::to_string(key.skies)
        + "\n#define CHANNELS " + std::to_string(key.lamps + key.skies) + "\n";
    if (key.lamps + key.skies > 0 && key.light != Light::Even)
        defines += key.light == Light::Cells ? "#define CELLS\n" : "#define GRADED\n";
    if (key.blends)
        defines += "#define BLENDS\n";
    if (key.rims)
        defines += "#define RIMS\n";
    return {shapes ? "shapes" : "terrain",
        {{ShaderStage::Vertex, shapes ? "shape.vert.glsl" : "terrain.vert.glsl"},
            {ShaderStage::Fragment, "terrain.frag.glsl"}},
        defines, {{"paint_textures.glsl", paintMode(key.paint).file}}};
}

} // namespace

Outcome<Program> Programs::linked(const ProgramSource& source) const
{
    const auto program = m_library.link(source);
    if (!program)
        return program.problem();
    return Program(m_table, program.value());
}

std::shared_ptr<const Program> Programs::add(ProgramSource source)
{
    auto program = linked(source);
    const auto out = std::make_shared<Program>();
    if (program)
        *out = program.take();
    else
        m_trouble = program.problem();
    m_ofPasses.push_back({std::move(source), out});
    return out;
}

std::optional<Problem> Programs::relink()
{
    std::map<ProgramKey, Program> all;
    std::vector<Program> ofPasses;
    for (const OfPass& one : m_ofPasses) {
        auto program = linked(one.source);
        if (!program)
            return program.problem();
        ofPasses.push_back(program.take());
    }
    for (const auto& [key, old] : m_linked) {
        auto program = linked(sourceOf(key));
        if (!program)
            return program.problem();
        all.emplace(key, program.take());
    }
    m_linked = std::move(all);
    for (std::size_t i = 0; i < ofPasses.size(); ++i)
        *m_ofPasses[i].program = std::move(ofPasses[i]);
    m_trouble.reset();
    return std::nullopt;
}

std::optional<Problem> Programs::prepare()
{
    if (auto trouble = takeTrouble()) // of the passes
        return trouble;
    using V = ProgramKey::Vertices;
    using L = ProgramKey::Light;
    using T = ProgramKey::Triangles;
    std::vector<ProgramKey> keys;
    for (const V vertices : {V::Floats, V::Corners, V::Packed, V::Shapes})
        for (const bool overlay : {false, true})
            keys.push_back({vertices, false, T::Listed, overlay, 0, 0});
    for (const V vertices : {V::Floats, V::Corners, V::Packed})
        keys.push_back({vertices, true, T::Listed, false, 0, 0});
    // Of those with light one of each kind: a driver that takes one takes the others.
    for (const int skies : {1, 3})
        for (const V vertices : {V::Corners, V::Shapes})
            keys.push_back({vertices, false, T::Listed, true, 3, skies});
    for (const T triangles : {T::Indexed, T::Pulled})
        keys.push_back({V::Shapes, false, triangles, triangles == T::Pulled, 3, 1});
    for (const L light : {L::Even, L::Corners, L::Cells})
        keys.push_back({V::Corners, false, T::Listed, light != L::Even, 3, 1, true, light});
    for (const PaintMode& mode : paintModes())
        keys.push_back({V::Corners, false, T::Listed, true, 0, 0, false, L::Corners, mode.paint});
    for (const ProgramKey& key : keys) {
        auto program = linked(sourceOf(key));
        if (!program)
            return program.problem();
        m_linked[key] = program.take();
    }
    return std::nullopt;
}

void Programs::use(const ProgramKey& key)
{
    auto found = m_linked.find(key);
    if (found == m_linked.end()) {
        auto program = linked(sourceOf(key));
        if (!program) // its parts compiled in prepare(); their union was refused
            m_trouble = program.problem();
        found = m_linked.emplace(key, program ? program.take() : Program()).first;
    }
    glUseProgram(found->second.id());
}

} // namespace fell::gpu
