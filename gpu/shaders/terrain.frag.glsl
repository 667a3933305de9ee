#version 450 core
flat in vec3 colour;
in vec3 fromEye;

uniform vec2 fog; // voxels: none nearer than x, all beyond y

#include "air.glsl"

out vec4 picture;

void main()
{
    float away = length(fromEye);
    float far = clamp((away - fog.x) / (fog.y - fog.x), 0.0, 1.0);
    picture = vec4(mix(colour, airTowards(fromEye.y / away), far * far), 1.0);
}
