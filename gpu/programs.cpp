// SPDX-License-Identifier: Apache-2.0
#include "gpu/programs.h"

#include "gpu/program.h"
#include "gpu/shader_texts.h"

#include <epoxy/gl.h>
#include <glm/gtc/type_ptr.hpp>

namespace fell {

Programs::~Programs()
{
    for (const auto& [key, linked] : m_linked)
        glDeleteProgram(linked.program);
}

Outcome<unsigned> Programs::link(const ProgramKey& key)
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
    defines += "#define LAMPS " + std::to_string(key.lamps) + "\n#define SKIES " + std::to_string(key.skies)
        + "\n#define CHANNELS " + std::to_string(key.lamps + key.skies) + "\n";
    if (key.lamps + key.skies > 0 && key.light != Light::Even)
        defines += key.light == Light::Cells ? "#define CELLS\n" : "#define GRADED\n";
    if (key.rims)
        defines += "#define RIMS\n";
    auto program = linkProgram(shapes ? "shapes" : "terrain", shapes ? shaders::shape_vert : shaders::terrain_vert,
        shaders::terrain_frag, defines);
    if (program)
        m_linked[key] = {program.value(), 0};
    return program;
}

std::optional<Problem> Programs::prepare()
{
    using V = ProgramKey::Vertices;
    using L = ProgramKey::Light;
    for (const V vertices : {V::Floats, V::Corners, V::Packed, V::Shapes})
        for (const bool overlay : {false, true})
            if (const auto program = link({vertices, false, overlay, 0, 0}); !program)
                return program.problem();
    for (const V vertices : {V::Floats, V::Corners, V::Packed})
        if (const auto program = link({vertices, true, false, 0, 0}); !program)
            return program.problem();
    // Of those with light one of each kind: a driver that takes one takes the others.
    for (const int skies : {1, 3})
        for (const V vertices : {V::Corners, V::Shapes})
            if (const auto program = link({vertices, false, true, 3, skies}); !program)
                return program.problem();
    for (const L light : {L::Even, L::Corners, L::Cells})
        if (const auto program = link({V::Corners, false, light != L::Even, 3, 1, true, light}); !program)
            return program.problem();
    return std::nullopt;
}

void Programs::use(const ProgramKey& key, const FrameUniforms& uniforms, std::uint64_t frame)
{
    auto found = m_linked.find(key);
    if (found == m_linked.end()) {
        if (const auto program = link(key); !program) // its parts compiled in prepare(); their union was refused
            m_trouble = program.problem();
        found = m_linked.try_emplace(key).first;
    }
    Linked& linked = found->second;
    glUseProgram(linked.program);
    if (linked.frame == frame)
        return;
    linked.frame = frame;
    const auto at = [&linked](const char* name) { return glGetUniformLocation(linked.program, name); };
    glUniformMatrix4fv(at("viewProjection"), 1, GL_FALSE, glm::value_ptr(uniforms.toClip));
    glUniform3fv(at("eye"), 1, glm::value_ptr(uniforms.eye));
    glUniform3fv(at("sun"), 1, glm::value_ptr(uniforms.sun));
    glUniform3fv(at("sunlight"), 1, glm::value_ptr(uniforms.sunlight));
    glUniform3fv(at("skylight"), 1, glm::value_ptr(uniforms.skylight));
    glUniform3fv(at("horizon"), 1, glm::value_ptr(uniforms.horizon));
    glUniform3fv(at("zenith"), 1, glm::value_ptr(uniforms.zenith));
    glUniform2fv(at("fog"), 1, glm::value_ptr(uniforms.fog));
    if (key.overlay) {
        glUniform1i(at("paint"), uniforms.paint);
        glUniform1i(at("channel"), uniforms.channel);
        glUniform3iv(at("levelsLow"), 1, glm::value_ptr(uniforms.levelsLow));
        glUniform1i(at("wireframe"), uniforms.wireframe);
        glUniform3fv(at("wire"), 1, glm::value_ptr(uniforms.wire));
        glUniform4fv(at("ghost"), 1, glm::value_ptr(uniforms.ghost));
        glUniform1i(at("stripes"), uniforms.stripes);
    }
}

} // namespace fell
