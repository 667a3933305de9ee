// The root of what the sky and lamps give together, from the sky's power and levels of 0 to 1: lamps and the sky, or its
// red; the sky's green and blue. Levels run evenly to the eye, so they are roots; powers add up.
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
    return sqrt(power * (sky * sky) + lamp + 0.005);
}
