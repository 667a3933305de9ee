// The levels of all channels of light, of 0 to 1: lamps first (one, or red, green, blue), then the sky. Gives the colour
// of the lamps with the sky or its red, and the sky's green and blue. Without lamps they are dark, without a sky all of
// it comes everywhere.
void arrange(vec4 first, vec2 more, out vec4 glow, out vec2 rest)
{
    rest = vec2(0.0);
#if LAMPS == 3
    glow.rgb = first.rgb;
#elif LAMPS == 1
    glow.rgb = vec3(first.r);
#else
    glow.rgb = vec3(0.0);
#endif
#if SKIES == 0
    glow.w = 1.0;
#elif LAMPS == 3
    glow.w = first.w;
    rest = more;
#elif LAMPS == 1
    glow.w = first.g;
    rest = first.zw;
#else
    glow.w = first.r;
    rest = first.yz;
#endif
}

// The same of packed levels, 4 bits a channel.
void unpackLevels(uint light, out vec4 glow, out vec2 rest)
{
    uvec4 low = uvec4(light) >> uvec4(0u, 4u, 8u, 12u) & 15u;
    uvec2 high = uvec2(light) >> uvec2(16u, 20u) & 15u;
    arrange(vec4(low) / 15.0, vec2(high) / 15.0, glow, rest);
}
