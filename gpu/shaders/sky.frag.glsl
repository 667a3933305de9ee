in vec3 direction;

uniform vec3 sun;

#include "air.glsl"

out vec4 picture;

void main()
{
    vec3 look = normalize(direction);
    float glow = max(dot(look, sun), 0.0);
    picture = vec4(airTowards(look.y) + vec3(0.10, 0.08, 0.04) * glow * glow * glow, 1.0);
}
