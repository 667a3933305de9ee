// The power of sky and lamps together, linear, by colour: from the daylight's power, and levels of 0 to 1 of the lamps and
// of the sky or its red, and of the sky's green and blue. A level counts as its square.
vec3 glowing(vec3 power, vec4 glow, vec2 rest)
{
#if SKIES == 3
    vec3 sky = vec3(glow.w, rest);
#else
    float sky = glow.w;
#endif
#if LAMPS == 0
    vec3 lamp = vec3(0.0);
#elif LAMPS == 1
    vec3 lamp = vec3(1.0, 0.86, 0.62) * (glow.x * glow.x);
#else
    vec3 lamp = glow.rgb * glow.rgb;
#endif
    return power * (sky * sky) + lamp + 0.005;
}
