// How dark a quad is here, from the ring of voxels round it: core/mesh/rim_shade.h. Even between the points of its grid.
// `place`: 0 to 1 along its width and height.
float rimDarkness(uint rim, vec2 place)
{
    ivec2 last = ivec2(uvec2(rim, rim >> 3) & 7u);
    vec2 at = place * vec2(last + 1);
    ivec2 cell = clamp(ivec2(at), ivec2(0), last);
    vec2 within = at - vec2(cell);
    // Of the rows before and beyond and of the columns before and beyond: the voxel beside this one's, and its two
    // neighbours.
    uvec4 three = uvec4(rim) >> (ivec4(6, 9 + last.x, 12 + 2 * last.x, 14 + 2 * last.x + last.y) + cell.xxyy);
    vec4 along = within.xxyy;
    vec4 near = max(vec4(1.0 - at.y, at.y - float(last.y), 1.0 - at.x, at.x - float(last.x)), 0.0);
    ivec4 low = ivec4(three & 1u), middle = ivec4(three >> 1 & 1u), high = ivec4(three >> 2 & 1u);
    return dot(near, vec4(low + middle) + vec4(high - low) * along);
}
