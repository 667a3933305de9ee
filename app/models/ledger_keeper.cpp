// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/ledger_keeper.h>

#include <fell/input/text_file.h>
#include <fell/measure/findings.h>

#include <algorithm>

namespace fell::app {
namespace {

/// What the new trial says of the pinned one: the last frame ratio, or the last of all.
QString wordsAgainst(const TransectResult& now, const TransectResult& baseline)
{
    const auto both = asComparison(now, baseline);
    if (!both || both.value().ratios.empty())
        return QObject::tr("nothing can be compared with the pinned baseline");
    const auto& ratios = both.value().ratios;
    const auto last = std::find_if(
        ratios.rbegin(), ratios.rend(), [](const TransectRatio& ratio) { return ratio.what == "frame_ms"; });
    const TransectRatio& ratio = last == ratios.rend() ? ratios.back() : *last;
    return QObject::tr("against the pinned baseline (B), at %1: %2")
        .arg(QString::fromStdString(shownPlace(ratio.value, ratio.second)),
            QString::fromStdString(verdictOf(ratio, both.value().rounds)));
}

} // namespace

LedgerKeeper::LedgerKeeper(std::filesystem::path file, QObject* parent)
    : QObject(parent)
    , m_file(std::move(file))
    , m_thread([this](const std::stop_token& stop) { work(stop); })
{
}

LedgerKeeper::~LedgerKeeper()
{
    m_thread.request_stop(); // wakes it; it does what is left first
    m_thread.join();
}

template <typename Call> void LedgerKeeper::post(Call call)
{
    QMetaObject::invokeMethod(this, std::move(call), Qt::QueuedConnection);
}

void LedgerKeeper::say(const Problem& problem)
{
    post([this, text = QString::fromStdString(sentence(problem))] { emit trouble(text); });
}

void LedgerKeeper::work(const std::stop_token& stop)
{
    while (true) {
        Job job;
        std::filesystem::path file;
        {
            std::unique_lock lock(m_mutex);
            m_wake.wait(lock, stop, [this] { return !m_jobs.empty(); });
            if (m_jobs.empty())
                return;
            job = std::move(m_jobs.front());
            m_jobs.pop_front();
            file = m_file;
        }
        try {
            if (!m_ledger) {
                auto opened = Ledger::open(file);
                if (!opened) {
                    say(opened.problem());
                    continue;
                }
                m_ledger = opened.take();
            }
            job(*m_ledger);
        } catch (const std::exception& error) { // no memory, or what nothing foresaw: the window goes on
            say({file.string(), "", std::string("stopped by an unexpected error: ") + error.what()});
        }
    }
}

void LedgerKeeper::add(Job job)
{
    {
        const std::lock_guard lock(m_mutex);
        m_jobs.push_back(std::move(job));
    }
    m_wake.notify_one();
}

void LedgerKeeper::addChange(const std::function<std::optional<Problem>(Ledger&)>& change)
{
    add([this, change, search = m_search](Ledger& ledger) {
        if (const auto problem = change(ledger))
            say(*problem);
        listNow(ledger, search);
    });
}

void LedgerKeeper::listNow(Ledger& ledger, const QString& search)
{
    auto entries = ledger.find(search.toStdString());
    if (!entries)
        return say(entries.problem());
    post([this, entries = entries.take()] { emit listed(entries); });
}

void LedgerKeeper::openElsewhere(const std::filesystem::path& file)
{
    {
        const std::lock_guard lock(m_mutex);
        m_file = file;
    }
    // The worker itself closes the one in use, before it opens another.
    add([this](Ledger&) { m_ledger.reset(); });
}

void LedgerKeeper::list(const QString& search)
{
    m_search = search;
    add([this, search](Ledger& ledger) { listNow(ledger, search); });
}

void LedgerKeeper::keep(const TransectResult& trial)
{
    add([this, trial, search = m_search](Ledger& ledger) {
        const auto id = ledger.keep(trial);
        if (!id)
            return say(id.problem());
        QString words;
        const auto baseline = ledger.baselineOf(trial);
        if (baseline && baseline.value() && *baseline.value() != id.value())
            if (const auto then = ledger.load(*baseline.value()))
                words = wordsAgainst(trial, then.value());
        post([this, id = id.value(), words] { emit kept(id, words); });
        listNow(ledger, search);
    });
}

void LedgerKeeper::show(std::int64_t id)
{
    add([this, id](Ledger& ledger) {
        auto trial = ledger.load(id);
        if (!trial)
            return say(trial.problem());
        post([this, trial = trial.take()] { emit loaded(trial); });
    });
}

void LedgerKeeper::compare(std::int64_t first, std::int64_t second)
{
    add([this, first, second](Ledger& ledger) {
        const auto a = ledger.load(first), b = ledger.load(second);
        if (!a)
            return say(a.problem());
        if (!b)
            return say(b.problem());
        auto both = asComparison(a.value(), b.value());
        if (!both)
            return say(both.problem());
        post([this, both = both.take()] { emit loaded(both); });
    });
}

void LedgerKeeper::pin(std::int64_t id, bool isPinned)
{
    addChange([id, isPinned](Ledger& ledger) { return ledger.pin(id, isPinned); });
}

void LedgerKeeper::setTags(std::int64_t id, const QString& tags)
{
    addChange([id, tags](Ledger& ledger) { return ledger.setTags(id, tags.toStdString()); });
}

void LedgerKeeper::remove(std::vector<std::int64_t> ids)
{
    addChange([ids = std::move(ids)](Ledger& ledger) { return ledger.remove(ids); });
}

void LedgerKeeper::exportTo(const QString& file, std::vector<std::int64_t> ids)
{
    add([this, file, ids = std::move(ids)](Ledger& ledger) {
        const bool isCsv = file.endsWith(QStringLiteral(".csv"), Qt::CaseInsensitive);
        const auto text = isCsv ? ledger.exportCsv(ids) : ledger.exportJson(ids);
        if (!text)
            return say(text.problem());
        if (const auto problem = writeFile(file.toStdString(), text.value()))
            return say(*problem);
        post([this, file, count = ids.size()] {
            emit note(
                count == 1 ? tr("Saved a trial to %1").arg(file) : tr("Saved %1 trials to %2").arg(count).arg(file));
        });
    });
}

void LedgerKeeper::importFrom(const QString& file)
{
    add([this, file, search = m_search](Ledger& ledger) {
        const auto text = readFile(file.toStdString(), std::size_t{1} << 30);
        if (!text)
            return say(text.problem());
        const auto counts = ledger.importJson(text.value(), file.toStdString());
        if (!counts)
            return say(counts.problem());
        post([this, counts = counts.value()] {
            emit note(tr("%1 trials added, %2 were there already").arg(counts.added).arg(counts.known));
        });
        listNow(ledger, search);
    });
}

} // namespace fell::app

#include "moc_ledger_keeper.cpp"
