// Vertices of shaped blocks: core/mesh/chunk_mesh.h.
layout(location = 0) in ivec3 position; // 1/256 voxel
layout(location = 1) in uint materialAndLight; // 12 bits; light 20 to 23
layout(location = 2) in vec3 normal;
layout(location = 3) in uint partAndLight; // 2 bits; darkness 2; light 16 to 19
layout(location = 5) in uvec2 colourAndLight; // 5, 6, 5 bits, blue lowest; light 0 to 15

#include "light.glsl"

#ifdef OVERLAY
out vec2 inQuad;
flat out vec4 facing;
#endif

#include "linear.glsl"

flat out vec3 tint; // an own colour, linear

void main()
{
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
    int c = gl_VertexID % 3; // a triangle's own three edges
    inQuad = vec2(c == 1 || c == 2 ? 1.0 : 0.0, c == 2 ? 1.0 : 0.0);
    facing = vec4(normal, max(chunkOffset.w, 0.0));
#endif
}
