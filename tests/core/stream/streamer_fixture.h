// SPDX-License-Identifier: Apache-2.0
// A small world that is streamed, and what the drawing side holds of it.
#pragma once

#include "support/all_names.h"
#include "support/asked_again.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/stream/streamer.h>

#include <chrono>
#include <gtest/gtest.h>
#include <map>
#include <thread>

namespace fell::test::streamer {

inline fell::Setup smallSetup(int distance, int workers = 2)
{
    fell::Setup setup = test::unlitSetup();
    setup.chunk.edge = 16;
    setup.stream.distance = distance;
    setup.stream.workers = workers;
    return setup;
}

/// What the drawing side holds: the last mesh of each chunk.
struct Shown {
    std::map<ChunkPos, std::vector<std::byte>> meshes;
    int uploads = 0, releases = 0;

    void apply(std::vector<StreamEvent> events)
    {
        for (auto& event : events) {
            if (event.mesh.isBare)
                continue;
            if (event.kind == StreamEvent::Kind::Upload) {
                ++uploads;
                meshes[event.chunk] = std::move(event.mesh.mesh.vertices);
            } else {
                ++releases;
                EXPECT_EQ(meshes.erase(event.chunk), 1u) << "released what was never there";
            }
        }
    }
};

/// Takes events until everything is there; fails after a minute.
inline void settle(Streamer& streamer, Shown& shown, std::size_t bytes = SIZE_MAX)
{
    const auto end = std::chrono::steady_clock::now() + std::chrono::minutes(1);
    while (std::chrono::steady_clock::now() < end) {
        shown.apply(streamer.take(bytes));
        if (streamer.settled())
            return;
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
    FAIL() << "not settled within a minute";
}

inline ChunkProgress stageOf(const Streamer& streamer, ChunkPos chunk)
{
    return askedAgain([&] { return streamer.probe(chunk); }).value().stage;
}

} // namespace fell::test::streamer
