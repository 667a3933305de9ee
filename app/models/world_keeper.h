// SPDX-License-Identifier: GPL-3.0-or-later
// Keeps the world's changes in a file, on a separate thread: "saved" is said when they are on the disk.
#pragma once

#include <fell/save/world_file.h>
#include <fell/terrain/terrain.h>

#include <QObject>
#include <QString>
#include <QTimer>

#include <condition_variable>
#include <deque>
#include <functional>
#include <mutex>
#include <thread>
#include <unordered_set>

namespace fell::app {

class WorldKeeper : public QObject {
    Q_OBJECT
public:
    explicit WorldKeeper(QObject* parent = nullptr);
    /// Ends when what was asked for is on the disk.
    ~WorldKeeper() override;

    /// The changes of the world that is shown from now on; the file that was open is closed, and a world that is being
    /// read is not shown any more.
    void follow(std::shared_ptr<WorldChanges> changes);

    /// How new files are made, and how often what was changed is saved.
    void choose(const KeepChoices& choices);
    /// Gives the chunks that are resident, for files that keep what was visited; nothing while they cannot be read.
    std::function<std::optional<ResidentVoxels>()> residents;
    /// What these are now; nothing where they cannot be had within 20 ms.
    [[nodiscard]] ResidentVoxels visited() const;
    /// Gives the setups and routes that belong to the world: they are put into the file with each save that is asked
    /// for.
    std::function<std::vector<WorldFile::Text>()> documents;

    /// Asked when a world has been read while the one that is shown got changes that are in no file: false keeps that
    /// one.
    std::function<bool()> mayReplace;

    /// Makes a file with all changes so far in it, and keeps to it. Ends in saved or trouble, and then no file is left.
    void saveAs(const QString& file, const WorldHeader& header);
    /// What was changed since the last time. Nothing happens without a file.
    void save(bool isAsked = true); // if not, saved is not emitted
    /// Reads a world; ends in opened or trouble, and then nothing has changed. Until then saves go to the file that is
    /// open.
    void open(const QString& file);
    /// Removes rows that cannot be read from the file, so that the recipe regenerates their chunks.
    void dropDamaged(std::vector<DamagedRow> rows);

    [[nodiscard]] const QString& fileName() const { return m_name; } // empty: none
    [[nodiscard]] bool hasFile() const { return !m_name.isEmpty(); }
    [[nodiscard]] bool isSaving() const { return m_saving > 0; }
    /// Changed chunks that are on no disk.
    [[nodiscard]] std::size_t unsaved() const;
    /// In a few words: "saved in dale.fell", "12 of them not in dale.fell yet", "in no file yet".
    [[nodiscard]] QString state() const;

signals:
    void opened(std::shared_ptr<const fell::terrain::Terrain> terrain,
        std::shared_ptr<fell::save::WorldChanges> changes, const std::vector<fell::save::DamagedRow>& damaged,
        const QString& readOnly, const std::vector<fell::save::WorldFile::Text>& documents);
    void saved(const QString& file);
    void trouble(const QString& sentence);
    void changed();

private:
    /// A file that is open, and what the worker knows of it. Each job carries the one that it belongs to, so that a
    /// save never goes into another world's file.
    struct OpenFile {
        std::shared_ptr<WorldFile> world; // the worker's
        std::unordered_set<ChunkPos, ChunkPosHash> whole; // chunks that are in it whole; the worker's
    };
    using Job = std::function<void()>;
    void add(Job job);
    void adopt(std::shared_ptr<OpenFile> file);
    struct ReadWorld;
    Outcome<ReadWorld> read(const QString& file, const std::shared_ptr<OpenFile>& now);
    void work(const std::stop_token& stop);
    template <typename Call> void post(Call call); // to the window's thread
    using Changes = std::vector<std::pair<ChunkPos, std::shared_ptr<const KeptVoxels>>>;
    void write(Changes chunks, bool isAsked);
    std::optional<Problem> saveTo(OpenFile& file, const Changes& changes, const ResidentVoxels& visited);
    [[nodiscard]] std::vector<WorldFile::Text> allDocuments() const;

    std::shared_ptr<WorldChanges> m_changes;
    QString m_name; // of the file; empty: none
    QString m_readOnly;
    KeepChoices m_choices;
    bool m_keepsVisited = false; // the open file does
    std::shared_ptr<OpenFile> m_open; // null: none
    int m_saving = 0;
    bool m_isMoving = false; // to another file; saves wait for it
    bool m_saveWhenMoved = false;
    unsigned m_request = 0; // counts open() and follow(): an older world that has been read is not shown
    QTimer m_autosave;
    std::mutex m_mutex; // of m_jobs
    std::condition_variable_any m_wake;
    std::deque<Job> m_jobs;
    std::jthread m_thread; // last: ends first
};

/// What a terrain is made from, as a file keeps it.
WorldHeader headerOf(const Terrain& terrain, const KeepChoices& choices = {});

} // namespace fell::app
