// How dark a quad is here, from the ring of voxels round it: core/mesh/rim_shade.h. Even between the points of its grid.
float rimDarkness(uint rim, vec2 at)
{
    if (rim == 0u)
        return 0.0;
    bool cells = (rim & 3u) == 1u;
    ivec2 last = cells ? ivec2(uvec2(rim >> 2, rim >> 5) & 7u) : ivec2(uvec2(rim >> 2, rim >> 8) & 63u);
    ivec2 cell = clamp(ivec2(at), ivec2(0), last);
    vec2 within = at - vec2(cell);
    // Of the rows before and beyond and of the columns before and beyond: the voxel beside this one's, and its two
    // neighbours.
    uvec4 low, middle, high;
    if (cells) {
        int w = last.x, h = last.y;
        uint columns = rim >> (2 * w + 14), left = columns & ((2u << h) - 1u), right = columns >> (h + 1);
        uvec4 three = uvec4(rim >> 8 >> cell.x, rim >> (w + 11) >> cell.x, left << 1 >> cell.y, right << 1 >> cell.y);
        low = three & 1u;
        middle = three >> 1 & 1u;
        high = three >> 2 & 1u;
    } else {
        middle = uvec4(rim >> 14, rim >> 15, rim >> 16, rim >> 17) & 1u;
        low = cell.x > 0 ? middle : uvec4(rim >> 18, rim >> 21, 0u, 0u) & 1u;
        high = cell.x < last.x ? middle : uvec4(rim >> 19, rim >> 20, 0u, 0u) & 1u;
        low.zw = cell.y > 0 ? middle.zw : uvec2(0);
        high.zw = cell.y < last.y ? middle.zw : uvec2(0);
    }
    vec4 along = within.xxyy;
    vec4 near = max(vec4(1.0 - at.y, at.y - float(last.y), 1.0 - at.x, at.x - float(last.x)), 0.0);
    return dot(near, vec4(low) * (1.0 - along) + vec4(middle) + vec4(high) * along);
}
