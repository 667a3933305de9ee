// The textures themselves.
vec3 painted(vec3 colour, float bright, vec3 day)
{
    return colour;
}
