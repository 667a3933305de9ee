// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/renderer.h>

#include <fell/gpu/device.h>
#include <fell/gpu/level_texture.h>
#include <fell/gpu/quad_drawer.h>
#include <fell/terrain/terrain.h>

#include <glm/gtc/matrix_transform.hpp>

#include <algorithm>
#include <chrono>
#include <cmath>

namespace fell::gpu {
namespace {

using Clock = std::chrono::steady_clock;

constexpr glm::vec3 kWire{0.13f, 0.16f, 0.17f}; // of the wireframe, sRGB
constexpr double kLatestFog = 0.98; // of the distance: it needs some way to grow
constexpr GLuint kPicturesUnit = 0, kMaterialsUnit = 5; // as in terrain.frag.glsl and material.glsl

double msSince(Clock::time_point start)
{
    return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}

std::vector<Pass> fieldPasses(ResourceTable& table, Programs& programs)
{
    return {clearPass(), skyPass(table, programs), solidPass(), shapesPass(table), seeThroughPass(table),
        ghostsPass(table), linesPass(table, programs), pathPass(table, programs)};
}

std::vector<Pass> numberPasses(ResourceTable& table)
{
    return {clearPass(), solidPass(), shapesPass(table)};
}

std::vector<Pass> seeThroughNumbers(ResourceTable& table)
{
    std::vector<Pass> out;
    out.push_back(seeThroughPass(table));
    return out;
}

/// Code that draws over the picture finds the state that a new context has.
void leaveContext()
{
    glBindVertexArray(0);
    glUseProgram(0);
    for (GLuint unit = 0; unit < 8; ++unit)
        glBindTextureUnit(unit, 0);
    glBindBuffer(GL_DRAW_INDIRECT_BUFFER, 0);
    glBindBufferBase(GL_UNIFORM_BUFFER, kFrameBinding, 0);
    apply({});
    glDisable(GL_SCISSOR_TEST);
    glDepthMask(GL_TRUE);
    glBlendFunc(GL_ONE, GL_ZERO);
    glDepthFunc(GL_LESS);
    glClipControl(GL_LOWER_LEFT, GL_NEGATIVE_ONE_TO_ONE);
}

class GlRenderer final : public Renderer {
public:
    explicit GlRenderer(Device device)
        : m_device(std::move(device))
        , m_materials(m_table)
        , m_chunks(m_table, m_device.limits, m_materials)
        , m_programs(m_table, m_library)
        , m_block(m_table)
        , m_drawer(m_table, m_programs, m_chunks)
        , m_levels(m_table)
        , m_list(m_table, "places")
        , m_field(m_table, fieldPasses(m_table, m_programs))
        , m_numbers(m_table, numberPasses(m_table))
        , m_clearNumbers(m_table, seeThroughNumbers(m_table), {TargetId::SceneColour, TargetId::SceneDepth})
    {
        glCreateQueries(GL_TIMESTAMP, static_cast<GLsizei>(m_times.size()), m_times.data());
    }
    ~GlRenderer() override { glDeleteQueries(static_cast<GLsizei>(m_times.size()), m_times.data()); }

    std::optional<Problem> prepare() { return m_programs.prepare(); }

    void begin(const Setup& setup, const Terrain& terrain) override
    {
        m_warnings.clear();
        m_setup = setup;
        m_pipeline = resolve(setup);
        m_chunks.begin(setup, m_pipeline, m_warnings);
        showBlocks(terrain.recipe.blocks);
    }

    void showBlocks(const BlockSet& blocks) override
    {
        m_materials.show(blocks, m_pipeline.filter, m_device.limits, m_warnings);
    }

    void setDistance(int chunks) override
    {
        m_setup.stream.distance = chunks;
        m_chunks.setDistance(chunks);
    }

    void setLook(const DrawChoices& draw) override
    {
        m_setup.draw.fog = draw.fog;
        m_setup.draw.fieldOfView = draw.fieldOfView; // each frame: names are looked up only where they are others
        if (m_setup.draw.filter == draw.filter && m_setup.draw.seeThrough == draw.seeThrough)
            return;
        m_setup.draw.filter = draw.filter;
        m_setup.draw.seeThrough = draw.seeThrough;
        const Pipeline pipeline = resolve(m_setup);
        m_pipeline.seeThrough = pipeline.seeThrough;
        m_pipeline.filter = pipeline.filter;
        m_chunks.setSeeThrough(pipeline.seeThrough);
        m_materials.setFilter(pipeline.filter, m_device.limits, m_warnings);
    }

    void setCulling(const CullChoices& choices) override
    {
        if (choices == m_setup.cull)
            return;
        m_setup.cull = choices;
        m_chunks.setCulling(choices);
    }

    void upload(const MeshedChunk& mesh) override { m_chunks.upload(mesh); }
    void release(ChunkPos chunk) override { m_chunks.release(chunk); }
    void show(const LodCover& cover) override { m_chunks.show(cover); }

    FrameReport draw(const Eye& eye, int width, int height, const DrawOptions& options) override
    {
        FrameReport report;
        const auto start = Clock::now();
        DrawView view = viewFrom(eye, width, height,
            options.fieldOfView > 0 ? options.fieldOfView : m_setup.draw.fieldOfView, options.cullFrom);
        const Eye& from = options.cullFrom ? *options.cullFrom : eye;
        m_view = cullViewOf(from, m_lens, edge(), distance(), options.nearPlaneIsClear);
        m_chunks.scene().cull(m_view, m_culled, options.ghosts);
        report.culled = m_culled.counts;
        m_list.show(m_chunks, m_culled.kept, eye, edge());
        report.chunks = m_list.shown().size();
        report.cullMs = msSince(start);

        begin(view, options.columns);
        glQueryCounter(m_times[0], GL_TIMESTAMP);
        FrameData data = dataOf(view, options);
        FrameContext context{view, options, data, m_block, m_drawer, m_chunks, m_materials, m_culled, report, false,
            (options.leftOut & 1u) == 0, edge()};
        if (options.paint == Paint::Light)
            m_levels.use(options.light);
        m_field.run(context, options.leftOut);
        leaveContext();
        if (auto trouble = m_programs.takeTrouble())
            m_warnings.push_back(std::move(*trouble));
        glQueryCounter(m_times[1], GL_TIMESTAMP);
        report.cpuMs = msSince(start);
        waitAtFence();
        report.totalMs = msSince(start);
        report.gpuMs = gpuMs();
        report.passes = m_field.collect();
        report.residentChunks = m_chunks.scene().chunks().size();
        report.loadedTriangles = m_chunks.loadedTriangles();
        report.gpuBytes = m_chunks.bytes();
        report.resourceBytes = m_table.bytes();
        return report;
    }

    void drawNumbers(const Eye& eye, int width, int height, double fieldOfView) override
    {
        DrawView view = viewFrom(eye, width, height, fieldOfView, std::nullopt);
        std::vector<KeptChunk> all;
        for (std::uint32_t i = 0; i < m_chunks.scene().chunks().size(); ++i)
            all.push_back({i, kAllSides});
        m_list.show(m_chunks, all, eye, edge(), true);
        begin(view, {0, 0});
        FrameReport unused;
        DrawOptions options;
        options.paint = Paint::Numbers;
        FrameData data = dataOf(view, options);
        FrameContext context{
            view, options, data, m_block, m_drawer, m_chunks, m_materials, m_culled, unused, true, false, edge()};
        m_numbers.run(context, 0);
        options.paint = Paint::ClearNumbers; // clear sides are not told apart by direction
        m_clearNumbers.run(context, 0);
        leaveContext();
        waitAtFence();
    }

    [[nodiscard]] std::vector<PassInfo> passes() const override { return m_field.passes(); }
    [[nodiscard]] CullScene& scene() override { return m_chunks.scene(); }

    [[nodiscard]] const CullStep* rejectedBy(ChunkPos chunk) override
    {
        const HeldChunk* held = m_chunks.find(chunk);
        if (!held || held->place == HeldChunk::kNotShown)
            return nullptr;
        CullResult again;
        m_chunks.scene().cull(m_view, again, true);
        const std::uint8_t by = again.rejectedBy[held->place];
        return by == CullResult::kNobody ? nullptr : m_chunks.scene().steps()[by];
    }

    [[nodiscard]] std::optional<ChunkFigures> figuresOf(ChunkPos chunk) const override
    {
        const HeldChunk* held = m_chunks.find(chunk);
        if (!held)
            return std::nullopt;
        return ChunkFigures{held->counts, held->shapeIndices / 3, static_cast<std::uint32_t>(held->objects.size()),
            held->meshNs, m_chunks.meshBytes(*held)};
    }

    std::optional<Problem> reloadShaders() override { return m_programs.relink(); }
    [[nodiscard]] ArenaFigures arena() const override { return m_chunks.arena(); }
    [[nodiscard]] const std::vector<Problem>& warnings() const override { return m_warnings; }
    [[nodiscard]] std::string driver() const override { return m_device.driver; }
    [[nodiscard]] bool isSoftware() const override { return m_device.isSoftware; }

private:
    [[nodiscard]] int edge() const { return m_setup.chunk.edge; }
    [[nodiscard]] float distance() const { return static_cast<float>(m_setup.stream.distance * edge()); } // voxels

    /// A look from the eye; m_lens is what it culls through.
    DrawView viewFrom(const Eye& eye, int width, int height, double fieldOfView, const std::optional<Eye>& cullFrom)
    {
        m_lens = lensFor(fieldOfView, static_cast<double>(width) / std::max(1, height), distance(), edge());
        DrawView view{eye, m_lens, glm::mat4(1), glm::mat4(1), width, height, &m_list};
        if (cullFrom) { // seen from elsewhere all of it is visible
            const VoxelPos away = eye.cell - cullFrom->cell;
            view.lens.farthest += static_cast<float>(std::hypot(away.x, away.y, away.z));
        }
        view.toClip = reversedViewProjection(eye, view.lens);
        view.toSky = viewProjection(eye, view.lens);
        return view;
    }

    /// What holds for all passes: where they draw, and from which textures.
    void begin(const DrawView& view, const std::array<int, 2>& columns)
    {
        glViewport(0, 0, view.width, view.height);
        glClipControl(GL_LOWER_LEFT, GL_ZERO_TO_ONE);
        if (columns[0] != columns[1]) {
            glEnable(GL_SCISSOR_TEST);
            glScissor(columns[0], 0, columns[1] - columns[0], view.height);
        } else {
            glDisable(GL_SCISSOR_TEST);
        }
        glBindTextureUnit(kMaterialsUnit, m_materials.words());
        glBindTextureUnit(kPicturesUnit, m_materials.pictures());
    }

    [[nodiscard]] FrameData dataOf(const DrawView& view, const DrawOptions& options) const
    {
        const Daylight day = daylightAt(options.sunHeight);
        // Chunks are there when their centre is within the distance, so the nearest gap is one edge short of it.
        constexpr float kNoFog = 1e9f; // voxels
        const float end
            = options.cullFrom ? kNoFog : std::max(distance() * 0.5f, distance() - static_cast<float>(edge()));
        const VoxelPos levels = options.light ? options.light->low - view.eye.cell : VoxelPos{};
        FrameData data;
        data.viewProjection = view.toClip;
        data.toDirection = glm::inverse(view.toSky * glm::translate(glm::mat4(1), glm::vec3(view.eye.within)));
        data.eye = glm::vec4(glm::vec3(view.eye.within), 0);
        data.skylight = glm::vec4(day.skylight, 0);
        data.horizon = glm::vec4(linearOf(day.horizon), 0);
        data.zenith = glm::vec4(linearOf(day.zenith), 0);
        data.wire = glm::vec4(linearOf(kWire), 1);
        data.fog = {end * static_cast<float>(std::min(kLatestFog, m_setup.draw.fog)), end, 0, 0};
        data.levelsLow
            = {static_cast<int>(levels.x), static_cast<int>(levels.y), static_cast<int>(levels.z), options.channel};
        data.lights[0] = {glm::vec4(day.towardsSun, 0), glm::vec4(day.sunlight, 0)};
        data.switches = {options.wireframe, 0, 0, 0};
        if (options.paint == Paint::Contours) {
            const double height = (static_cast<double>(view.eye.cell.y) + view.eye.within.y) * options.voxelMetres;
            data.heights = {static_cast<float>(height - std::floor(height / 100) * 100),
                static_cast<float>(options.voxelMetres), 0, 0};
        }
        return data;
    }

    [[nodiscard]] double gpuMs() const
    {
        std::array<GLuint64, 2> ns{};
        for (std::size_t i = 0; i < 2; ++i)
            glGetQueryObjectui64v(m_times[i], GL_QUERY_RESULT, &ns[i]);
        return ns[1] > ns[0] ? static_cast<double>(ns[1] - ns[0]) / 1e6 : 0;
    }

    Device m_device;
    Setup m_setup;
    Pipeline m_pipeline = resolve(Setup{});
    std::vector<Problem> m_warnings;
    ResourceTable m_table; // before all that it counts
    ShaderLibrary m_library;
    MaterialTable m_materials;
    ChunkStore m_chunks;
    Programs m_programs;
    FrameBlock m_block;
    QuadDrawer m_drawer;
    LevelTexture m_levels;
    DrawList m_list;
    FrameGraph m_field, m_numbers, m_clearNumbers;
    std::array<GLuint, 2> m_times{}; // timestamps around a frame
    // Of the last frame.
    Lens m_lens;
    CullView m_view;
    CullResult m_culled;
};

} // namespace

GhostLook ghostLook(const CullStep& step)
{
    constexpr std::array<GhostLook, 7> kLooks{
        {{{0x99, 0x99, 0x33}, 0}, {{0xCC, 0x66, 0x77}, 1}, {{0xAA, 0x44, 0x99}, 2}, {{0x44, 0xAA, 0x99}, 0},
            {{0x11, 0x77, 0x33}, 1}, {{0x33, 0x22, 0x88}, 2}, {{0x88, 0x22, 0x55}, 3}}};
    return kLooks[static_cast<std::size_t>(&step - cullSteps().data()) % kLooks.size()];
}

std::array<std::uint8_t, 3> levelColour(int level)
{
    constexpr std::array<std::array<float, 3>, 5> kScale{{{0.36F, 0.33F, 0.60F}, {0.20F, 0.42F, 0.60F},
        {0.18F, 0.57F, 0.53F}, {0.55F, 0.74F, 0.36F}, {0.97F, 0.91F, 0.52F}}}; // as in terrain.frag.glsl
    const float at = std::clamp(static_cast<float>(level) / kMaxLevel, 0.0F, 1.0F) * 4;
    const auto i = std::min<std::size_t>(3, static_cast<std::size_t>(at));
    std::array<std::uint8_t, 3> out{};
    for (std::size_t c = 0; c < 3; ++c) {
        const float mixed = kScale[i][c] + (kScale[i + 1][c] - kScale[i][c]) * (at - static_cast<float>(i));
        out[c] = static_cast<std::uint8_t>(std::lround(mixed * 255));
    }
    return out;
}

Outcome<std::unique_ptr<Renderer>> Renderer::create(const GpuLimits& atMost)
{
    auto device = deviceOf(atMost);
    if (!device)
        return device.problem();
    auto renderer = std::make_unique<GlRenderer>(device.take());
    if (auto problem = renderer->prepare())
        return *problem;
    return std::unique_ptr<Renderer>(std::move(renderer));
}

} // namespace fell::gpu
