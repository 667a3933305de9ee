// What a surface of a chunk hands to the fragments, shared by quads and shaped blocks.
// LAMPS and SKIES: channels of light, 0, 1 or 3 each; CHANNELS: both together, 0 where the setup has no light. GRADED: levels may run
// over a side; else its corners have the same, and there is nothing to interpolate. CELLS: they do, and the fragments
// read them from the side's cells (LightCells in core/mesh/light_bake.h).
// Voxels from the eye's cell, one a draw. w: the chunk's level of detail + 16 * a number that is drawn in its place;
// below zero: -1 - the light of an object of its own.
layout(location = 4) in vec4 chunkOffset;

#include "frame.glsl"
#include "material.glsl"

// Packed to few vectors: each costs a software rasteriser some nanoseconds a triangle.
#ifdef RIMS
flat out uvec4 even; // the look; what the texture is multiplied with, or the sky's part of it; the rim's bits; its size
out vec3 fromEye; // voxels
#else
flat out uvec2 even; // the look; what the texture is multiplied with, or the sky's part of it
out vec4 fromEye; // voxels; w: brightness of the corner's shade
#endif
#if defined(RIMS) || defined(CELLS)
out vec4 surface; // texture coordinates, one texture a voxel; voxels along the quad
#else
out vec2 surface; // texture coordinates, one texture a voxel
#endif
#ifdef CELLS
flat out uvec2 cells; // the first of the quad; its width and height, each less one, 6 bits each
#endif
#ifdef GRADED
out vec4 glow; // levels of the lamps, and of the sky or its red, 0 to 1
#endif
#if defined(GRADED) && SKIES == 3
out vec2 glowRest; // of the sky's green and blue
#endif
#if CHANNELS > 0 && !defined(CELLS)
#include "glow.glsl"
#include "levels.glsl"
#endif

// Of the sky, where all of it comes: a power.
vec3 daylight(vec3 normal)
{
    float sky = 0.44 + 0.10 * normal.y + 0.03 * normal.z;
    vec3 power = skylight.rgb * sky;
    for (int i = 0; i < switches.z; ++i)
        power += lights[i].power.rgb * 0.66 * max(dot(normal, lights[i].towards.xyz), 0.0);
    return power;
}

// sRGB values are multiplied with the root of the power, which stands in for the curve: 0 to 2 in 11, 11 and 10 bits.
uint packRoot(vec3 root)
{
    uvec3 whole = uvec3(min(root / 2.0, 1.0) * vec3(2047.0, 2047.0, 1023.0) + 0.5);
    return whole.x | whole.y << 11 | whole.z << 22;
}

// `light`: a level of 4 bits a channel. Gives what the texture is multiplied with, where levels do not run over it.
uint illuminate(vec3 power, uint light)
{
#if CHANNELS > 0 && !defined(CELLS)
    uvec3 low = uvec3(light, light >> 4, light >> 8) & 15u, high = uvec3(light >> 12, light >> 16, light >> 20) & 15u;
    vec4 levels;
    vec2 rest;
    arrange(vec4(low, high.x) / 15.0, vec2(high.yz) / 15.0, levels, rest);
#ifdef GRADED
    glow = levels;
#if SKIES == 3
    glowRest = rest;
#endif
#else
    return packRoot(glowing(power, levels, rest));
#endif
#endif
    return packRoot(sqrt(power));
}

// A voxel of the chunk's level, in voxels of level 0.
float voxelLength()
{
    return float(1 << (int(max(chunkOffset.w, 0.0)) & 15));
}

void place(vec3 inChunk)
{
    vec3 at = inChunk + chunkOffset.xyz;
    fromEye.xyz = at - eye.xyz;
    gl_Position = viewProjection * vec4(at, 1.0);
}

// From outside u grows to the right and v downwards, on every side: textureAt in core/exchange/export_mesh.h.
vec2 surfaceOf(vec3 inChunk, vec3 normal)
{
    vec3 n = abs(normal);
    if (n.y >= n.x && n.y >= n.z)
        return vec2(inChunk.x, normal.y >= 0.0 ? inChunk.z : -inChunk.z);
    if (n.x >= n.z)
        return vec2(normal.x >= 0.0 ? -inChunk.z : inChunk.z, -inChunk.y);
    return vec2(normal.z >= 0.0 ? inChunk.x : -inChunk.x, -inChunk.y);
}

uint partOf(vec3 normal)
{
    return normal.y > 0.5 ? 0u : normal.y < -0.5 ? 2u : 1u;
}
