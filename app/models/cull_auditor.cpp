// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/cull_auditor.h>

#include <fell/app/models/world_session.h>
#include <fell/gpu/hooks.h>

namespace fell::app {
namespace {

/// Draws without a window, on the thread that calls it.
Outcome<CullAuditResult> auditHere(CullAuditSpec spec, const std::stop_token& stop)
{
    constexpr int kWide = 320, kHigh = 200; // as fell-cli audits
    auto context = HeadlessContext::create();
    if (!context)
        return context.problem();
    const auto held = context.take(); // declared first: goes last
    auto renderer = Renderer::create();
    if (!renderer)
        return renderer.problem();
    const auto drawn = renderer.take();
    const RenderTarget target(kWide, kHigh);
    spec.hooks = cullAuditHooksFor(*drawn, target);
    return auditCull(spec, stop);
}

std::optional<Route> routeOf(const Terrain& terrain)
{
    const bool isGallery = terrain.recipe.name == "Gallery";
    if (terrain.recipe.pattern && !isGallery)
        return std::nullopt;
    auto route = findRoute(isGallery ? "gallery" : "beck-to-summit", demoFolder() / "routes");
    return route ? std::optional(route.take()) : std::nullopt;
}

} // namespace

CullAuditor::CullAuditor(QObject* parent)
    : QObject(parent)
{
}

CullAuditor::~CullAuditor()
{
    stop();
}

void CullAuditor::start(std::shared_ptr<const Terrain> terrain, const Setup& setup, const Eye& eye, int views)
{
    if (m_running)
        return;
    m_running = true;
    m_share = 0;
    m_trouble.clear();
    emit changed();
    CullAuditSpec spec;
    spec.world = terrain->recipe.name;
    spec.route = routeOf(*terrain);
    spec.terrain = std::move(terrain);
    spec.setup = setup;
    spec.setup.light.mode = "none"; // nothing is lit here
    spec.setup.stream.shape = "pool";
    spec.setup.stream.workers = 1; // the window goes on next to it
    spec.also = eye;
    spec.views = static_cast<std::uint64_t>(views);
    spec.progress = [this](double share) {
        QMetaObject::invokeMethod(this, [this, share] {
            m_share = share;
            emit progressed(share);
        });
    };
    m_thread = std::jthread([this, spec = std::move(spec)](const std::stop_token& stop) {
        auto audited = auditHere(spec, stop);
        QMetaObject::invokeMethod(this, [this, audited = std::move(audited)]() mutable {
            m_running = false;
            if (!audited)
                m_trouble = QString::fromStdString(sentence(audited.problem()));
            else if (!audited.value().row.stopped)
                m_result = audited.take();
            emit changed();
        });
    });
}

void CullAuditor::stop()
{
    m_thread.request_stop();
}

} // namespace fell::app

#include "moc_cull_auditor.cpp"
