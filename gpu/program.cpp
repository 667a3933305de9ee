// SPDX-License-Identifier: Apache-2.0
#include "gpu/program.h"

#include <epoxy/gl.h>

namespace fell {
namespace {

Outcome<unsigned> compile(const std::string& label, GLenum kind, const std::string& defines, const char* text)
{
    const std::string whole = "#version 450 core\n" + defines + text;
    const char* const wholeText = whole.c_str();
    const GLuint shader = glCreateShader(kind);
    glShaderSource(shader, 1, &wholeText, nullptr);
    glCompileShader(shader);
    GLint good = 0;
    glGetShaderiv(shader, GL_COMPILE_STATUS, &good);
    if (good)
        return shader;
    char log[2000] = "";
    glGetShaderInfoLog(shader, sizeof log, nullptr, log);
    glDeleteShader(shader);
    return Problem{"the graphics driver", "", "does not compile the shader " + label + ": " + log};
}

} // namespace

Outcome<unsigned> linkProgram(
    const std::string& label, const char* vertexText, const char* fragmentText, const std::string& defines)
{
    const auto vertex = compile(label, GL_VERTEX_SHADER, defines, vertexText);
    if (!vertex)
        return vertex.problem();
    const auto fragment = compile(label, GL_FRAGMENT_SHADER, defines, fragmentText);
    if (!fragment) {
        glDeleteShader(vertex.value());
        return fragment.problem();
    }
    const GLuint program = glCreateProgram();
    glAttachShader(program, vertex.value());
    glAttachShader(program, fragment.value());
    glLinkProgram(program);
    glDeleteShader(vertex.value());
    glDeleteShader(fragment.value());
    GLint good = 0;
    glGetProgramiv(program, GL_LINK_STATUS, &good);
    glObjectLabel(GL_PROGRAM, program, -1, label.c_str());
    if (good)
        return program;
    char log[2000] = "";
    glGetProgramInfoLog(program, sizeof log, nullptr, log);
    glDeleteProgram(program);
    return Problem{"the graphics driver", "", "does not link the program " + label + ": " + log};
}

} // namespace fell
