// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/render/render_thread.h>

#include <fell/app/render/field_renderer.h>

#include <exception>

namespace fell::app {

RenderThread::RenderThread(Listener listener)
    : m_listener(std::move(listener))
    , m_thread([this](const std::stop_token& stop) { run(stop); })
{
}

RenderThread::~RenderThread() = default;

void RenderThread::draw(FrameRequest request)
{
    {
        const std::scoped_lock lock(m_mutex);
        m_next = std::move(request);
    }
    m_isAsked.notify_one();
}

std::optional<FrameRequest> RenderThread::next(const std::stop_token& stop)
{
    std::unique_lock lock(m_mutex);
    m_isAsked.wait(lock, stop, [this] { return m_next.has_value(); });
    return std::exchange(m_next, std::nullopt);
}

void RenderThread::run(const std::stop_token& stop)
{
    try {
        auto renderer = FieldRenderer::create();
        if (!renderer)
            return m_listener.failed(renderer.problem());
        m_listener.ready(renderer.value()->renderer().driver(), renderer.value()->renderer().passes());
        while (!stop.stop_requested())
            if (auto request = next(stop))
                m_listener.done(renderer.value()->run(std::move(*request)));
    } catch (const std::exception& error) { // no memory, as a rule
        m_listener.failed({"the picture", "",
            std::string("could not be drawn (") + error.what() + "): lower the render distance and start again"});
    }
}

} // namespace fell::app
