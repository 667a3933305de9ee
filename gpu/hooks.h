// SPDX-License-Identifier: Apache-2.0
// What core's measuring draws through.
#pragma once

#include <fell/audit/cull_audit.h>
#include <fell/gpu/headless.h>
#include <fell/gpu/render_target.h>
#include <fell/gpu/renderer.h>
#include <fell/measure/transect.h>

namespace fell::gpu {

/// Hooks that draw with `renderer` into `target`. Both outlive the hooks; all calls on their thread.
/// Units   milliseconds: of the thread, and of the GPU where the driver has timestamps.
DrawHooks hooksFor(Renderer& renderer, const RenderTarget& target);

/// The same for the audit of culling.
CullAuditHooks cullAuditHooksFor(Renderer& renderer, const RenderTarget& target);

} // namespace fell::gpu
