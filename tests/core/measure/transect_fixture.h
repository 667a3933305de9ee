// SPDX-License-Identifier: Apache-2.0
// A small transect, and a renderer with known frame times.
#pragma once

#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/measure/transect.h>

#include <gtest/gtest.h>
#include <set>

namespace fell::test {

inline TransectSpec smallSpec()
{
    TransectSpec spec;
    spec.a = test::unlitSetup();
    spec.terrain = test::testTerrain();
    spec.a.name = "small";
    spec.a.chunk.edge = 16;
    spec.values = {1, 2};
    spec.route.title = "there";
    spec.route.points = {{{0, 20, 0}, 0, 0}, {{20, 20, 0}, 90, 0}};
    spec.rounds = 2;
    spec.frames = 3;
    return spec;
}

/// A renderer that only counts, and whose frames take a known time.
struct FakeGraphics {
    std::set<ChunkPos> held;
    int begun = 0, frames = 0, chosen = 0;
    std::uint64_t uploads = 0;
    fell::Setup setup = test::unlitSetup();
    DrawHooks hooks()
    {
        DrawHooks out;
        out.driver = "counting";
        out.begin = [this](const fell::Setup& next, const Terrain&) {
            setup = next;
            held.clear();
            ++begun;
        };
        out.apply = [this](const StreamEvent& event) {
            if (event.kind == StreamEvent::Kind::Upload) {
                held.insert(event.chunk);
                ++uploads;
            } else if (event.kind == StreamEvent::Kind::Release) {
                held.erase(event.chunk);
            }
        };
        out.choose = [this](const CullChoices& choices) {
            ++chosen;
            setup.cull = choices;
        };
        out.draw = [this](const Eye&, bool) {
            ++frames;
            const double each = setup.mesh.mesher == "every" ? 20 : 10;
            return FrameCost{
                each * setup.stream.distance, held.size(), 2 * held.size(), held.size(), 100 * held.size()};
        };
        return out;
    }
};

inline TransectResult someResult()
{
    FakeGraphics graphics;
    const DrawHooks hooks = graphics.hooks();
    TransectSpec spec = smallSpec();
    spec.rounds = 1;
    spec.b = spec.a;
    spec.b->name = "other, with a comma";
    return runTransect(spec, &hooks, {}, {});
}

} // namespace fell::test
