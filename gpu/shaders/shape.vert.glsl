// Vertices of shaped blocks: core/mesh/chunk_mesh.h.
layout(location = 0) in ivec3 position; // 1/256 voxel
layout(location = 1) in uint material;
layout(location = 2) in vec3 normal;
layout(location = 3) in uint part;
layout(location = 5) in vec4 ownColour;

#include "light.glsl"

#ifdef OVERLAY
out vec2 inQuad;
flat out vec3 facing;
#endif

void main()
{
    vec3 at = vec3(position) / 256.0;
    place(at);
    vec3 light = lightRoot(normal);
    surface.xy = surfaceOf(at, normal);
    fromEye.w = 1.0;
    if (part == 3u) {
        lit = vec4(light * ownColour.rgb, 1.0);
        surface.zw = vec2(0.0, 0.03); // layer 0 is white
    } else {
        Look look = looks[3u * material + part];
        lit = vec4(light, look.colour.a);
        surface.zw = look.layerAndGrain.xy;
    }
#ifdef OVERLAY
    int c = gl_VertexID % 3; // a triangle's own three edges
    inQuad = vec2(c == 1 || c == 2 ? 1.0 : 0.0, c == 2 ? 1.0 : 0.0);
    facing = normal;
#endif
}
