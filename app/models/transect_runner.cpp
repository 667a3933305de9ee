// SPDX-License-Identifier: GPL-3.0-or-later
#include "models/transect_runner.h"

#include "gpu/hooks.h"
#include "models/world_session.h"

#include <QStringList>

#include <cassert>
#include <chrono>

namespace fell {

Outcome<TransectSpec> specFrom(
    const TransectSentence& sentence, std::shared_ptr<const Terrain> terrain, const Setup& current)
{
    TransectSpec spec;
    spec.terrain = std::move(terrain);
    spec.vary = sentence.vary;
    const SetupField* field = findField(spec.vary);
    if (!field)
        return Problem{"", "", "choose what to vary"};
    for (const QString& part : sentence.values.split(QLatin1Char(','), Qt::SkipEmptyParts)) {
        QString text = part.trimmed();
        text.replace(QLatin1Char('+'), QLatin1Char(','));
        spec.values.push_back(valueFromText(*field, text.toStdString()));
    }
    const auto named = [&current](const std::string& name) -> Outcome<Setup> {
        return name == current.name ? Outcome<Setup>(current) : findSetup(name, demoFolder() / "setups");
    };
    auto a = named(sentence.setupA);
    if (!a)
        return a.problem();
    spec.a = a.take();
    if (!sentence.setupB.empty()) {
        auto b = named(sentence.setupB);
        if (!b)
            return b.problem();
        spec.b = b.take();
    }
    auto route = findRoute(sentence.route, demoFolder() / "routes");
    if (!route)
        return route.problem();
    spec.route = route.take();
    spec.rounds = sentence.rounds;
    spec.frames = sentence.frames;
    if (auto problem = checkTransect(spec))
        return Problem{field->title, "", problem->what};
    return spec;
}

TransectRunner::TransectRunner(QObject* parent)
    : QObject(parent)
{
}

TransectRunner::~TransectRunner()
{
    m_thread.request_stop();
}

void TransectRunner::start(TransectSpec spec, int width, int height)
{
    assert(!m_running);
    m_running = true;
    if (m_thread.joinable())
        m_thread.join(); // it has ended already
    m_thread = std::jthread([this, spec = std::move(spec), width, height](
                                const std::stop_token& stop) { work(spec, width, height, stop); });
}

void TransectRunner::stop()
{
    m_thread.request_stop();
}

void TransectRunner::show(TransectResult result)
{
    m_result = std::move(result);
    emit resultChanged();
}

void TransectRunner::work(const TransectSpec& spec, int width, int height, const std::stop_token& stop)
{
    // Everything that belongs to the window's thread is posted to it; this one only measures.
    const auto post = [this](auto call) { QMetaObject::invokeMethod(this, call, Qt::QueuedConnection); };
    QString trouble;
    std::unique_ptr<HeadlessContext> context; // declared first: goes last
    std::unique_ptr<Renderer> renderer;
    std::optional<OffscreenTarget> target;
    std::optional<DrawHooks> hooks;
    if (auto made = HeadlessContext::create()) {
        context = made.take();
        if (auto drawn = Renderer::create()) {
            renderer = drawn.take();
            target.emplace(width, height);
            hooks = hooksFor(*renderer, *target);
        } else {
            trouble = QString::fromStdString(sentence(drawn.problem()));
        }
    } else {
        trouble = QString::fromStdString(sentence(made.problem()));
    }
    const auto begin = std::chrono::steady_clock::now();
    auto result = runTransect(
        spec, hooks ? &*hooks : nullptr,
        [&](const TransectProgress& at) {
            const double passed = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
            const double left = at.share > 0.02 ? passed / at.share * (1 - at.share) : -1;
            post([this, share = at.share, doing = QString::fromStdString(at.doing), left, soFar = *at.soFar] {
                m_result = soFar;
                emit resultChanged();
                emit progressed(share, doing, left);
            });
        },
        stop);
    post([this, result = std::move(result), trouble]() mutable {
        m_result = std::move(result);
        m_running = false;
        emit resultChanged();
        emit finished(trouble.isEmpty()
                ? QString()
                : trouble + QStringLiteral(" — frames were not drawn, mesh build times were measured"));
    });
}

} // namespace fell
