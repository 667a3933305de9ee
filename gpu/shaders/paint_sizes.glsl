// Quads by how many voxel sides they cover, 1 to 1024.
#include "scale.glsl"

// Voxel sides that this fragment's quad covers: how its surface grows against its own square.
float areaHere()
{
    vec2 sx = dFdx(surface.xy), sy = dFdy(surface.xy), qx = dFdx(inQuad), qy = dFdy(inQuad);
    return abs(sx.x * sy.y - sx.y * sy.x) / max(abs(qx.x * qy.y - qx.y * qy.x), 1e-12);
}

vec3 painted(vec3 colour, float bright, vec3 day)
{
    return linear(scale(log2(max(areaHere(), 1.0)) / 10.0) * (0.75 + 0.25 * day.g) * bright);
}
