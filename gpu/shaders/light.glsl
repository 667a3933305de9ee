// What a surface of a chunk hands to the fragments, shared by quads and shaped blocks.
// looks[3 * material + part]: sRGB of a kind without texture or of an own colour, and opacity; layer of the texture
// array, grain. Part 0 top, 1 side, 2 bottom.
struct Look { vec4 colour; vec4 layerAndGrain; };
layout(std430, binding = 0) readonly buffer Looks { Look looks[]; };
layout(location = 4) in vec3 chunkOffset; // voxels from the eye's cell, one a draw

uniform mat4 viewProjection;
uniform vec3 eye; // within its cell
uniform vec3 sun; // towards it, length 1

flat out vec4 lit; // what the texture is multiplied with, and opacity
// Packed to few vectors: each costs a software rasteriser some nanoseconds a triangle.
out vec4 fromEye; // voxels; w: brightness of the corner's shade
out vec4 surface; // texture coordinates, one texture a voxel; layer of the array; grain

// Light as it reaches a side, as the root that sRGB values are multiplied with: a square root stands in for the curve.
vec3 lightRoot(vec3 normal)
{
    float sky = 0.44 + 0.10 * normal.y + 0.03 * normal.z;
    return sqrt(vec3(0.86, 0.95, 1.08) * sky + vec3(1.0, 0.93, 0.80) * 0.66 * max(dot(normal, sun), 0.0));
}

void place(vec3 inChunk)
{
    vec3 at = inChunk + chunkOffset;
    fromEye.xyz = at - eye;
    gl_Position = viewProjection * vec4(at, 1.0);
}

// Upright textures stand on their feet: v grows downwards.
vec2 surfaceOf(vec3 inChunk, vec3 normal)
{
    vec3 n = abs(normal);
    return n.y >= n.x && n.y >= n.z ? inChunk.xz : n.x >= n.z ? vec2(inChunk.z, -inChunk.y) : vec2(inChunk.x, -inChunk.y);
}

uint partOf(vec3 normal)
{
    return normal.y > 0.5 ? 0u : normal.y < -0.5 ? 2u : 1u;
}
