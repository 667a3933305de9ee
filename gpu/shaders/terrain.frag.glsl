#if CHANNELS > 0 && !defined(GRADED) && !defined(CELLS)
#define EVEN_LIGHT
#endif

// As light.glsl packs them.
#ifdef RIMS
in vec3 fromEye;
flat in uvec4 even;
#include "rim.glsl"
#else
in vec4 fromEye;
#ifdef EVEN_LIGHT
flat in uvec3 even;
#else
flat in uvec2 even;
#endif
#endif
#if defined(RIMS) || defined(CELLS)
in vec4 surface;
#else
in vec2 surface;
#endif
#include "levels.glsl"
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
#elif defined(EVEN_LIGHT)
vec4 glow;
vec2 glowRest;
#endif
#if CHANNELS > 0
#include "glow.glsl"
#endif
#ifdef SHAPES
flat in vec3 tint;
#endif

layout(binding = 0) uniform sampler2DArray textures;

#include "frame.glsl"
#include "air.glsl"
#include "daylight.glsl"

#ifdef OVERLAY
in vec2 inQuad;
flat in vec4 facing; // its direction; its chunk's level + 16 * its number

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

#include "linear.glsl"
#ifdef OVERLAY
#include "paint_textures.glsl"
#endif

void main()
{
    float away = length(fromEye.xyz);
#ifdef RIMS
    float bright = 1.0 - 0.17 * rimDarkness(even.z, ivec2(even.w & 15u, even.w >> 4 & 15u), surface.zw);
#else
    float bright = fromEye.w;
#endif
    float grain = float(even.x >> 24) / 510.0;
    vec3 colour = linear(texture(textures, vec3(surface.xy, even.x & 0xFFFFu)).rgb);
    vec3 normal = unpackSnorm4x8(even.y).xyz;
    vec3 day = sunOn(normal) + skyOn(normal), power = day;
#ifdef CELLS
    readCell(surface.zw);
#elif defined(EVEN_LIGHT) && defined(RIMS)
    unpackLevels(even.w >> 8, glow, glowRest);
#elif defined(EVEN_LIGHT)
    unpackLevels(even.z, glow, glowRest);
#endif
#if CHANNELS > 0
    power = glowing(day, glow, glowRest);
#endif
#ifdef SHAPES
    power *= tint;
#endif
    float shade = bright * (1.0 + grain * grainHere()); // of screen colours: about its square of linear ones
    colour *= power * (shade * shade);
#ifdef OVERLAY
    colour = painted(colour, bright, sqrt(day));
    if (switches.x != 0) {
        vec2 width = fwidth(inQuad);
        vec2 edge = min(inQuad, 1.0 - inQuad) / max(width, vec2(1e-6));
        float line = min(min(edge.x, edge.y), abs(inQuad.x - inQuad.y) / max(width.x + width.y, 1e-6));
        colour = mix(wire.rgb, colour, smoothstep(0.4, 1.2, line));
    }
    if (ghost.a > 0.0) {
        vec2 at = fract(surface.xy * 0.25);
        bool dark = (switches.y & 1) == 1 && at.y < 0.25 || (switches.y & 2) == 2 && at.x < 0.25;
        colour = mix(colour, ghost.rgb * (dark ? 0.35 : 1.0) * (0.8 + 0.2 * bright), ghost.a);
    }
#ifdef PAINTS_EXACTLY
    picture = paintedExactly();
    return;
#endif
#endif
    float far = clamp((away - fog.x) / (fog.y - fog.x), 0.0, 1.0);
    colour = mix(colour, airTowards(fromEye.y / away), far * far * far);
#ifndef BLENDS // else the target encodes what it has blended
    colour = screen(colour);
#endif
    picture = vec4(colour, float(even.x >> 16 & 255u) / 255.0);
}
