// What colour the air has in a direction: the sky, and what the distance fades into.
#include "frame.glsl"

vec3 airTowards(float upward) // -1 straight down, 1 straight up
{
    float up = clamp(upward * 1.5, 0.0, 1.0);
    return mix(horizon.rgb, zenith.rgb, up * (2.0 - up));
}
