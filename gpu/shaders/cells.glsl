// Levels between the four corners of the quad's cell under a fragment: LightCells in core/mesh/light_bake.h.
flat in uvec2 cells; // the first of the quad; its width and height, each less one, 6 bits each
layout(binding = 4) uniform usamplerBuffer lightCells; // a cell each; a software rasteriser reads storage blocks slower
#include "levels.glsl"
vec4 glow; // levels of the lamps, and of the sky or its red, 0 to 1
vec2 glowRest = vec2(0.0); // of the sky's green and blue

// `at`: voxels along the quad's width and height.
void readCell(vec2 at)
{
    ivec2 last = ivec2(cells.y & 63u, cells.y >> 6);
    ivec2 cell = clamp(ivec2(at), ivec2(0), last);
    vec2 within = at - vec2(cell);
    uvec4 four = texelFetch(lightCells, int(cells.x) + cell.y * (last.x + 1) + cell.x);
#if CHANNELS > 4
    const uvec4 kLow = uvec4(0u, 4u, 8u, 12u);
    const uvec2 kHigh = uvec2(16u, 20u);
    vec4 near = mix(vec4(uvec4(four.x) >> kLow & 15u), vec4(uvec4(four.y) >> kLow & 15u), within.x),
         far = mix(vec4(uvec4(four.z) >> kLow & 15u), vec4(uvec4(four.w) >> kLow & 15u), within.x);
    vec2 nearRest = mix(vec2(uvec2(four.x) >> kHigh & 15u), vec2(uvec2(four.y) >> kHigh & 15u), within.x),
         farRest = mix(vec2(uvec2(four.z) >> kHigh & 15u), vec2(uvec2(four.w) >> kHigh & 15u), within.x);
    arrange(mix(near, far, within.y) / 15.0, mix(nearRest, farRest, within.y) / 15.0, glow, glowRest);
#else
    // Two corners a word, 16 bits each: both at once.
    const uvec4 kShift = uvec4(0u, 4u, 8u, 12u);
    uvec4 near = uvec4(four.x) >> kShift & 0x000F000Fu, far = uvec4(four.y) >> kShift & 0x000F000Fu;
    vec4 levels = mix(mix(vec4(near & 15u), vec4(near >> 16), within.x), mix(vec4(far & 15u), vec4(far >> 16), within.x), within.y) / 15.0;
    arrange(levels, vec2(0.0), glow, glowRest);
#endif
}
