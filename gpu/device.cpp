// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/device.h>

#include <epoxy/gl.h>

#include <algorithm>

namespace fell::gpu {

Outcome<Device> deviceOf(const GpuLimits& atMost)
{
    if (epoxy_gl_version() < 45)
        return Problem{"the graphics driver", "",
            "offers OpenGL " + std::to_string(epoxy_gl_version() / 10) + "." + std::to_string(epoxy_gl_version() % 10)
                + ", Fell draws with 4.5 core; on Debian the package libgl1-mesa-dri brings a driver that has it"};
    Device device{atMost, {}, false};
    GLint texels = 0, layers = 0;
    glGetIntegerv(GL_MAX_TEXTURE_BUFFER_SIZE, &texels);
    glGetIntegerv(GL_MAX_ARRAY_TEXTURE_LAYERS, &layers);
    device.limits.textureBufferTexels = std::min<std::int64_t>(atMost.textureBufferTexels, texels);
    device.limits.arrayLayers = std::min<std::int64_t>(atMost.arrayLayers, layers);
    float max = 1; // asking a driver that does not know it is an error
    if (epoxy_gl_version() >= 46 || epoxy_has_gl_extension("GL_EXT_texture_filter_anisotropic")
        || epoxy_has_gl_extension("GL_ARB_texture_filter_anisotropic"))
        glGetFloatv(GL_MAX_TEXTURE_MAX_ANISOTROPY, &max);
    device.limits.anisotropy = std::min(atMost.anisotropy, max);
    const auto* name = reinterpret_cast<const char*>(glGetString(GL_RENDERER));
    device.driver = name ? name : "unnamed";
    device.isSoftware
        = device.driver.find("llvmpipe") != std::string::npos || device.driver.find("softpipe") != std::string::npos;
    if (device.isSoftware)
        device.driver = "software rasteriser " + device.driver;
    return device;
}

void waitAtFence()
{
    constexpr GLuint64 kLong = 1'000'000'000; // ns; a driver that takes longer is asked again
    const GLsync fence = glFenceSync(GL_SYNC_GPU_COMMANDS_COMPLETE, 0);
    GLenum said = GL_TIMEOUT_EXPIRED;
    for (int tries = 0; fence && said == GL_TIMEOUT_EXPIRED && tries < 30; ++tries)
        said = glClientWaitSync(fence, GL_SYNC_FLUSH_COMMANDS_BIT, kLong);
    if (said != GL_ALREADY_SIGNALED && said != GL_CONDITION_SATISFIED)
        glFinish();
    glDeleteSync(fence);
}

} // namespace fell::gpu
