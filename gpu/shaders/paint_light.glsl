// The level of the voxel before the side, and its number where it can be read.
#include "scale.glsl"

layout(binding = 2) uniform usampler3D levels; // of the channel near the eye; 255 where it is unknown

#if CHANNELS > 0
float levelThere() // between corners, as it is baked
{
    float all[6] = float[](glow.x, glow.y, glow.z, glow.w, glowRest.x, glowRest.y);
    return all[clamp(levelsLow.w < LAMPS ? levelsLow.w : levelsLow.w - LAMPS + 3, 0, 5)] * 15.0;
}
#endif

// Digits of 3 x 5 dots, rows from the top, the left dot highest.
const uint kDigits[10] = uint[](31599u, 11415u, 29671u, 29647u, 23497u, 31183u, 31215u, 29257u, 31727u, 31695u);

bool isInk(uint level, vec2 at) // at: 0 to 1 over the side, y down
{
    bool two = level > 9u;
    vec2 dot = (at - vec2(two ? 0.18 : 0.36, 0.28)) * 11.0;
    uint digit = level;
    if (two) {
        digit = dot.x < 4.0 ? 1u : level - 10u;
        dot.x -= dot.x < 4.0 ? 0.0 : 4.0;
    }
    ivec2 d = ivec2(floor(dot));
    return d.x >= 0 && d.y >= 0 && d.x < 3 && d.y < 5 && (kDigits[digit] >> (14 - d.y * 3 - d.x) & 1u) == 1u;
}

vec3 levelColour()
{
    ivec3 voxel = ivec3(floor(fromEye.xyz + eye.xyz + facing.xyz * 0.5)) - levelsLow.xyz;
    bool inside = all(greaterThanEqual(voxel, ivec3(0))) && all(lessThan(voxel, textureSize(levels, 0).xzy));
    uint level = inside ? texelFetch(levels, voxel.xzy, 0).r : 255u; // rows along z, layers along y
    if (level > 15u)
#if CHANNELS > 0
        return scale(levelThere() / 15.0);
#else
        return vec3(0.5);
#endif
    vec3 colour = scale(float(level) / 15.0);
    vec2 at = fract(surface.xy);
    vec2 pixel = fwidth(surface.xy);
    float legible = 1.0 - smoothstep(0.045, 0.09, max(pixel.x, pixel.y));
    if (isInk(level, at))
        colour = mix(colour, level > 8u ? vec3(0.08, 0.10, 0.11) : vec3(0.98), legible);
    vec2 rim = min(at, 1.0 - at);
    return colour * (min(rim.x, rim.y) < 0.02 ? mix(1.0, 0.8, legible) : 1.0);
}

vec3 painted(vec3 colour, float bright, vec3 day)
{
    return linear(levelColour());
}
