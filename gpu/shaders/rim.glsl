// How dark a quad is here, from the ring of voxels around it: core/mesh/ring_occlusion.h. Even between the points of its grid.
// `ring`: the rim's bits without its size; `last`: its size less one; `at`: voxels along its width and height.
float rimDarkness(uint ring, ivec2 last, vec2 at)
{
    ivec2 cell = clamp(ivec2(at), ivec2(0), last);
    vec2 within = at - vec2(cell);
    // Of the rows before and beyond and of the columns before and beyond: the voxel next to this one's, and its two
    // neighbours. The voxel across a corner is in the rows.
    uint column = 7u - uint(cell.y == 0) - 4u * uint(cell.y == last.y);
    int left = 2 * last.x + 5;
    uvec4 three = uvec4(ring) >> (ivec4(0, last.x + 3, left, left + last.y + 1) + cell.xxyy) & uvec4(7u, 7u, column, column);
    vec4 along = within.xxyy;
    vec4 near = max(vec4(1.0 - at.y, at.y - float(last.y), 1.0 - at.x, at.x - float(last.x)), 0.0);
    ivec4 low = ivec4(three & 1u), middle = ivec4(three >> 1 & 1u), high = ivec4(three >> 2);
    return dot(near, vec4(low + middle) + vec4(high - low) * along);
}
