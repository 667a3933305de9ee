// SPDX-License-Identifier: GPL-3.0-or-later
// Frames that a thread draws, compared with those of a renderer that is called here.
#include <fell/app/render/render_thread.h>

#include "support/all_names.h"
#include "support/sample_setups.h"
#include <fell/gpu/headless.h>
#include <fell/gpu/render_target.h>

#include <chrono>
#include <gtest/gtest.h>

namespace fell::render_thread_test {
namespace {

using namespace std::chrono_literals;

constexpr int kWide = 160, kHigh = 100; // pixels

/// Collects what the thread says.
class Heard {
public:
    RenderThread::Listener listener()
    {
        return {[this](const std::string& driver, const std::vector<PassInfo>& passes) {
                    const std::scoped_lock lock(m_mutex);
                    m_driver = driver;
                    m_passes = passes.size();
                    m_isNew.notify_all();
                },
            [this](FrameDone done) {
                const std::scoped_lock lock(m_mutex);
                m_done.push_back(std::move(done));
                m_isNew.notify_all();
            },
            [this](const Problem& problem) {
                const std::scoped_lock lock(m_mutex);
                m_trouble = sentence(problem);
                m_isNew.notify_all();
            }};
    }
    FrameDone next()
    {
        std::unique_lock lock(m_mutex);
        const bool came = m_isNew.wait_for(lock, 120s, [this] { return !m_done.empty() || !m_trouble.empty(); });
        EXPECT_TRUE(came && m_trouble.empty()) << m_trouble;
        if (m_done.empty())
            return {};
        FrameDone out = std::move(m_done.front());
        m_done.erase(m_done.begin());
        return out;
    }
    std::string driver()
    {
        const std::scoped_lock lock(m_mutex);
        return m_driver;
    }
    std::size_t passes()
    {
        const std::scoped_lock lock(m_mutex);
        return m_passes;
    }
    std::size_t waiting()
    {
        const std::scoped_lock lock(m_mutex);
        return m_done.size();
    }

private:
    std::mutex m_mutex;
    std::condition_variable m_isNew;
    std::vector<FrameDone> m_done;
    std::string m_driver, m_trouble;
    std::size_t m_passes = 0;
};

class RenderThreadTest : public testing::Test {
protected:
    RenderThreadTest()
    {
        m_setup.stream.distance = 2;
        m_setup.stream.workers = 1;
        m_share = {std::make_shared<Streamer>(m_terrain, m_setup), std::make_shared<EditArrivals>()};
        m_share.streamer->moveTo(chunkOf(m_eye.cell, m_setup.chunk.edge), {});
    }

    FrameRequest frame(const StreamerShare& share)
    {
        FrameRequest out;
        out.eye = m_eye;
        out.width = kWide;
        out.height = kHigh;
        out.a = {m_setup, m_setup.cull, m_terrain, share, 1, 0, {}};
        return out;
    }
    /// Draws until everything is there.
    FrameDone settled(RenderThread& thread)
    {
        FrameDone done;
        const auto end = std::chrono::steady_clock::now() + 120s;
        do {
            thread.draw(frame(m_share));
            done = m_heard.next();
        } while (!m_share.streamer->settled() && std::chrono::steady_clock::now() < end);
        EXPECT_TRUE(m_share.streamer->settled());
        thread.draw(frame(m_share));
        return m_heard.next();
    }

    std::shared_ptr<const Terrain> m_terrain = makeTerrain(findWorld("level", demoFolder()).take());
    fell::Setup m_setup = test::unlitSetup();
    Eye m_eye = WorldSession::firstView(*m_terrain, m_setup);
    StreamerShare m_share;
    Heard m_heard;
};

TEST_F(RenderThreadTest, DrawsWhatARendererDrawsHere)
{
    QImage picture;
    std::uint64_t chunks = 0;
    {
        RenderThread thread(m_heard.listener());
        const FrameDone done = settled(thread);
        picture = done.picture;
        chunks = done.a.report.residentChunks;
        EXPECT_FALSE(m_heard.driver().empty());
        EXPECT_GT(m_heard.passes(), 1u);
        EXPECT_GT(done.a.report.triangles, 0u);
        EXPECT_EQ(done.a.octree.chunks, chunks);
        EXPECT_EQ(done.eye, m_eye);
    }
    m_share.streamer->stop();
    ASSERT_EQ(picture.size(), QSize(kWide, kHigh));

    // The same chunks from a separate streamer, drawn on this thread into RGBA.
    const auto context = HeadlessContext::create();
    ASSERT_TRUE(context) << sentence(context.problem());
    auto renderer = Renderer::create().take();
    renderer->begin(m_setup, *m_terrain);
    Streamer streamer(m_terrain, m_setup);
    streamer.moveTo(chunkOf(m_eye.cell, m_setup.chunk.edge), {});
    while (!streamer.settled())
        for (const StreamEvent& event : streamer.take(SIZE_MAX))
            renderer->apply(event);
    RenderTarget target(kWide, kHigh);
    target.bind();
    EXPECT_EQ(renderer->draw(m_eye, kWide, kHigh).residentChunks, chunks);
    const auto pixels = target.read();
    int other = 0;
    for (int y = 0; y < kHigh; ++y)
        for (int x = 0; x < kWide; ++x) {
            const std::uint8_t* at = &pixels[static_cast<std::size_t>(y * kWide + x) * 4];
            other += (picture.pixel(x, y) & 0xFFFFFF) != (qRgb(at[0], at[1], at[2]) & 0xFFFFFF);
        }
    EXPECT_EQ(other, 0) << "pixels differ";
    EXPECT_NE(picture.pixel(kWide / 2, 2), picture.pixel(kWide / 2, kHigh - 2)) << "sky above, ground below";
}

TEST_F(RenderThreadTest, LooksUpWithoutDrawingAndHandsTheMemoryBack)
{
    RenderThread thread(m_heard.listener());
    const FrameDone drawn = settled(thread);
    FrameRequest ask = frame(m_share);
    ask.isDrawn = false;
    ask.spare = drawn.picture.copy();
    const uchar* memory = ask.spare.constBits();
    const ChunkPos below = chunkOf(m_eye.cell - VoxelPos{0, m_setup.chunk.edge, 0}, m_setup.chunk.edge);
    ask.lookUp = {below, std::nullopt, false, true, true};
    thread.draw(std::move(ask));
    const FrameDone found = m_heard.next();
    EXPECT_FALSE(found.isDrawn);
    EXPECT_TRUE(found.picture.isNull());
    EXPECT_EQ(found.spare.constBits(), memory);
    EXPECT_EQ(found.found.asked.chunk, below);
    ASSERT_TRUE(found.found.cells);
    const auto leaves = std::count_if(found.found.cells->begin(), found.found.cells->end(),
        [](const OctreeCell& cell) { return cell.kind == OctreeCell::Kind::Leaf; });
    EXPECT_EQ(static_cast<std::size_t>(leaves), drawn.a.octree.leaves);
    EXPECT_GT(found.found.arena.meshBytes, 0u);

    ask = frame(m_share);
    ask.a.epoch = 2; // of another world, of which nothing is drawn yet
    ask.isDrawn = false;
    ask.lookUp.cells = true;
    thread.draw(std::move(ask));
    EXPECT_FALSE(m_heard.next().found.cells);
}

TEST_F(RenderThreadTest, TheLastOfSeveralRequestsIsDrawn)
{
    RenderThread thread(m_heard.listener());
    (void)settled(thread);
    constexpr int kAsked = 40;
    for (int i = 1; i <= kAsked; ++i) {
        FrameRequest one = frame(m_share);
        one.eye.yaw = i;
        thread.draw(std::move(one));
    }
    int frames = 0;
    double last = 0;
    while (last < kAsked && frames <= kAsked) {
        last = m_heard.next().eye.yaw;
        ++frames;
    }
    EXPECT_EQ(last, kAsked);
    EXPECT_LE(frames, kAsked);
    EXPECT_EQ(m_heard.waiting(), 0u);
}

TEST_F(RenderThreadTest, AnEditArrivesWithItsFirstFrameAlsoWhereTheStreamerIsStoppedMeanwhile)
{
    RenderThread thread(m_heard.listener());
    (void)settled(thread);
    const VoxelPos at = m_eye.cell - VoxelPos{0, 1, 0};
    const auto change = [at](const ReadVoxel& read) {
        const Material before = read(at).value_or(kOpen);
        return std::vector<VoxelChange>{{at, before, static_cast<Material>(before == kOpen ? 1 : 0)}};
    };
    const std::uint64_t number = m_share.streamer->edit({change, false, false});
    (void)settled(thread);
    const auto outcomes = m_share.arrivals->take();
    ASSERT_EQ(outcomes.size(), 1u);
    EXPECT_EQ(outcomes[0]->edit, number);
    EXPECT_TRUE(m_share.arrivals->take().empty()) << "once";

    thread.draw(frame(m_share));
    m_share.streamer->stop(); // a setup is exchanged while the frame is on its way
    (void)m_heard.next();
    thread.draw(frame({}));
    EXPECT_GT(m_heard.next().a.report.triangles, 0u) << "without a streamer the last chunks stay";
}

TEST_F(RenderThreadTest, TwoSetupsAreComparedOnceTheyRest)
{
    RenderThread thread(m_heard.listener());
    const StreamerShare besides{std::make_shared<Streamer>(m_terrain, m_setup), std::make_shared<EditArrivals>()};
    besides.streamer->moveTo(chunkOf(m_eye.cell, m_setup.chunk.edge), {});
    std::optional<double> difference;
    const auto end = std::chrono::steady_clock::now() + 120s;
    while (!difference && std::chrono::steady_clock::now() < end) {
        FrameRequest both = frame(m_share);
        both.b = SideRequest{m_setup, m_setup.cull, m_terrain, besides, 1, 0, {}};
        both.a.options.columns = {0, kWide / 2};
        both.b->options.columns = {kWide / 2, kWide};
        both.isCompared = m_share.streamer->settled() && besides.streamer->settled();
        thread.draw(std::move(both));
        const FrameDone done = m_heard.next();
        ASSERT_TRUE(done.b);
        difference = done.difference;
    }
    ASSERT_TRUE(difference);
    EXPECT_EQ(*difference, 0) << "the same setup twice";
}

TEST_F(RenderThreadTest, EndsWhileAFrameIsDrawn)
{
    for (int i = 0; i < 3; ++i) {
        Heard heard;
        RenderThread thread(heard.listener());
        thread.draw(frame(m_share));
        thread.draw(frame(m_share));
    }
    SUCCEED() << "nothing hangs and nothing is used after it is gone";
}

} // namespace
} // namespace fell::render_thread_test
