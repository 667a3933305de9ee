#version 450 core
in vec3 direction;

uniform vec3 horizon;
uniform vec3 zenith;
uniform vec3 sun;

out vec4 picture;

void main()
{
    vec3 look = normalize(direction);
    float up = clamp(look.y * 1.6, 0.0, 1.0);
    float glow = max(dot(look, sun), 0.0);
    picture = vec4(mix(horizon, zenith, up * (2.0 - up)) + vec3(0.10, 0.08, 0.04) * glow * glow * glow, 1.0);
}
