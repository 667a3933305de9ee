in vec3 direction;

#include "air.glsl"
#include "linear.glsl"

out vec4 picture;

void main()
{
    vec3 look = normalize(direction);
    vec3 air = airTowards(look.y);
    for (int i = 0; i < kLights; ++i) {
        float glow = max(dot(look, lights[i].towards.xyz), 0.0);
        air += vec3(0.17, 0.15, 0.09) * lights[i].power.rgb * glow * glow * glow;
    }
    picture = vec4(screen(air), 1.0);
}
