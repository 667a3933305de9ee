// Vertices of shaped blocks: core/mesh/chunk_mesh.h.
#ifdef PULLED
layout(binding = 6) uniform usamplerBuffer words; // vertices of four words each, and indices of them
ivec3 position;
uint materialAndLight, partAndLight;
vec3 normal;
uvec2 colourAndLight;

// What the attributes below would be.
void pull()
{
    int vertex = int(texelFetch(words, gl_VertexID).x) * 4;
    uvec4 w = uvec4(texelFetch(words, vertex).x, texelFetch(words, vertex + 1).x, texelFetch(words, vertex + 2).x,
        texelFetch(words, vertex + 3).x);
    position = ivec3(bitfieldExtract(int(w.x), 0, 16), int(w.x) >> 16, bitfieldExtract(int(w.y), 0, 16));
    materialAndLight = w.y >> 16;
    normal = unpackSnorm4x8(w.z).xyz;
    partAndLight = w.z >> 24;
    colourAndLight = uvec2(w.w & 0xFFFFu, w.w >> 16);
}
#else
layout(location = 0) in ivec3 position; // 1/256 voxel
layout(location = 1) in uint materialAndLight; // 12 bits; light 20 to 23
layout(location = 2) in vec3 normal;
layout(location = 3) in uint partAndLight; // 2 bits; darkness 2; light 16 to 19
layout(location = 5) in uvec2 colourAndLight; // 5, 6, 5 bits, blue lowest; light 0 to 15
#endif

#include "light.glsl"

#ifdef OVERLAY
out vec2 inQuad;
flat out vec4 facing;
#endif

#include "linear.glsl"

flat out vec3 tint; // an own colour, linear

void main()
{
#ifdef PULLED
    pull();
#endif
    vec3 at = vec3(position) / 256.0 * voxelLength();
    place(at);
    uint light = colourAndLight.y | (partAndLight >> 4) << 16 | (materialAndLight >> 12) << 20 | uint(max(-1.0 - chunkOffset.w, 0.0));
    surface.xy = surfaceOf(at, normal);
    fromEye.w = 1.0 - 0.17 * float(partAndLight >> 2 & 3u);
    uint part = partAndLight & 3u;
    tint = vec3(1.0);
    if (part == 3u)
        tint = linear(vec3(colourAndLight.x >> 11, colourAndLight.x >> 5 & 63u, colourAndLight.x & 31u) / vec3(31, 63, 31));
    show(part == 3u ? 255u << 16 | 15u << 24 : lookOf(materialAndLight & 4095u, part), normal, light); // layer 0 is white
#ifdef OVERLAY
#ifdef INDEXED
    inQuad = vec2(0.5, 0.0); // no edge is known
#else
    int c = gl_VertexID % 3; // a triangle's own three edges, whichever corner is its first
    inQuad = vec2(c == 1 || c == 2 ? 1.0 : 0.0, c == 2 ? 1.0 : 0.0);
#endif
    facing = vec4(normal, max(chunkOffset.w, 0.0));
#endif
}
