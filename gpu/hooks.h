// SPDX-License-Identifier: Apache-2.0
// What core's measuring draws through.
#pragma once

#include "audit/cull_audit.h"
#include "gpu/headless.h"
#include "gpu/render_target.h"
#include "gpu/renderer.h"
#include "measure/transect.h"

namespace fell {

/// Hooks that draw with `renderer` into `target`. Both outlive the hooks; all calls on their thread.
DrawHooks hooksFor(Renderer& renderer, const RenderTarget& target);

/// The same for the audit of culling.
CullAuditHooks cullAuditHooksFor(Renderer& renderer, const RenderTarget& target);

} // namespace fell
