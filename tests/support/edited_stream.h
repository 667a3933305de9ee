// SPDX-License-Identifier: Apache-2.0
// A streamer that is edited: what it delivers, and whether it shows what one that makes the same world from nothing
// shows.
#pragma once

#include "support/all_names.h"
#include "support/asked_again.h"
#include <fell/stream/streamer.h>

#include <gtest/gtest.h>

#include <chrono>
#include <map>
#include <thread>

namespace fell::test {

/// What the render thread holds, and what came.
struct Shown {
    std::map<ChunkPos, std::vector<std::byte>> meshes;
    std::map<ChunkPos, int> uploads; // since the last look
    std::vector<std::shared_ptr<const EditOutcome>> outcomes;
    int releases = 0;

    void take(StreamEvent& event)
    {
        if (event.kind == StreamEvent::Kind::Edited) {
            outcomes.push_back(event.edited);
        } else if (event.kind == StreamEvent::Kind::Release) {
            meshes.erase(event.chunk);
            ++releases;
        } else if (event.kind == StreamEvent::Kind::Upload) {
            ++uploads[event.chunk];
            if (event.mesh.mesh.isEmpty())
                meshes.erase(event.chunk);
            else
                meshes[event.chunk] = std::move(event.mesh.mesh.vertices);
        }
    }
};

inline void settle(Streamer& streamer, Shown& shown)
{
    const auto end = std::chrono::steady_clock::now() + std::chrono::seconds(120);
    while (!streamer.settled()) {
        for (StreamEvent& event : streamer.take(SIZE_MAX))
            shown.take(event);
        ASSERT_LT(std::chrono::steady_clock::now(), end) << "not settled in time";
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
}

inline EditRequest setVoxels(std::vector<VoxelChange> changes)
{
    return {[changes = std::move(changes)](const ReadVoxel&) { return changes; }, false};
}

inline EditRequest ball(VoxelPos middle, int radius, Material material)
{
    std::vector<VoxelChange> changes;
    for (int y = -radius; y <= radius; ++y)
        for (int z = -radius; z <= radius; ++z)
            for (int x = -radius; x <= radius; ++x)
                if (x * x + y * y + z * z <= radius * radius)
                    changes.push_back({middle + VoxelPos{x, y, z}, kOpen, material});
    return setVoxels(std::move(changes));
}

/// All meshes and levels are those of the edited world made from nothing.
inline void expectAsFromNothing(const std::shared_ptr<const Terrain>& terrain, const fell::Setup& setup,
    Streamer& edited, const Shown& shown, ChunkPos at)
{
    Streamer fresh(terrain, setup, {}, edited.changes());
    Shown whole;
    fresh.moveTo(at);
    settle(fresh, whole);
    EXPECT_EQ(shown.meshes.size(), whole.meshes.size());
    for (const auto& [chunk, mesh] : whole.meshes) {
        const auto found = shown.meshes.find(chunk);
        EXPECT_TRUE(found != shown.meshes.end() && found->second == mesh)
            << "mesh of " << chunk.x << " " << chunk.y << " " << chunk.z << " level " << chunk.level;
    }
    for (std::int64_t y = -1; y <= 1; ++y)
        for (std::int64_t z = -1; z <= 1; ++z)
            for (std::int64_t x = -1; x <= 1; ++x) {
                const ChunkPos chunk = at + ChunkPos{x, y, z};
                const auto here = askedAgain([&] { return edited.voxels(chunk); });
                const auto there = askedAgain([&] { return fresh.voxels(chunk); });
                ASSERT_TRUE(here && there);
                EXPECT_EQ(here->voxels(), there->voxels());
                if (setup.light.mode == "none")
                    continue;
                const auto one = askedAgain([&] { return edited.light(chunk); });
                const auto two = askedAgain([&] { return fresh.light(chunk); });
                ASSERT_EQ(one != nullptr, two != nullptr);
                if (one) {
                    EXPECT_EQ(digestOf(*one), digestOf(*two)) << "light of " << x << " " << y << " " << z;
                }
            }
}

} // namespace fell::test
