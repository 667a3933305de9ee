// SPDX-License-Identifier: GPL-3.0-or-later
// The ledger in the background: a thread reads and writes it, so that the window never waits for the disk.
#pragma once

#include <fell/measure/ledger.h>

#include <QObject>
#include <QString>

#include <condition_variable>
#include <deque>
#include <functional>
#include <mutex>
#include <thread>

namespace fell::app {

class LedgerKeeper : public QObject {
    Q_OBJECT
public:
    /// Opens the file when it is first needed.
    explicit LedgerKeeper(std::filesystem::path file, QObject* parent = nullptr);
    /// Ends when what was asked for is done.
    ~LedgerKeeper() override;

    void openElsewhere(const std::filesystem::path& file);
    [[nodiscard]] const QString& search() const { return m_search; }

    // Each is done in turn, and ends in one of the signals; those that change something refresh the list.
    void list(const QString& search);
    void keep(const TransectResult& trial);
    void show(std::int64_t id);
    void compare(std::int64_t first, std::int64_t second);
    void pin(std::int64_t id, bool isPinned);
    void setTags(std::int64_t id, const QString& tags);
    void remove(std::vector<std::int64_t> ids);
    void exportTo(const QString& file, std::vector<std::int64_t> ids); // as CSV where the name ends so
    void importFrom(const QString& file);

signals:
    void listed(const std::vector<TrialEntry>& entries);
    void loaded(const TransectResult& trial); // shown, or two compared
    void kept(std::int64_t id, const QString& againstBaseline); // empty where none is pinned
    void note(const QString& sentence);
    void trouble(const QString& sentence);

private:
    using Job = std::function<void(Ledger&)>;
    void add(Job job);
    void addChange(const std::function<std::optional<Problem>(Ledger&)>& change);
    void work(const std::stop_token& stop);
    void say(const Problem& problem);
    void listNow(Ledger& ledger, const QString& search);
    template <typename Call> void post(Call call); // to the window's thread

    std::filesystem::path m_file;
    QString m_search;
    std::mutex m_mutex; // of m_jobs and m_file
    std::condition_variable_any m_wake;
    std::deque<Job> m_jobs;
    std::unique_ptr<Ledger> m_ledger; // the worker's
    std::jthread m_thread; // last: ends first
};

} // namespace fell::app
