// What colour the air has in a direction: the sky, and what the distance fades into.
uniform vec3 horizon; // sRGB
uniform vec3 zenith;

vec3 airTowards(float upward) // -1 straight down, 1 straight up
{
    float up = clamp(upward * 1.5, 0.0, 1.0);
    return mix(horizon, zenith, up * (2.0 - up));
}
