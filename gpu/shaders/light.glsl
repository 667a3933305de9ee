// Shared by both terrain layouts: what colour a side of a block has in the sun.
// sides[3 * material + part]: linear rgb and grain; part 0 top, 1 side, 2 bottom.
layout(std430, binding = 0) readonly buffer Sides { vec4 sides[]; };
layout(location = 4) in vec3 chunkOffset; // voxels from the eye's cell, one a draw

uniform mat4 viewProjection;
uniform vec3 eye; // within its cell
uniform vec3 sun; // towards it, length 1

flat out vec3 colour; // of the first corner: alike over a side
out vec3 fromEye; // voxels

float grainOf(uvec3 voxel, uint side)
{
    uint h = voxel.x * 0x9E3779B1u ^ voxel.y * 0x85EBCA77u ^ voxel.z * 0xC2B2AE3Du ^ side * 0x27D4EB2Fu;
    h = (h ^ h >> 15) * 0x2C1B3C6Du;
    return float(h >> 8 & 0xFFFFu) / 32768.0 - 1.0;
}

void shade(vec3 corner, vec3 normal, uint material)
{
    vec3 place = corner + chunkOffset;
    fromEye = place - eye;
    gl_Position = viewProjection * vec4(place, 1.0);
    uint part = normal.y > 0.5 ? 0u : normal.y < -0.5 ? 2u : 1u;
    vec4 look = sides[3u * material + part];
    float sky = 0.44 + 0.10 * normal.y + 0.03 * normal.z;
    vec3 light = vec3(0.86, 0.95, 1.08) * sky + vec3(1.0, 0.93, 0.80) * 0.66 * max(dot(normal, sun), 0.0);
    float grain = 1.0 + look.a * grainOf(uvec3(corner), uint(dot(abs(normal), vec3(1.0, 2.0, 3.0))));
    // Lit in linear light, shown in sRGB: a square root stands in for its curve, as a square does on the way in.
    colour = sqrt(look.rgb * light * grain);
}
