// Levels of detail; in red the faces seen from behind, which only a crack shows.
#include "scale.glsl"

// `day`: the root of the daylight's power.
vec3 painted(vec3 colour, float bright, vec3 day)
{
#ifndef SHAPES
    if (!gl_FrontFacing)
        return linear(vec3(0.93, 0.16, 0.30));
#endif
    return linear(scale(float(uint(facing.w) & 15u) / 8.0) * (0.55 + 0.45 * day.g) * bright * (1.0 + 0.1 * grainHere()));
}
