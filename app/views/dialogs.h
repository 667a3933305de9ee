// SPDX-License-Identifier: GPL-3.0-or-later
// What the window asks its user. Controllers know only this interface: a test can answer in the user's place.
#pragma once

#include <fell/exchange/surface.h>
#include <fell/exchange/world_import.h>

#include <QString>

#include <functional>
#include <optional>
#include <vector>

class QWidget;

namespace fell::app {

/// A question with a few answers. Closing it counts as the last one, which is also the default.
struct Question {
    enum class Role { Accept, Destroy, Reject };
    struct Answer {
        QString name; // of its button, for tests and style sheets
        QString text;
        Role role = Role::Accept;
    };
    QString name; // of the dialog
    QString title;
    QString text;
    QString details; // shown below; may be empty
    std::vector<Answer> answers; // at least one
};

/// A box of the world, and the file that its surface goes to.
struct ExportChoice {
    VoxelBox box;
    std::string format; // of meshFileFormats()
    QString file;
};

class Dialogs {
public:
    virtual ~Dialogs() = default;
    /// A file that exists; empty if none was chosen. `filter`: as QFileDialog has it.
    virtual QString openFile(const QString& title, const QString& folder, const QString& filter) = 0;
    /// A file to write; empty if none was chosen. `confirms`: the dialog asks before one that exists is replaced.
    virtual QString saveFile(
        const QString& title, const QString& suggested, const QString& filter, bool confirms = true)
        = 0;
    /// A line of text, trimmed; empty if none was given.
    virtual QString line(const QString& title, const QString& label, const QString& suggested) = 0;
    /// The number of the answer that was chosen.
    virtual std::size_t choose(const Question& question) = 0;
    /// What a height map or a volume is to become, without the file to make. Asserts that it can be imported.
    virtual std::optional<ImportSpec> importOf(const QString& file, const Recipe& like) = 0;
    /// A box that begins round `middle`, in voxels. `shown` hears of every box on the way.
    virtual std::optional<ExportChoice> exportOf(
        VoxelPos middle, const Recipe& recipe, const QString& mesher, const std::function<void(const VoxelBox&)>& shown)
        = 0;

    /// A question with two answers; the second is the default. True for the first.
    bool confirms(
        const QString& name, const QString& title, const QString& text, const QString& yes, const QString& no);
};

/// Dialogs over a window.
class WindowDialogs final : public Dialogs {
public:
    explicit WindowDialogs(QWidget* window)
        : m_window(window)
    {
    }
    QString openFile(const QString& title, const QString& folder, const QString& filter) override;
    QString saveFile(const QString& title, const QString& suggested, const QString& filter, bool confirms) override;
    QString line(const QString& title, const QString& label, const QString& suggested) override;
    std::size_t choose(const Question& question) override;
    std::optional<ImportSpec> importOf(const QString& file, const Recipe& like) override;
    std::optional<ExportChoice> exportOf(VoxelPos middle, const Recipe& recipe, const QString& mesher,
        const std::function<void(const VoxelBox&)>& shown) override;

private:
    QWidget* m_window;
};

} // namespace fell::app
