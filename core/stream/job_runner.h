// SPDX-License-Identifier: Apache-2.0
// Does what the resident set asks for: generates a chunk, meshes it, lights it. Takes what came of it back to the set
// and sends it.
#pragma once

#include <fell/stream/edit_pipeline.h>
#include <fell/stream/level_follower.h>

namespace fell::stream {

/// Any worker; each call is one job. All that it is made from must outlive it.
class JobRunner {
public:
    JobRunner(StreamWorld& world, EditPipeline& edits, LevelFollower& follower);

    /// Errors  memory may run out, and a method may throw: then fail() must be called for the job.
    void run(const ChunkJob& job, std::uint8_t thread, BuildScratch& scratch);
    /// A try that threw: `what` is kept if it is the first.
    void fail(const ChunkJob& job, std::uint8_t thread, const char* what);

private:
    void generate(const ChunkJob& job, std::uint8_t thread);
    void applyChanges(ChunkPos chunk, SkyCache::Seen& made) const;
    void mesh(const ChunkJob& job, std::uint8_t thread, BuildScratch& scratch);
    void relight(const ChunkJob& job, std::uint8_t thread, BuildScratch& scratch);

    StreamWorld& m_world;
    EditPipeline& m_edits;
    LevelFollower& m_follower;
    std::shared_ptr<const VoxelChunk> m_open; // replaces a chunk that cannot be generated
};

} // namespace fell::stream
