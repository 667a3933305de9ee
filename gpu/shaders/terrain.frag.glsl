flat in vec4 lit;
in vec4 fromEye;
in vec4 surface;

layout(binding = 0) uniform sampler2DArray textures;
uniform vec2 fog; // voxels: none nearer than x, all beyond y

#include "air.glsl"

#ifdef OVERLAY
in vec2 inQuad;
flat in vec3 facing;
uniform int paint; // 0 textures, 1 normals, 2 quads by size
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
#endif

out vec4 picture;

// One brightness a voxel, so that a field of one block is no wallpaper.
float grainHere()
{
    ivec2 voxel = ivec2(floor(surface.xy));
    uint h = uint(voxel.x) * 0x9E3779B1u ^ uint(voxel.y) * 0x85EBCA77u;
    h = (h ^ h >> 15) * 0x2C1B3C6Du;
    return float(h >> 8 & 0xFFFFu) / 32768.0 - 1.0;
}

void main()
{
    float away = length(fromEye.xyz), bright = fromEye.w;
    vec3 colour = texture(textures, surface.xyz).rgb;
    colour *= lit.rgb * (bright * (1.0 + surface.w * grainHere()));
#ifdef OVERLAY
    if (paint == 1)
        colour = (facing * 0.5 + 0.5) * bright;
    else if (paint == 2)
        colour = scale(log2(max(areaHere(), 1.0)) / 10.0) * (0.75 + 0.25 * lit.g) * bright;
    if (wireframe) {
        vec2 width = fwidth(inQuad);
        vec2 edge = min(inQuad, 1.0 - inQuad) / max(width, vec2(1e-6));
        float line = min(min(edge.x, edge.y), abs(inQuad.x - inQuad.y) / max(width.x + width.y, 1e-6));
        colour = mix(wire, colour, smoothstep(0.4, 1.2, line));
    }
#endif
    float far = clamp((away - fog.x) / (fog.y - fog.x), 0.0, 1.0);
    picture = vec4(mix(colour, airTowards(fromEye.y / away), far * far), lit.a);
}
