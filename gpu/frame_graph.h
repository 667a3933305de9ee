// SPDX-License-Identifier: Apache-2.0
// A frame as a list of passes over views. Private to gpu/: includes OpenGL.
#pragma once

#include <fell/gpu/frame_data.h>
#include <fell/gpu/pipeline_state.h>
#include <fell/gpu/render_target.h>
#include <fell/gpu/views.h>

#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace fell::gpu {

class QuadDrawer;
class Programs;

/// What passes read and write. The first two are the caller's target; the graph makes the others as they are needed.
enum class TargetId : std::uint8_t { SceneColour, SceneDepth };

/// What a pass draws with. All of it outlives the frame.
struct FrameContext {
    DrawView& view;
    const DrawOptions& options;
    FrameData& data;
    FrameBlock& block;
    QuadDrawer& drawer;
    ChunkStore& chunks;
    const MaterialTable& materials;
    const CullResult& culled;
    FrameReport& report;
    bool isNumbered = false; // chunks draw their numbers
    bool isSkyDrawn = true; // it fills the picture; else that is cleared
    int edge = 0; // voxels of a chunk
};

/// One step of a frame. Draws are counted in the context's report.
struct Pass {
    const char* id; // "sky"
    const char* title; // as costs and switches name it; null: it cannot be left out
    std::vector<TargetId> reads, writes;
    PipelineState state;
    std::function<bool(const FrameContext&)> wanted;
    std::function<void(FrameContext&)> record;
};

/// A class because its queries belong to its passes.
class FrameGraph {
public:
    /// Asserts that each pass reads what a pass before it writes, or what is there already (`given`).
    FrameGraph(ResourceTable& table, std::vector<Pass> passes, const std::vector<TargetId>& given = {});
    FrameGraph(FrameGraph&&) = default;

    /// Runs the active passes that are not left out, into the bound framebuffer, and tells what each took once the
    /// driver is done: see collect. `leftOut`: bit i is that of passes()[i].
    void run(FrameContext& context, unsigned leftOut);
    /// After the frame's fence: the costs of the passes that ran.
    [[nodiscard]] std::vector<PassCost> collect() const;
    /// Those that may be left out; the number of each is its bit.
    [[nodiscard]] std::vector<PassInfo> passes() const;

    /// The first pass that reads what no pass before it has written; empty where all is well.
    static std::string firstMistake(const std::vector<Pass>& passes, const std::vector<TargetId>& given);

private:
    struct Timed {
        const Pass* pass;
        double cpuMs;
        std::size_t query; // of its beginning; the next one is its end
    };
    GLuint queryAt(std::size_t i);
    std::vector<Pass> m_passes;
    ResourceTable* m_table;
    std::vector<Resource> m_queries;
    std::vector<Timed> m_timed;
};

// The passes, each a file of gpu/passes/. What they need for themselves they make here.
Pass clearPass(); // where there is no sky
Pass skyPass(ResourceTable& table, Programs& programs);
Pass solidPass();
Pass shapesPass(ResourceTable& table);
Pass seeThroughPass(ResourceTable& table);
Pass ghostsPass(ResourceTable& table);
Pass linesPass(ResourceTable& table, Programs& programs);
Pass pathPass(ResourceTable& table, Programs& programs);

} // namespace fell::gpu
