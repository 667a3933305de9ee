// Lines in the world: what is allocated, what is held.
layout(location = 0) in vec3 position; // voxels from `from`
layout(location = 1) in vec4 colour;

layout(location = 0) uniform vec3 from; // the eye's cell

#include "frame.glsl"

out vec4 shade;

void main()
{
    shade = colour;
    gl_Position = viewProjection * vec4(position + from, 1.0);
}
