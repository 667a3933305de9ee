// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/headless.h>

#include <epoxy/egl.h>

#include <cstring>
#include <sys/resource.h>

namespace fell::gpu {
namespace {

Problem lacking(const std::string& what)
{
    return {"the graphics driver", "", what + "; on Debian the packages libegl1 and libgl1-mesa-dri help"};
}

bool offers(const char* list, const char* name)
{
    return list && std::strstr(list, name);
}

/// All EGL devices; none where the extensions are not there.
std::vector<EGLDeviceEXT> eglDevices()
{
    const char* list = eglQueryString(EGL_NO_DISPLAY, EGL_EXTENSIONS);
    if (!offers(list, "EGL_EXT_device_enumeration") && !offers(list, "EGL_EXT_device_base"))
        return {};
    EGLint count = 0;
    if (!eglQueryDevicesEXT(0, nullptr, &count) || count <= 0)
        return {};
    std::vector<EGLDeviceEXT> out(static_cast<std::size_t>(count));
    if (!eglQueryDevicesEXT(count, out.data(), &count))
        return {};
    out.resize(static_cast<std::size_t>(count));
    return out;
}

EGLDisplay displayOf(EGLDeviceEXT device)
{
    return offers(eglQueryString(EGL_NO_DISPLAY, EGL_EXTENSIONS), "EGL_EXT_platform_device")
        ? eglGetPlatformDisplayEXT(EGL_PLATFORM_DEVICE_EXT, device, nullptr)
        : EGL_NO_DISPLAY;
}

EGLDisplay surfacelessDisplay()
{
    // libepoxy aborts in eglGetPlatformDisplay where only the extension is there, so the extension it is.
    if (!offers(eglQueryString(EGL_NO_DISPLAY, EGL_EXTENSIONS), "EGL_MESA_platform_surfaceless"))
        return EGL_NO_DISPLAY;
    return eglGetPlatformDisplayEXT(EGL_PLATFORM_SURFACELESS_MESA, EGL_DEFAULT_DISPLAY, nullptr);
}

} // namespace

std::vector<std::string> HeadlessContext::devices()
{
    std::vector<std::string> out;
    for (const EGLDeviceEXT device : eglDevices()) {
        const char* extensions = eglQueryDeviceStringEXT(device, EGL_EXTENSIONS);
        const char* file = offers(extensions, "EGL_EXT_device_drm")
            ? eglQueryDeviceStringEXT(device, EGL_DRM_DEVICE_FILE_EXT)
            : nullptr;
        out.emplace_back(file ? file : offers(extensions, "EGL_MESA_device_software") ? "software" : "unnamed");
    }
    return out;
}

Outcome<std::unique_ptr<HeadlessContext>> HeadlessContext::create(int device, bool isDebug)
{
    // Drivers compile shaders with libraries that do not survive a refused allocation.
    constexpr rlim_t kMinSpace = rlim_t{1} << 30;
    rlimit space{};
    if (::getrlimit(RLIMIT_AS, &space) == 0 && space.rlim_cur < kMinSpace)
        return Problem{"this machine", "",
            "limits the address space to " + std::to_string(space.rlim_cur >> 20)
                + " MiB, which is too little to draw in: raise it to 1024 MiB (ulimit -v 1048576)"};
    const auto all = device >= 0 ? eglDevices() : std::vector<EGLDeviceEXT>{};
    if (device >= 0 && static_cast<std::size_t>(device) >= all.size())
        return Problem{"--device " + std::to_string(device), "",
            all.empty() ? "this driver lists no devices: leave it out"
                        : "there are " + std::to_string(all.size()) + ", counted from 0; --device list shows them"};
    const EGLDisplay display = device >= 0 ? displayOf(all[static_cast<std::size_t>(device)]) : surfacelessDisplay();
    if (display == EGL_NO_DISPLAY || !eglInitialize(display, nullptr, nullptr))
        return lacking("offers no EGL surfaceless platform, which drawing without a window needs");
    if (!eglBindAPI(EGL_OPENGL_API))
        return lacking("offers no OpenGL through EGL");
    const EGLint wanted[]{EGL_CONTEXT_MAJOR_VERSION, 4, EGL_CONTEXT_MINOR_VERSION, 5, EGL_CONTEXT_OPENGL_PROFILE_MASK,
        EGL_CONTEXT_OPENGL_CORE_PROFILE_BIT, EGL_CONTEXT_OPENGL_DEBUG, isDebug ? EGL_TRUE : EGL_FALSE, EGL_NONE};
    const EGLContext made = eglCreateContext(display, EGL_NO_CONFIG_KHR, EGL_NO_CONTEXT, wanted);
    if (made == EGL_NO_CONTEXT)
        return lacking("offers no OpenGL 4.5 core, which Fell draws with");
    if (!eglMakeCurrent(display, EGL_NO_SURFACE, EGL_NO_SURFACE, made)) {
        eglDestroyContext(display, made);
        return lacking("cannot draw without a surface");
    }
    std::unique_ptr<HeadlessContext> context(new HeadlessContext);
    context->m_display = display;
    context->m_context = made;
    return context;
}

HeadlessContext::~HeadlessContext()
{
    eglMakeCurrent(m_display, EGL_NO_SURFACE, EGL_NO_SURFACE, EGL_NO_CONTEXT);
    eglDestroyContext(m_display, m_context); // the display stays: another context of this process may use it
}

} // namespace fell::gpu
