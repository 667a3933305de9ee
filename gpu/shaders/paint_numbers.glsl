// The number of the chunk, lowest first from red, and of the direction in alpha.
#define PAINTS_EXACTLY

vec3 painted(vec3 colour, float bright, vec3 day)
{
    return colour;
}

vec4 paintedExactly()
{
    uint number = uint(facing.w + 0.5) >> 4;
#if defined(SHAPES) || defined(PAINTS_CLEAR)
    float side = 6.0; // no direction
#else
    vec3 f = facing.xyz; // in the order of Side
    float side = f.x > 0.5 ? 0.0 : f.x < -0.5 ? 1.0 : f.y > 0.5 ? 2.0 : f.y < -0.5 ? 3.0 : f.z > 0.5 ? 4.0 : 5.0;
#endif
    return vec4(vec3(number & 255u, number >> 8 & 255u, number >> 16 & 255u), side) / 255.0;
}
