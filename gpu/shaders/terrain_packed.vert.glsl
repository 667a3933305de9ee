#version 450 core
// Corners of 8 bytes: see core/mesh/layouts.h.
layout(location = 0) in uvec2 packed_;

#include "light.glsl"

const vec3 kNormals[6] = vec3[](vec3(1, 0, 0), vec3(-1, 0, 0), vec3(0, 1, 0), vec3(0, -1, 0), vec3(0, 0, 1), vec3(0, 0, -1));

void main()
{
    uint p = packed_.x;
    shade(vec3(p & 127u, p >> 7 & 127u, p >> 14 & 127u), kNormals[p >> 21 & 7u], packed_.y & 0xFFFFu);
}
