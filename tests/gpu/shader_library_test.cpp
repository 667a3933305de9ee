// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/headless.h>
#include <fell/gpu/shader_library.h>

#include "picture_fixture.h"
#include "support/all_names.h"
#include "support/temp_folder.h"

#include <epoxy/gl.h>

namespace fell::shader_library_test {
namespace {

std::string expandedIn(
    const test::TempFolder& folder, const char* file, const std::map<std::string, std::string>& inPlaceOf = {})
{
    std::vector<std::string> files;
    const auto text = ShaderLibrary(folder.path()).expanded(file, inPlaceOf, files);
    return text ? text.value() : sentence(text.problem());
}

TEST(ShaderLibrary, IncludesFilesOnceWithTheirLines)
{
    const test::TempFolder folder;
    (void)folder.write("a.glsl", "one\n#include \"b.glsl\"\ntwo\n#include \"c.glsl\"\nthree\n");
    (void)folder.write("b.glsl", "bee\n#include \"c.glsl\"\nbuzz\n");
    (void)folder.write("c.glsl", "sea\n");
    EXPECT_EQ(expandedIn(folder, "a.glsl"),
        "#line 1 0\none\n#line 1 1\nbee\n#line 1 2\nsea\n#line 3 1\nbuzz\n#line 3 0\ntwo\n#line 5 0\nthree\n");
}

TEST(ShaderLibrary, AFileCanStandInForAnother)
{
    const test::TempFolder folder;
    (void)folder.write("a.glsl", "#include \"b.glsl\"\n");
    (void)folder.write("b.glsl", "bee\n");
    (void)folder.write("other.glsl", "wasp\n");
    EXPECT_NE(expandedIn(folder, "a.glsl", {{"b.glsl", "other.glsl"}}).find("wasp"), std::string::npos);
    EXPECT_EQ(expandedIn(folder, "a.glsl", {{"b.glsl", "other.glsl"}}).find("bee"), std::string::npos);
}

TEST(ShaderLibrary, SaysWhatIsMissingAndWhatGoesInCircles)
{
    const test::TempFolder folder;
    (void)folder.write("a.glsl", "#include \"gone.glsl\"\n");
    EXPECT_NE(expandedIn(folder, "a.glsl").find("gone.glsl"), std::string::npos);
    (void)folder.write("b.glsl", "#include \"c.glsl\"\n");
    (void)folder.write("c.glsl", "#include \"b.glsl\"\n");
    EXPECT_NE(expandedIn(folder, "b.glsl").find("includes itself"), std::string::npos);
}

class Linking : public test::PictureTest { };

TEST(LinkingAMistake, IsToldWithItsFileAndLine)
{
    const auto context = HeadlessContext::create(); // not the fixture's, which fails where the driver complains
    ASSERT_TRUE(context) << sentence(context.problem());
    const test::TempFolder folder;
    (void)folder.write("v.glsl", "void main() { gl_Position = vec4(0); }\n");
    (void)folder.write("f.glsl", "#include \"part.glsl\"\nout vec4 c;\nvoid main() { c = vec4(1); }\n");
    (void)folder.write("part.glsl", "float good() { return 1.0; }\nfloat bad() { return gold; }\n");
    const auto linked = ShaderLibrary(folder.path())
                            .link({"x", {{ShaderStage::Vertex, "v.glsl"}, {ShaderStage::Fragment, "f.glsl"}}, {}});
    ASSERT_FALSE(linked);
    EXPECT_NE(sentence(linked.problem()).find("part.glsl:2"), std::string::npos) << sentence(linked.problem());
}

TEST_F(Linking, ComputeShadersAreLinkedAndRun)
{
    const test::TempFolder folder;
    (void)folder.write("c.glsl",
        "layout(local_size_x = 8) in;\nlayout(std430, binding = 0) buffer Out { uint numbers[]; };\n"
        "void main() { numbers[gl_GlobalInvocationID.x] = gl_GlobalInvocationID.x * FACTOR; }\n");
    const auto linked
        = ShaderLibrary(folder.path()).link({"c", {{ShaderStage::Compute, "c.glsl"}}, "#define FACTOR 3u\n"});
    ASSERT_TRUE(linked) << sentence(linked.problem());
    GLuint buffer = 0;
    glCreateBuffers(1, &buffer);
    std::array<std::uint32_t, 16> numbers{};
    glNamedBufferData(buffer, sizeof numbers, numbers.data(), GL_DYNAMIC_READ);
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 0, buffer);
    glUseProgram(linked.value());
    glDispatchCompute(2, 1, 1);
    glMemoryBarrier(GL_BUFFER_UPDATE_BARRIER_BIT);
    glGetNamedBufferSubData(buffer, 0, sizeof numbers, numbers.data());
    for (std::uint32_t i = 0; i < numbers.size(); ++i)
        EXPECT_EQ(numbers[i], 3 * i);
    glDeleteBuffers(1, &buffer);
    glDeleteProgram(linked.value());
}

} // namespace
} // namespace fell::shader_library_test
