// The light value of the voxel before the face as a colour, and near the camera as a bar.
#include "scale.glsl"

layout(binding = 2) uniform usampler3D levels; // of the channel near the eye; 255 where it is unknown

#if CHANNELS > 0
float levelThere() // between corners, as it is baked
{
    float all[6] = float[](glow.x, glow.y, glow.z, glow.w, glowRest.x, glowRest.y);
    return all[clamp(levelsLow.w < LAMPS ? levelsLow.w : levelsLow.w - LAMPS + 3, 0, 5)] * 15.0;
}
#endif

// A bar across the face: as much of its frame is filled as of the largest light value arrives. at: 0 to 1 over the face.
bool isInk(uint level, vec2 at)
{
    const vec2 kLow = vec2(0.16, 0.40), kHigh = vec2(0.84, 0.60);
    const float kFrame = 0.03;
    if (any(lessThan(at, kLow - kFrame)) || any(greaterThan(at, kHigh + kFrame)))
        return false;
    bool isInside = all(greaterThan(at, kLow)) && all(lessThan(at, kHigh));
    return !isInside || (at.x - kLow.x) / (kHigh.x - kLow.x) < float(level) / 15.0;
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
