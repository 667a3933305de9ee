// SPDX-License-Identifier: GPL-3.0-or-later
// Shaders from a folder: what an editor writes there is seen in the field.
#include "window_fixture.h"

#include <fell/gpu/shader_library.h>

#include <fstream>
#include <gtest/gtest.h>

namespace fell::shader_window_test {
namespace {

class ShaderWindowTest : public WindowTest {
protected:
    void SetUp() override
    {
        ASSERT_EQ(writeShaders(m_folder.path()), std::nullopt);
        qputenv("FELL_SHADERS", QByteArray::fromStdString(m_folder.path().string()));
        WindowTest::SetUp();
    }
    ~ShaderWindowTest() override { qunsetenv("FELL_SHADERS"); }

    /// As an editor does it: another file of the same name.
    void write(const std::string& text) const
    {
        const auto half = m_folder.path() / "sky.frag.glsl.new";
        std::ofstream(half) << text;
        std::filesystem::rename(half, m_folder.path() / "sky.frag.glsl");
    }
    bool says(const char* part)
    {
        return becomes([&] { return m_window->banner().isVisible() && m_window->banner().text().contains(part); });
    }
    static bool isRed(const QColor& colour) { return colour.red() > 200 && colour.green() < 60 && colour.blue() < 60; }
    QColor sky() { return fieldPicture().pixelColor(m_window->field().width() / 2, 60); }

    test::TempFolder m_folder;
};

TEST_F(ShaderWindowTest, AChangedShaderIsDrawnWithAndABrokenOneIsSaidWithFileAndLine)
{
    EXPECT_FALSE(isRed(sky()));
    write("in vec3 direction;\nout vec4 picture;\nvoid main() { picture = vec4(1, 0, 0, 1); }\n");
    ASSERT_TRUE(says("The changed shaders are in use")) << m_window->banner().text().toStdString();
    EXPECT_TRUE(becomes([&] { return isRed(sky()); }));

    write("out vec4 picture;\nvoid main() { picture = vec4(gold, 1); }\n");
    ASSERT_TRUE(says("sky.frag.glsl:2")) << m_window->banner().text().toStdString();
    EXPECT_TRUE(m_window->banner().text().endsWith("; the field is drawn as before"));
    m_window->session().eye.yaw += 1; // the field is drawn again
    QTest::qWait(500);
    EXPECT_TRUE(isRed(sky()));

    write("out vec4 picture;\nvoid main() { picture = vec4(0, 0, 1, 1); }\n");
    ASSERT_TRUE(says("The changed shaders are in use"));
    EXPECT_TRUE(becomes([&] { return sky().blue() > 200 && sky().red() < 60; }));
}

TEST(ShaderFolder, LacksNothingAndWritesOverNothing)
{
    const test::TempFolder folder;
    const auto missing = checkShaderFolder(folder.path());
    ASSERT_TRUE(missing);
    EXPECT_NE(sentence(*missing).find("fell-app --write-shaders"), std::string::npos) << sentence(*missing);
    (void)folder.write("sky.frag.glsl", "mine");
    const auto refused = writeShaders(folder.path());
    ASSERT_TRUE(refused);
    EXPECT_TRUE(sentence(*refused).ends_with("sky.frag.glsl: exists already; name a folder without shaders"))
        << sentence(*refused);
    const auto files = std::filesystem::directory_iterator(folder.path());
    EXPECT_EQ(std::distance(begin(files), end(files)), 1);
    EXPECT_EQ(writeShaders(folder.path() / "new"), std::nullopt);
    EXPECT_EQ(checkShaderFolder(folder.path() / "new"), std::nullopt);
}

} // namespace
} // namespace fell::shader_window_test
