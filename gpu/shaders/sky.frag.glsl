in vec3 direction;

uniform vec3 sun;
uniform vec3 sunlight;

#include "air.glsl"

out vec4 picture;

void main()
{
    vec3 look = normalize(direction);
    float glow = max(dot(look, sun), 0.0);
    picture = vec4(airTowards(look.y) + vec3(0.10, 0.086, 0.05) * sunlight * glow * glow * glow, 1.0);
}
