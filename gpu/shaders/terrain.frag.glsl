#ifdef RIMS
in vec3 fromEye;
flat in uvec4 even;
#include "rim.glsl"
#else
in vec4 fromEye;
flat in uvec2 even;
#endif
#if defined(RIMS) || defined(CELLS)
in vec4 surface;
#else
in vec2 surface;
#endif
#ifdef CELLS
#include "cells.glsl"
#endif
#ifdef GRADED
in vec4 glow;
#if SKIES == 3
in vec2 glowRest;
#else
const vec2 glowRest = vec2(0.0);
#endif
#endif
#if defined(GRADED) || defined(CELLS)
#define GLOWS
#include "glow.glsl"
#endif
#if defined(SHAPES) && CHANNELS > 0
flat in vec3 tint;
#endif

layout(binding = 0) uniform sampler2DArray textures;
uniform vec2 fog; // voxels: none nearer than x, all beyond y

#include "air.glsl"

#ifdef OVERLAY
in vec2 inQuad;
flat in vec4 facing; // its direction; its chunk's level + 16 * its number
uniform int paint; // 0 textures, 1 normals, 2 quads by size, 3 light, 4 numbers of chunks, 5 without direction
uniform vec4 ghost; // colour, and how much of it
uniform int stripes; // of the ghost: 0 none, 1 level, 2 upright, 3 both
uniform vec3 eye; // within its cell
uniform int channel; // of light: the lamps, then the sky
layout(binding = 2) uniform usampler3D levels; // of that channel near the eye; 255 where nobody knows
uniform ivec3 levelsLow; // where they begin, voxels from the eye's cell
uniform bool wireframe;
uniform vec3 wire; // its colour

// Voxel sides that this fragment's quad covers: how its surface grows against its own square.
float areaHere()
{
    vec2 sx = dFdx(surface.xy), sy = dFdy(surface.xy), qx = dFdx(inQuad), qy = dFdy(inQuad);
    return abs(sx.x * sy.y - sx.y * sy.x) / max(abs(qx.x * qy.y - qx.y * qy.x), 1e-12);
}

// A perceptually even scale that colour-blind eyes can read, for 0 to 1: dark blue over green to pale yellow.
vec3 scale(float t)
{
    const vec3 k[5] = vec3[](vec3(0.36, 0.33, 0.60), vec3(0.20, 0.42, 0.60), vec3(0.18, 0.57, 0.53), vec3(0.55, 0.74, 0.36), vec3(0.97, 0.91, 0.52));
    float at = clamp(t, 0.0, 1.0) * 4.0;
    int i = min(int(at), 3);
    return mix(k[i], k[i + 1], at - float(i));
}

#ifdef GLOWS
float levelThere() // between corners, as it is baked
{
    float all[6] = float[](glow.x, glow.y, glow.z, glow.w, glowRest.x, glowRest.y);
    return all[clamp(channel < LAMPS ? channel : channel - LAMPS + 3, 0, 5)] * 15.0;
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

// The level of the voxel before the side, and its number where it can be read.
vec3 levelColour()
{
    ivec3 voxel = ivec3(floor(fromEye.xyz + eye + facing.xyz * 0.5)) - levelsLow;
    bool inside = all(greaterThanEqual(voxel, ivec3(0))) && all(lessThan(voxel, textureSize(levels, 0).xzy));
    uint level = inside ? texelFetch(levels, voxel.xzy, 0).r : 255u; // rows along z, layers along y
    if (level > 15u)
#ifdef GLOWS
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
#endif

#ifdef OVERLAY
// The number of the direction, in the order of Side; 6 for a shaped block.
float sideHere()
{
#ifdef SHAPES
    return 6.0;
#else
    vec3 f = facing.xyz;
    return f.x > 0.5 ? 0.0 : f.x < -0.5 ? 1.0 : f.y > 0.5 ? 2.0 : f.y < -0.5 ? 3.0 : f.z > 0.5 ? 4.0 : 5.0;
#endif
}
#endif

out vec4 picture;

// One brightness a voxel, so that a field of one block is no wallpaper.
float grainHere()
{
    ivec2 voxel = ivec2(floor(surface.xy));
    uint h = uint(voxel.x) * 0x9E3779B1u ^ uint(voxel.y) * 0x85EBCA77u;
    h = (h ^ h >> 15) * 0x2C1B3C6Du;
    // Far away, where a voxel is less than a pixel, it would only shimmer.
    return (float(h >> 8 & 0xFFFFu) / 32768.0 - 1.0) * min(1.0, 96.0 / length(fromEye.xyz));
}

void main()
{
    float away = length(fromEye.xyz);
#ifdef RIMS
    float bright = 1.0 - 0.17 * rimDarkness(even.z, ivec2(even.w & 15u, even.w >> 4), surface.zw);
#else
    float bright = fromEye.w;
#endif
    float grain = float(even.x >> 24) / 510.0;
    vec3 colour = texture(textures, vec3(surface.xy, even.x & 0xFFFFu)).rgb;
    vec3 day = vec3(even.y & 2047u, even.y >> 11 & 2047u, even.y >> 22) * (2.0 / vec3(2047.0, 2047.0, 1023.0));
    vec3 root = day;
#ifdef CELLS
    readCell(surface.zw);
#endif
#ifdef GLOWS
    root = glowing(day * day, glow, glowRest);
#ifdef SHAPES
    root *= tint;
#endif
#endif
    colour *= root * (bright * (1.0 + grain * grainHere()));
#ifdef OVERLAY
    if (paint == 1)
        colour = (facing.xyz * 0.5 + 0.5) * bright;
    else if (paint == 2)
        colour = scale(log2(max(areaHere(), 1.0)) / 10.0) * (0.75 + 0.25 * day.g) * bright;
    else if (paint == 3) {
        colour = scale(float(uint(facing.w) & 15u) / 8.0) * (0.55 + 0.45 * day.g) * bright * (1.0 + 0.1 * grainHere());
#ifndef SHAPES
        if (!gl_FrontFacing)
            colour = vec3(0.93, 0.16, 0.30);
#endif
    } else if (paint == 4)
        colour = levelColour();
    if (wireframe) {
        vec2 width = fwidth(inQuad);
        vec2 edge = min(inQuad, 1.0 - inQuad) / max(width, vec2(1e-6));
        float line = min(min(edge.x, edge.y), abs(inQuad.x - inQuad.y) / max(width.x + width.y, 1e-6));
        colour = mix(wire, colour, smoothstep(0.4, 1.2, line));
    }
#endif
#ifdef OVERLAY
    if (paint >= 5) {
        uint number = uint(facing.w + 0.5) >> 4;
        picture = vec4(vec3(number & 255u, number >> 8 & 255u, number >> 16 & 255u), paint == 6 ? 6.0 : sideHere()) / 255.0;
        return;
    }
    if (ghost.a > 0.0) {
        vec2 at = fract(surface.xy * 0.25);
        bool dark = (stripes & 1) == 1 && at.y < 0.25 || (stripes & 2) == 2 && at.x < 0.25;
        colour = mix(colour, ghost.rgb * (dark ? 0.62 : 1.0) * (0.8 + 0.2 * bright), ghost.a);
    }
#endif
    float far = clamp((away - fog.x) / (fog.y - fog.x), 0.0, 1.0);
    picture = vec4(mix(colour, airTowards(fromEye.y / away), far * far), float(even.x >> 16 & 255u) / 255.0);
}
