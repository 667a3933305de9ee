// SPDX-License-Identifier: GPL-3.0-or-later
// The thread that draws the field, so that a long frame does not block typing.
#pragma once

#include <fell/app/render/frame_request.h>

#include <condition_variable>
#include <functional>
#include <mutex>
#include <optional>
#include <string>
#include <thread>
#include <vector>

namespace fell::app {

/// A class because it owns the thread, which ends after the frame at hand.
class RenderThread {
public:
    /// Called on the render thread; one of `ready` and `failed` comes first, and after `failed` nothing.
    struct Listener {
        std::function<void(std::string driver, std::vector<PassInfo> passes)> ready;
        std::function<void(FrameDone done)> done; // one for each request that was not replaced
        std::function<void(Problem problem)> failed;
    };
    explicit RenderThread(Listener listener);
    ~RenderThread();
    RenderThread(const RenderThread&) = delete;
    RenderThread& operator=(const RenderThread&) = delete;

    /// Takes the place of a request that was not begun.
    void draw(FrameRequest request);

private:
    void run(const std::stop_token& stop);
    std::optional<FrameRequest> next(const std::stop_token& stop);

    Listener m_listener;
    std::mutex m_mutex;
    std::condition_variable_any m_isAsked;
    std::optional<FrameRequest> m_next; // guarded by m_mutex
    std::jthread m_thread; // last: ends first
};

} // namespace fell::app
