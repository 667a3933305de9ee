// What is the same for all shaders of a pass: FrameData in gpu/frame_data.h. Voxels; colours and powers are linear.
// A constant: lights that a counter numbers make a frame of a software rasteriser a fifth longer.
const int kLights = 1;

struct FrameLight {
    vec4 towards; // length 1
    vec4 power; // by colour, 1 for plain white at noon
};
layout(std140, binding = 0) uniform Frame {
    mat4 viewProjection;
    mat4 toDirection; // clip space to world directions
    vec4 eye; // within its cell
    vec4 skylight; // power
    vec4 horizon, zenith;
    vec4 wire; // colour of the wireframe
    vec4 ghost; // colour, and how much of it is mixed in
    vec4 fog; // none nearer than x, all beyond y
    ivec4 levelsLow; // where the levels of light begin, from the eye's cell; w: their channel
    ivec4 switches; // wireframe; stripes of the ghost: 0 none, 1 level, 2 upright, 3 both
    vec4 heights; // metres of the eye over a height that is a multiple of 100; metres of a voxel
    FrameLight lights[kLights];
};
