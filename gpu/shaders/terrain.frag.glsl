#version 450 core
flat in vec3 colour;
in vec3 fromEye;

uniform vec3 horizon; // sRGB: what the distance fades into
uniform vec2 fog; // voxels: none nearer than x, all beyond y

out vec4 picture;

void main()
{
    float far = clamp((length(fromEye) - fog.x) / (fog.y - fog.x), 0.0, 1.0);
    picture = vec4(mix(colour, horizon, far * far), 1.0);
}
