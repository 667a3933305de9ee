// Directions: x red, y green, z blue.
vec3 painted(vec3 colour, float bright, vec3 day)
{
    return linear((facing.xyz * 0.5 + 0.5) * bright);
}
