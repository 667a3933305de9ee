// What a surface of a chunk hands to the fragments, shared by quads and shaped blocks.
// LAMPS and SKIES: channels of light, 0, 1 or 3 each; CHANNELS: both together, 0 where the setup has no light. GRADED: levels may run
// over a side; else its corners have the same, and there is nothing to interpolate. CELLS: they do, and the fragments
// read them from the side's cells (LightCells in core/mesh/light_bake.h).
// Voxels from the eye's cell, one a draw. w: the chunk's level of detail + 16 * a number that is drawn in its place;
// below zero: -1 - the light of a separate object.
layout(location = 4) in vec4 chunkOffset;

#include "frame.glsl"
#include "material.glsl"

#if CHANNELS > 0 && !defined(GRADED) && !defined(CELLS)
#define EVEN_LIGHT
#endif

// Packed to few vectors: each costs a software rasteriser some nanoseconds a triangle. x: the look; y: the normal, 8 bits
// signed an axis; z: levels of light that are even over the side, or the rim's bits; w: the rim's size, 8 bits, and those
// levels.
#ifdef RIMS
flat out uvec4 even;
out vec3 fromEye; // voxels
#else
#ifdef EVEN_LIGHT
flat out uvec3 even;
#else
flat out uvec2 even;
#endif
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
#include "levels.glsl"

// What the fragments shade with. `light`: a level of 4 bits a channel.
void show(uint look, vec3 normal, uint light)
{
    even.xy = uvec2(look, packSnorm4x8(vec4(normal, 0.0)));
#ifdef RIMS
    even.w = light << 8;
#elif defined(EVEN_LIGHT)
    even.z = light;
#endif
#ifdef GRADED
#if SKIES == 3
    unpackLevels(light, glow, glowRest);
#else
    vec2 none;
    unpackLevels(light, glow, none);
#endif
#endif
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
