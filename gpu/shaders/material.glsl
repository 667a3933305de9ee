// How a block's part looks: MaterialTable in gpu/material_table.h. Part 0 top, 1 side, 2 bottom. Low bits first: layer of
// the texture array 16, opacity 8, grain 8 of 0 to 0.5.
layout(binding = 5) uniform usamplerBuffer materials; // drivers need not offer storage blocks to vertex shaders

uint lookOf(uint material, uint part)
{
    return texelFetch(materials, int(3u * material + part)).x;
}
