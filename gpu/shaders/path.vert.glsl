// Points between voxels, from the eye's cell.
layout(location = 0) in vec3 position;

#include "frame.glsl"

void main()
{
    gl_Position = viewProjection * vec4(position, 1.0);
    gl_PointSize = clamp(60.0 / max(gl_Position.w, 1.0), 3.0, 12.0);
}
