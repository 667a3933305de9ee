// SPDX-License-Identifier: Apache-2.0
// The camera and its view volume. Everything is relative to the voxel that the eye is in, so that a
// view looks the same a million kilometres from the origin.
#pragma once

#include <fell/grid/coords.h>

#include <glm/mat4x4.hpp>
#include <glm/vec3.hpp>
#include <glm/vec4.hpp>

#include <array>

namespace fell::cull {

/// An eye in the world. Yaw 0 looks north (-z), 90 east (+x); pitch 90 looks straight up. Degrees.
struct Eye {
    VoxelPos cell; // the voxel it is in
    glm::dvec3 within{0.5}; // where in that voxel, [0, 1)
    double yaw = 0, pitch = 0;
    bool operator==(const Eye&) const = default;
};

/// Moves the eye by `voxels` and keeps `within` in [0, 1).
Eye moved(Eye eye, glm::dvec3 voxels);
/// The direction an eye looks in, length 1; and the one to its right, level.
glm::dvec3 forwardOf(const Eye& eye);
glm::dvec3 rightOf(const Eye& eye);

struct Lens {
    float fieldOfView = 65; // degrees, from bottom to top
    float aspect = 1.6f; // width / height
    float nearest = 0.1f, farthest = 1000; // voxels
};

/// World (relative to eye.cell, voxels) to clip space, depth -1 to 1.
glm::mat4 viewProjection(const Eye& eye, const Lens& lens);
/// The same for depths from 1 at the nearest to 0 at the farthest, worked out in doubles: with depth as a 32-bit float
/// what is told apart is a constant share of the distance.
/// Source  Reed, "Depth Precision Visualized", 2015.
glm::mat4 reversedViewProjection(const Eye& eye, const Lens& lens);

/// The planes of a view volume: left, right, bottom, top, near, far.
using Planes = std::array<glm::vec4, 6>;
constexpr std::size_t kNearPlane = 4;

/// The six planes of a view volume: a point p is inside where dot(plane, (p, 1)) >= 0 for all. Relative to eye.cell.
/// Source  Gribb and Hartmann, "Fast Extraction of Viewing Frustum Planes from the World-View-Projection Matrix", 2001.
Planes planesOf(const glm::mat4& viewProjection);

/// A box relative to eye.cell, voxels.
struct Box {
    glm::vec3 low, high;
};

/// The box of a chunk of any level.
Box boxOf(ChunkPos chunk, int edge, const Eye& eye);

/// Half the length of the near plane's diagonal and the way to it: nothing farther from the eye is cut off by it.
float nearPlaneRadius(const Lens& lens); // voxels

/// What a cull step looks at.
struct CullView {
    Eye eye;
    Lens lens;
    int edge = 32; // of a chunk, voxels
    float distance = 0; // voxels: the render distance
    glm::mat4 toClip{1};
    Planes planes{};
    /// Nothing opaque within nearPlaneRadius the eye. Where there is, the near plane cuts it open and what lies behind
    /// is seen: then nothing is hidden.
    bool nearPlaneIsClear = true;
};
CullView cullViewOf(const Eye& eye, const Lens& lens, int edge, float distance, bool nearPlaneIsClear = true);

/// The lens with which a setup's chunks are drawn: it reaches four chunks beyond the render distance, which is in
/// voxels like the edge.
Lens lensFor(double fieldOfView, double aspect, float distance, int edge);

/// Pixels of a picture of this number of rows for an angle of one radian in its middle. fieldOfView in degrees.
double pixelsPerRadian(double fieldOfView, int rows);

} // namespace fell::cull
