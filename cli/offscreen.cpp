// SPDX-License-Identifier: Apache-2.0
#include "offscreen.h"

#include "common.h"

#include <cstdio>

namespace fell::cli {

std::optional<Size> parseSize(const std::string& text)
{
    const auto read = wholeNumbers<2>(text, 'x');
    const Size size = read ? Size{(*read)[0], (*read)[1]} : Size{0, 0};
    if (size.width < 16 || size.height < 16 || size.width > 8192 || size.height > 8192)
        return std::nullopt;
    return size;
}

Outcome<std::unique_ptr<Offscreen>> Offscreen::create(Size size)
{
    auto context = HeadlessContext::create();
    if (!context)
        return context.problem();
    std::unique_ptr<Offscreen> made(new Offscreen);
    made->m_context = context.take();
    auto renderer = Renderer::create();
    if (!renderer)
        return renderer.problem();
    made->m_renderer = renderer.take();
    made->m_target.emplace(size.width, size.height);
    made->m_hooks = hooksFor(*made->m_renderer, *made->m_target);
    return made;
}

} // namespace fell::cli
