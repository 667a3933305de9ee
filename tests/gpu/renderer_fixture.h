// SPDX-License-Identifier: Apache-2.0
// What the tests of the renderer's pictures share.
#pragma once

#include "support/all_names.h"

#include "picture_fixture.h"

#include <algorithm>
#include <initializer_list>

namespace fell::test {

class RendererTest : public test::PictureTest {
protected:
    void SetUp() override
    {
        PictureTest::SetUp();
        m_setup.cull.steps = {"distance", "view-planes"}; // whole chunks: sides are cull_test's affair
    }

    /// The bits of passes by their ids.
    unsigned bitsOf(std::initializer_list<const char*> ids) const
    {
        unsigned bits = 0;
        const auto passes = m_renderer->passes();
        for (std::size_t i = 0; i < passes.size(); ++i)
            bits |= std::count(ids.begin(), ids.end(), passes[i].id) > 0 ? 1u << i : 0u;
        return bits;
    }

    /// Sky is bluer than it is red; the slate of the test set is redder than it is blue.
    bool isGround(int x, int y) const { return at(x, y)[0] > at(x, y)[2]; }
};

/// In front of the south side of chunk (0,0,0), 24 voxels away, looking north at its middle.
inline const Eye kBefore{{8, 8, 40}, {0, 0, 0}, 0, 0};

/// A chunk of which one layer of voxels, at z, is of a material.
inline VoxelChunk pane(int z, Material material)
{
    std::vector<Material> voxels(16 * 16 * 16);
    for (std::size_t y = 0; y < 16; ++y)
        for (std::size_t x = 0; x < 16; ++x)
            voxels[(y * 16 + static_cast<std::size_t>(z)) * 16 + x] = material;
    return {16, std::move(voxels)};
}

/// Steps next to a wall: every kind of corner.
inline VoxelChunk stepsAndWall()
{
    std::vector<Material> voxels(16 * 16 * 16, kOpen);
    for (int y = 0; y < 16; ++y)
        for (int z = 0; z < 16; ++z)
            for (int x = 0; x < 16; ++x)
                if (y <= 8 - z / 3 || (x == 5 && z > 3 && y < 9))
                    voxels[static_cast<std::size_t>((y * 16 + z) * 16 + x)] = 1;
    return VoxelChunk(16, std::move(voxels));
}

} // namespace fell::test
