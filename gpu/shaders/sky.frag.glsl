in vec3 direction;

#include "air.glsl"

out vec4 picture;

void main()
{
    vec3 look = normalize(direction);
    vec3 air = airTowards(look.y);
    for (int i = 0; i < switches.z; ++i) {
        float glow = max(dot(look, lights[i].towards.xyz), 0.0);
        air += vec3(0.10, 0.086, 0.05) * lights[i].power.rgb * glow * glow * glow;
    }
    picture = vec4(air, 1.0);
}
