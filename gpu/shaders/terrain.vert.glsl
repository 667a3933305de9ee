// Corners of quads in the layouts of core/mesh/layouts.h. LAYOUT 0 floats, 1 corners, 2 packed records.
// INSTANCED: a quad an instance, of the first four vertex numbers. Else the shared index buffer numbers the corners,
// or six vertices follow each other (floats).
#if LAYOUT == 0
#ifdef INSTANCED
layout(location = 0) in vec3 position0;
layout(location = 1) in vec3 position1;
layout(location = 2) in vec3 position2;
layout(location = 3) in vec3 position3;
layout(location = 5) in vec3 normal0;
layout(location = 6) in vec2 material0;
layout(location = 7) in vec2 material1;
layout(location = 8) in vec2 material2;
layout(location = 9) in vec2 material3;
#else
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal0;
layout(location = 2) in vec2 materialAndDarkness;
#endif
#elif LAYOUT == 1
#ifdef INSTANCED
layout(location = 0) in uvec2 corner0;
layout(location = 1) in uvec2 corner1;
layout(location = 2) in uvec2 corner2;
layout(location = 3) in uvec2 corner3;
#else
layout(location = 0) in uvec2 corner0;
#endif
#else
#ifdef INSTANCED
layout(location = 0) in uvec2 record;
#if CHANNELS > 0
layout(location = 1) in uvec3 recordLight;
#endif
#elif CHANNELS > 0
layout(binding = 6) uniform usamplerBuffer records; // five words each
#else
layout(binding = 6) uniform usamplerBuffer records; // two words a texel
#endif
#endif

#ifdef RIMS
#ifdef INSTANCED
layout(location = 10) in uint rim0;
uint rimHere() { return rim0; }
#else
layout(binding = 3) uniform usamplerBuffer rims; // one a quad; a software rasteriser reads storage blocks slower
#if LAYOUT == 0
uint rimHere() { return texelFetch(rims, gl_VertexID / 6).x; }
#else
uint rimHere() { return texelFetch(rims, gl_VertexID >> 2).x; }
#endif
#endif
#endif

#ifdef CELLS
layout(binding = 4) uniform usamplerBuffer lightCells;
layout(location = 11) in uint chunkCells; // where those of the chunk begin
#endif

#include "light.glsl"

#ifdef OVERLAY
out vec2 inQuad; // 0 to 1 along its two edges
flat out vec4 facing;
#endif

const vec3 kNormals[6] = vec3[](vec3(1, 0, 0), vec3(-1, 0, 0), vec3(0, 1, 0), vec3(0, -1, 0), vec3(0, 0, 1), vec3(0, 0, -1));

struct Corner { vec3 at; vec3 normal; uint material; float darkness; uint light; int number; };

#if LAYOUT == 2
// cornerBrightness in core/mesh/light_bake.h.
uint brightness(uint light, uint darkness)
{
    uint pairs = (light & 0x0F0F0Fu) + (light >> 4 & 0x0F0F0Fu);
    return ((pairs * 0x010101u >> 16 & 255u) + 1u) * (6u - darkness);
}

// As cornersOf and roundOf in core/mesh do it. `lights`: 24 bits a corner, without gaps.
Corner expand(uvec2 quad, uvec3 lights, int number)
{
    uint side = quad.x >> 30 | (quad.y & 1u) << 2;
    uint shade = quad.y >> 13 & 255u;
    bool numbered = (quad.y >> 22 & 1u) == 1u;
    uvec4 dark = numbered ? uvec4(0) : uvec4(shade & 1u | (shade >> 4 & 1u) << 1, shade >> 1 & 1u | (shade >> 5 & 1u) << 1,
        shade >> 2 & 1u | (shade >> 6 & 1u) << 1, shade >> 3 & 1u | (shade >> 7 & 1u) << 1);
#if CHANNELS > 0
    uvec4 light = uvec4(lights.x, lights.x >> 24 | lights.y << 8, lights.y >> 16 | lights.z << 16, lights.z >> 8) & 0xFFFFFFu;
    bool second = brightness(light.x, dark.x) + brightness(light.z, dark.z) < brightness(light.y, dark.y) + brightness(light.w, dark.w);
#else
    uvec4 light = uvec4(0);
    bool second = dark.x + dark.z > dark.y + dark.w;
#endif
    bool positive = (side & 1u) == 0u;
    int n = number + (second ? 1 : 0);
    int c = (positive ? n : (second ? 4 - number + 3 : 4 - number)) & 3; // 0 1 2 3 or 0 3 2 1, begun with the diagonal
    vec2 size = vec2(float(quad.x >> 18 & 63u) + 1.0, float(quad.x >> 24 & 63u) + 1.0);
    vec2 uv = size * vec2(c == 1 || c == 2 ? 1.0 : 0.0, c >= 2 ? 1.0 : 0.0);
    uint axis = side >> 1;
    vec3 at = vec3(quad.x & 63u, quad.x >> 6 & 63u, quad.x >> 12 & 63u);
    float ahead = positive != ((quad.y >> 21 & 1u) == 1u) ? 1.0 : 0.0;
    at += axis == 0u ? vec3(ahead, uv) : axis == 1u ? vec3(uv.y, ahead, uv.x) : vec3(uv, ahead);
    return Corner(at, kNormals[side], quad.y >> 1 & 4095u, numbered ? float(c) : float(dark[c]), light[c], number);
}
#endif

#if LAYOUT == 0
Corner fromFloats(vec3 at, vec2 numbers, int number)
{
    uvec2 whole = uvec2(numbers + 0.5);
    return Corner(at, normal0, whole.x & 4095u, float(whole.y & 3u), whole.x >> 12 | (whole.y >> 2) << 12, number);
}
#endif

Corner corner()
{
#if LAYOUT == 0
#ifdef INSTANCED
    int c = gl_VertexID;
    vec3 at = c == 0 ? position0 : c == 1 ? position1 : c == 2 ? position2 : position3;
    vec2 m = c == 0 ? material0 : c == 1 ? material1 : c == 2 ? material2 : material3;
    return fromFloats(at, m, c);
#else
    const int kNumbers[6] = int[](0, 1, 2, 0, 2, 3);
    return fromFloats(position, materialAndDarkness, kNumbers[gl_VertexID % 6]);
#endif
#elif LAYOUT == 1
#ifdef INSTANCED
    int c = gl_VertexID;
    uvec2 w = c == 0 ? corner0 : c == 1 ? corner1 : c == 2 ? corner2 : corner3;
#else
    int c = gl_VertexID & 3;
    uvec2 w = corner0;
#endif
    return Corner(vec3(w.x & 127u, w.x >> 7 & 127u, w.x >> 14 & 127u), kNormals[w.x >> 21 & 7u], w.y & 4095u,
        float(w.x >> 24 & 3u), w.y >> 12 | (w.x >> 26 & 15u) << 20, c);
#else
#if defined(INSTANCED) && CHANNELS > 0
    return expand(record, recordLight, gl_VertexID);
#elif defined(INSTANCED)
    return expand(record, uvec3(0), gl_VertexID);
#elif CHANNELS > 0
    int r = (gl_VertexID >> 2) * 5;
    return expand(uvec2(texelFetch(records, r).x, texelFetch(records, r + 1).x),
        uvec3(texelFetch(records, r + 2).x, texelFetch(records, r + 3).x, texelFetch(records, r + 4).x), gl_VertexID & 3);
#else
    return expand(texelFetch(records, gl_VertexID >> 2).xy, uvec3(0), gl_VertexID & 3);
#endif
#endif
}

#ifdef RIMS
// The width and height less one that a rim's lowest six bits say, as sizeOf in core/mesh/ring_occlusion.cpp.
uvec2 lastOf(uint code)
{
    uint row = code * 187u >> 11, at = code - row * 11u; // row: code / 11
    return at < 10u - row ? uvec2(at, row) : uvec2(at + row - 10u, 9u - row);
}
#endif

#ifdef CELLS
// Where the corner is along its quad, and where the quad's cells are; its head has the low word of its record.
vec2 findCells(Corner c)
{
    int head = int(chunkCells + c.light);
    uint quad = texelFetch(lightCells, head).x;
    cells = uvec2(head + 1, quad >> 18 & 4095u);
    vec3 along = c.at - vec3(quad & 63u, quad >> 6 & 63u, quad >> 12 & 63u);
    return c.normal.x != 0.0 ? along.yz : c.normal.y != 0.0 ? along.zx : along.xy;
}
#endif

void main()
{
    Corner c = corner();
#ifdef CELLS
    vec2 along = findCells(c);
#endif
    c.at *= voxelLength(); // so textures stay one a voxel of level 0
    place(c.at);
    show(lookOf(c.material, partOf(c.normal)), c.normal, c.light);
#ifdef RIMS
    uint rim = rimHere();
    uvec2 last = lastOf(rim & 63u);
#ifndef CELLS
    uint number = uint(c.darkness); // of the corner, as the quad counts them: 0, 0; 1, 0; 1, 1; 0, 1
    vec2 along = vec2((uvec2(number + 1u, number) >> 1 & 1u) * (last + 1u));
#endif
    surface = vec4(surfaceOf(c.at, c.normal), along);
    even.z = rim >> 6;
    even.w |= last.x | last.y << 4;
#else
#ifdef CELLS
    surface = vec4(surfaceOf(c.at, c.normal), along);
#else
    surface = surfaceOf(c.at, c.normal);
#endif
    fromEye.w = 1.0 - 0.17 * c.darkness;
#endif
#ifdef OVERLAY
    inQuad = vec2(c.number == 1 || c.number == 2 ? 1.0 : 0.0, c.number >= 2 ? 1.0 : 0.0);
    facing = vec4(c.normal, chunkOffset.w);
#endif
}
