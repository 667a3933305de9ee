// SPDX-License-Identifier: Apache-2.0
#include <fell/cull/view.h>

#include <glm/geometric.hpp>
#include <glm/gtc/matrix_access.hpp>
#include <glm/gtc/matrix_transform.hpp>

#include <cmath>

namespace fell::cull {

Eye moved(Eye eye, glm::dvec3 voxels)
{
    const glm::dvec3 at = eye.within + voxels;
    const glm::dvec3 cells = glm::floor(at);
    eye.cell = eye.cell
        + VoxelPos{
            static_cast<std::int64_t>(cells.x), static_cast<std::int64_t>(cells.y), static_cast<std::int64_t>(cells.z)};
    eye.within = at - cells;
    return eye;
}

glm::dvec3 forwardOf(const Eye& eye)
{
    const double yaw = glm::radians(eye.yaw), pitch = glm::radians(eye.pitch);
    return {std::sin(yaw) * std::cos(pitch), std::sin(pitch), -std::cos(yaw) * std::cos(pitch)};
}

glm::dvec3 rightOf(const Eye& eye)
{
    const double yaw = glm::radians(eye.yaw);
    return {std::cos(yaw), 0, std::sin(yaw)};
}

namespace {

glm::dmat4 viewOf(const Eye& eye)
{
    const glm::dvec3 forward = forwardOf(eye);
    const glm::dvec3 up = glm::cross(rightOf(eye), forward); // stays defined when looking straight down
    return glm::lookAt(eye.within, eye.within + forward, up);
}

glm::dmat4 projectionOf(const Lens& lens)
{
    return glm::perspective(glm::radians(static_cast<double>(lens.fieldOfView)), static_cast<double>(lens.aspect),
        static_cast<double>(lens.nearest), static_cast<double>(lens.farthest));
}

} // namespace

glm::mat4 viewProjection(const Eye& eye, const Lens& lens)
{
    return glm::mat4(projectionOf(lens) * viewOf(eye));
}

glm::mat4 reversedViewProjection(const Eye& eye, const Lens& lens)
{
    const double near = lens.nearest, far = lens.farthest;
    glm::dmat4 projection = projectionOf(lens);
    projection[2][2] = near / (far - near);
    projection[3][2] = far * near / (far - near);
    return glm::mat4(projection * viewOf(eye));
}

Planes planesOf(const glm::mat4& m)
{
    const glm::vec4 x = glm::row(m, 0), y = glm::row(m, 1), z = glm::row(m, 2), w = glm::row(m, 3);
    return {w + x, w - x, w + y, w - y, w + z, w - z};
}

Box boxOf(ChunkPos chunk, int edge, const Eye& eye)
{
    const std::int64_t span = spanOf(chunk, edge);
    const VoxelPos low = VoxelPos{chunk.x * span, chunk.y * span, chunk.z * span} - eye.cell;
    const glm::vec3 corner{static_cast<float>(low.x), static_cast<float>(low.y), static_cast<float>(low.z)};
    return {corner, corner + static_cast<float>(span)};
}

float nearPlaneRadius(const Lens& lens)
{
    const float up = std::tan(glm::radians(lens.fieldOfView) / 2), right = up * lens.aspect;
    return lens.nearest * std::sqrt(1 + up * up + right * right);
}

CullView cullViewOf(const Eye& eye, const Lens& lens, int edge, float distance, bool nearPlaneIsClear)
{
    CullView view{eye, lens, edge, distance, viewProjection(eye, lens), {}, nearPlaneIsClear};
    view.planes = planesOf(view.toClip);
    return view;
}

double pixelsPerRadian(double fieldOfView, int rows)
{
    return rows / 2.0 / std::tan(glm::radians(fieldOfView) / 2);
}

Lens lensFor(double fieldOfView, double aspect, float distance, int edge)
{
    Lens lens;
    lens.fieldOfView = static_cast<float>(fieldOfView);
    lens.aspect = static_cast<float>(aspect);
    lens.farthest = distance + 4.0F * static_cast<float>(edge);
    return lens;
}

} // namespace fell::cull
