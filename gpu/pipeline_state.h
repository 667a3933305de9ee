// SPDX-License-Identifier: Apache-2.0
// The fixed state that a pass draws with, set whole: nothing is inherited from the pass before. Private to gpu/.
#pragma once

#include <fell/namespaces.h>

#include <epoxy/gl.h>

#include <cstdint>

namespace fell::gpu {

struct PipelineState {
    enum class Depth : std::uint8_t { Off, Nearer } depth = Depth::Off; // reversed: nearer is greater
    bool writesDepth = false;
    enum class Blend : std::uint8_t {
        None,
        Over, // by alpha, which ends as what is drawn has it
        OverOpaque // by alpha, which ends as 1 over an opaque background
    } blend = Blend::None;
    bool isLinear = false; // linear light is written, blended as such and encoded then; else screen colours
    enum class Cull : std::uint8_t { None, Back } cull = Cull::None;
    bool sizesPoints = false; // the vertex shader does
    bool operator==(const PipelineState&) const = default;
};

inline void apply(const PipelineState& state)
{
    const auto enable = [](GLenum what, bool on) { on ? glEnable(what) : glDisable(what); };
    using S = PipelineState;
    // Without the test nothing is written into the depth buffer, whatever the mask says.
    enable(GL_DEPTH_TEST, state.depth != S::Depth::Off || state.writesDepth);
    glDepthFunc(state.depth == S::Depth::Off ? GL_ALWAYS : GL_GREATER);
    glDepthMask(state.writesDepth ? GL_TRUE : GL_FALSE);
    enable(GL_BLEND, state.blend != S::Blend::None);
    if (state.blend == S::Blend::OverOpaque)
        glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE_MINUS_SRC_ALPHA);
    else
        glBlendFunc(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA);
    enable(GL_FRAMEBUFFER_SRGB, state.isLinear);
    enable(GL_CULL_FACE, state.cull == S::Cull::Back);
    glCullFace(GL_BACK);
    glFrontFace(GL_CCW);
    enable(GL_PROGRAM_POINT_SIZE, state.sizesPoints);
}

} // namespace fell::gpu
