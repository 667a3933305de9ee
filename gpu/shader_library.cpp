// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/shader_library.h>

#include <fell/input/text_file.h>

#include <epoxy/gl.h>

#include <algorithm>
#include <cstdlib>
#include <optional>
#include <sstream>

namespace fell::gpu {
namespace {

GLenum stageOf(ShaderStage stage)
{
    return stage == ShaderStage::Vertex  ? GL_VERTEX_SHADER
        : stage == ShaderStage::Fragment ? GL_FRAGMENT_SHADER
                                         : GL_COMPUTE_SHADER;
}

/// Drivers say "2:14" or "2(14)" of line 14 of source 2: the name of the file in place of its number.
std::string withNames(const std::string& log, const std::vector<std::string>& files)
{
    std::ostringstream out;
    std::istringstream lines(log);
    for (std::string line; std::getline(lines, line);) {
        const std::size_t end = line.find_first_of(":(");
        const bool isNumber = end != std::string::npos && end > 0
            && std::all_of(line.begin(), line.begin() + static_cast<std::ptrdiff_t>(end),
                [](char c) { return c >= '0' && c <= '9'; });
        const std::size_t number = isNumber ? std::stoul(line.substr(0, end)) : files.size();
        out << (number < files.size() ? files[number] + line.substr(end) : line) << '\n';
    }
    return out.str();
}

template <typename Get, typename Log> std::string logOf(GLuint of, const Get& get, const Log& log)
{
    GLint length = 0;
    get(of, GL_INFO_LOG_LENGTH, &length);
    std::string text(static_cast<std::size_t>(std::max(length, 1)), '\0');
    log(of, length, nullptr, text.data());
    text.resize(std::min(text.size(), text.find('\0')));
    return text;
}

Outcome<GLuint> compile(
    const std::string& label, GLenum kind, const std::string& whole, const std::vector<std::string>& files)
{
    const char* const text = whole.c_str();
    const GLuint shader = glCreateShader(kind);
    glShaderSource(shader, 1, &text, nullptr);
    glCompileShader(shader);
    GLint good = 0;
    glGetShaderiv(shader, GL_COMPILE_STATUS, &good);
    if (good)
        return shader;
    const std::string log = withNames(logOf(shader, glGetShaderiv, glGetShaderInfoLog), files);
    glDeleteShader(shader);
    return Problem{"the graphics driver", "", "does not compile the shader " + label + ": " + log};
}

std::optional<std::string> includedBy(const std::string& line)
{
    constexpr std::string_view kInclude = "#include \"";
    if (!line.starts_with(kInclude) || line.back() != '"')
        return std::nullopt;
    return line.substr(kInclude.size(), line.size() - kInclude.size() - 1);
}

} // namespace

std::filesystem::path shaderFolder()
{
    const char* folder = std::getenv("FELL_SHADERS");
    return folder ? folder : "";
}

std::optional<Problem> checkShaderFolder(const std::filesystem::path& folder)
{
    std::error_code error;
    for (const ShaderText& one : shaderTexts())
        if (!std::filesystem::is_regular_file(folder / one.name, error))
            return Problem{folder.string(), "",
                std::string("contains no ") + one.name + "; fell-app --write-shaders FOLDER writes all shaders"};
    return std::nullopt;
}

std::optional<Problem> writeShaders(const std::filesystem::path& folder)
{
    std::error_code error;
    for (const ShaderText& one : shaderTexts())
        if (std::filesystem::exists(folder / one.name, error))
            return Problem{(folder / one.name).string(), "", "exists already; name a folder without shaders"};
    std::filesystem::create_directories(folder, error);
    for (const ShaderText& one : shaderTexts())
        if (auto problem = writeFile(folder / one.name, one.text))
            return problem;
    return std::nullopt;
}

ShaderLibrary::ShaderLibrary()
    : m_folder(shaderFolder())
{
}

Outcome<std::string> ShaderLibrary::text(const std::string& file) const
{
    if (!m_folder.empty())
        return readFile(m_folder / file);
    const auto texts = shaderTexts();
    const auto found
        = std::find_if(texts.begin(), texts.end(), [&file](const ShaderText& one) { return file == one.name; });
    if (found == texts.end())
        return Problem{"shader " + file, "", "is not among those that were built in"};
    return std::string(found->text);
}

std::optional<Problem> ShaderLibrary::append(const std::string& file,
    const std::map<std::string, std::string>& inPlaceOf, std::vector<std::string>& open,
    std::vector<std::string>& files, std::string& out) const
{
    if (std::find(open.begin(), open.end(), file) != open.end())
        return Problem{"shader " + file, "", "includes itself"};
    auto text = this->text(file);
    if (!text)
        return text.problem();
    open.push_back(file);
    const std::size_t number = files.size();
    files.push_back(file);
    const auto lineIs = [&](int line) { out += "#line " + std::to_string(line) + " " + std::to_string(number) + "\n"; };
    lineIs(1);
    std::istringstream lines(text.value());
    int at = 0;
    for (std::string line; std::getline(lines, line);) {
        ++at;
        const auto included = includedBy(line);
        if (!included) {
            out += line + "\n";
            continue;
        }
        const auto other = inPlaceOf.find(*included);
        const std::string& wanted = other == inPlaceOf.end() ? *included : other->second;
        const bool isThere = std::find(files.begin(), files.end(), wanted) != files.end()
            && std::find(open.begin(), open.end(), wanted) == open.end();
        if (!isThere)
            if (auto problem = append(wanted, inPlaceOf, open, files, out))
                return problem;
        lineIs(at + 1);
    }
    open.pop_back();
    return std::nullopt;
}

Outcome<std::string> ShaderLibrary::expanded(
    const std::string& file, const std::map<std::string, std::string>& inPlaceOf, std::vector<std::string>& files) const
{
    std::string out;
    std::vector<std::string> open;
    files.clear();
    if (auto problem = append(file, inPlaceOf, open, files, out))
        return *problem;
    return out;
}

Outcome<unsigned> ShaderLibrary::link(const ProgramSource& source) const
{
    std::vector<GLuint> shaders;
    const auto dropShaders = [&shaders] {
        for (const GLuint shader : shaders)
            glDeleteShader(shader);
    };
    for (const auto& [stage, file] : source.stages) {
        std::vector<std::string> files;
        const auto text = expanded(file, source.inPlaceOf, files);
        if (!text) {
            dropShaders();
            return text.problem();
        }
        const auto shader
            = compile(source.label, stageOf(stage), "#version 450 core\n" + source.defines + text.value(), files);
        if (!shader) {
            dropShaders();
            return shader.problem();
        }
        shaders.push_back(shader.value());
    }
    const GLuint program = glCreateProgram();
    for (const GLuint shader : shaders)
        glAttachShader(program, shader);
    glLinkProgram(program);
    dropShaders();
    GLint good = 0;
    glGetProgramiv(program, GL_LINK_STATUS, &good);
    glObjectLabel(GL_PROGRAM, program, -1, source.label.c_str());
    if (good)
        return program;
    const std::string log = logOf(program, glGetProgramiv, glGetProgramInfoLog);
    glDeleteProgram(program);
    return Problem{"the graphics driver", "", "does not link the program " + source.label + ": " + log};
}

} // namespace fell::gpu
