#version 450 core
// Corners of eight floats: see core/mesh/layouts.h.
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
layout(location = 2) in vec2 materialAndShade;

#include "light.glsl"

void main()
{
    shade(position, normal, uint(materialAndShade.x + 0.5));
}
