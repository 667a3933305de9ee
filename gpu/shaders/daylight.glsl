// Light from far away on a surface, linear, by colour: sun and sky apart, so that a shadow takes the sun alone.
vec3 sunOn(vec3 normal)
{
    vec3 power = vec3(0.0);
    for (int i = 0; i < kLights; ++i)
        power += lights[i].power.rgb * (0.66 * max(dot(normal, lights[i].towards.xyz), 0.0));
    return power;
}

vec3 skyOn(vec3 normal)
{
    return skylight.rgb * (0.44 + 0.10 * normal.y + 0.03 * normal.z);
}
