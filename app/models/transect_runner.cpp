// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/transect_runner.h>

#include <nlohmann/json.hpp>

#include <fell/app/models/world_session.h>
#include <fell/audit/setup_audit.h>
#include <fell/gpu/hooks.h>

#include <QStringList>

#include <cassert>
#include <chrono>

namespace fell::app {

namespace {

/// The values of a typed list.
std::vector<nlohmann::json> valuesFrom(const SetupField& field, const QString& list)
{
    std::vector<nlohmann::json> out;
    for (const QString& part : list.split(QLatin1Char(','), Qt::SkipEmptyParts)) {
        QString text = part.trimmed();
        text.replace(QLatin1Char('+'), QLatin1Char(','));
        out.push_back(valueFromText(field, text.toStdString()));
    }
    return out;
}

/// Fills in setups and route.
std::optional<Problem> readWho(const TransectSentence& sentence, const Setup& current, TransectSpec& spec)
{
    const auto named = [&](const std::string& name) -> Outcome<Setup> {
        auto found = name == current.name ? Outcome<Setup>(current) : findSetup(name, demoFolder() / "setups");
        if (!found)
            return found;
        Setup setup = found.take();
        setup.draw.budget = sentence.budget;
        return setup;
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
    auto route = routeIn(*spec.terrain, spec.changes.get(), sentence.route);
    if (!route)
        return route.problem();
    spec.route = route.take();
    spec.rounds = sentence.rounds;
    spec.frames = sentence.frames;
    return std::nullopt;
}

/// Draws on a separate context, on the thread that makes it.
struct Drawing {
    std::unique_ptr<HeadlessContext> context; // declared first: goes last
    std::unique_ptr<Renderer> renderer;
    std::optional<RenderTarget> target;
    std::optional<DrawHooks> hooks;
    QString trouble; // why there are none

    Drawing(int width, int height)
    {
        auto made = HeadlessContext::create();
        if (!made) {
            trouble = QString::fromStdString(sentence(made.problem()));
            return;
        }
        context = made.take();
        auto drawn = Renderer::create();
        if (!drawn) {
            trouble = QString::fromStdString(sentence(drawn.problem()));
            return;
        }
        renderer = drawn.take();
        target.emplace(width, height);
        hooks = hooksFor(*renderer, *target);
    }
};

} // namespace

Outcome<TransectSpec> specFrom(const TransectSentence& sentence, const MeasuredWorld& world, const Setup& current)
{
    TransectSpec spec;
    spec.terrain = world.terrain;
    spec.changes = world.changes;
    spec.vary = sentence.vary;
    spec.second = sentence.second;
    const SetupField* field = findField(spec.vary);
    if (!field)
        return Problem{"", "", "choose what to vary"};
    spec.values = valuesFrom(*field, sentence.values);
    if (const SetupField* second = findField(spec.second))
        spec.secondValues = valuesFrom(*second, sentence.secondValues);
    if (auto problem = readWho(sentence, current, spec))
        return *problem;
    if (auto problem = checkChurn(sentence.churn, spec.terrain->recipe.blocks))
        return *problem;
    spec.churn = sentence.churn;
    if (auto problem = checkTransect(spec))
        return Problem{field->title, "", problem->what};
    return spec;
}

Outcome<std::vector<ReachSpec>> reachSpecsFrom(
    const TransectSentence& sentence, const MeasuredWorld& world, const Setup& current)
{
    TransectSpec who;
    who.terrain = world.terrain;
    who.changes = world.changes;
    if (auto problem = readWho(sentence, current, who))
        return *problem;
    std::vector<ReachSpec> specs{{who.terrain, who.a, who.route, who.frames, 0, who.changes}};
    if (who.b)
        specs.push_back({who.terrain, *who.b, who.route, who.frames, 0, who.changes});
    return specs;
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
    const Drawing drawing(width, height);
    const auto begin = std::chrono::steady_clock::now();
    auto result = runTransect(
        spec, drawing.hooks ? &*drawing.hooks : nullptr,
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
    if (!result.rows.empty() && !stop.stop_requested()) {
        post([this] { emit progressed(1, tr("auditing what was measured"), -1); });
        result.audits = auditMethodsOf(spec, stop);
    }
    const bool hasNothing = !result.rows.empty() && isEmpty(result) && !result.stopped;
    post([this, result = std::move(result), trouble = drawing.trouble, hasNothing]() mutable {
        m_result = hasNothing ? TransectResult{} : std::move(result);
        m_running = false;
        emit resultChanged();
        if (hasNothing)
            return emit finished(tr("There was nothing to mesh or draw along this route: choose another"));
        if (!m_result.rows.empty())
            emit measured();
        emit finished(trouble.isEmpty()
                ? QString()
                : trouble + QStringLiteral(" — frames were not drawn, mesh build times were measured"));
    });
}

void TransectRunner::startReach(std::vector<ReachSpec> specs, int width, int height)
{
    assert(!m_running);
    m_running = true;
    if (m_thread.joinable())
        m_thread.join(); // it has ended already
    m_thread = std::jthread([this, specs = std::move(specs), width, height](
                                const std::stop_token& stop) { workReach(specs, width, height, stop); });
}

void TransectRunner::workReach(const std::vector<ReachSpec>& specs, int width, int height, const std::stop_token& stop)
{
    const auto post = [this](auto call) { QMetaObject::invokeMethod(this, call, Qt::QueuedConnection); };
    const Drawing drawing(width, height);
    QStringList findings;
    for (std::size_t i = 0; i < specs.size() && drawing.hooks && !stop.stop_requested(); ++i) {
        const double done = static_cast<double>(i) / static_cast<double>(specs.size());
        const ReachResult result = findReach(
            specs[i], *drawing.hooks,
            [&](const ReachResult&, const std::string& doing) {
                post([this, done, text = QString::fromStdString(doing)] { emit progressed(done, text, -1); });
            },
            stop);
        if (result.stopped)
            break;
        for (const std::string& finding : findingsOf(result))
            findings << QString::fromStdString(finding);
    }
    post([this, findings, trouble = drawing.trouble] {
        m_running = false;
        if (!findings.isEmpty())
            emit reachFound(findings);
        emit finished(trouble);
    });
}

void TransectRunner::setBudget(double ms)
{
    m_result.a.draw.budget = ms;
    if (m_result.b)
        m_result.b->draw.budget = ms;
    concludeFromRows(m_result);
    emit resultChanged();
}

} // namespace fell::app

#include "moc_transect_runner.cpp"
