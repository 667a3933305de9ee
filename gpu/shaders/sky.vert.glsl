// One triangle that covers the picture; its corners know which way they look.
#include "frame.glsl"

out vec3 direction;

void main()
{
    vec2 corner = vec2((gl_VertexID << 1) & 2, gl_VertexID & 2) * 2.0 - 1.0;
    vec4 far = toDirection * vec4(corner, 1.0, 1.0);
    direction = far.xyz / far.w;
    gl_Position = vec4(corner, 1.0, 1.0);
}
