// SPDX-License-Identifier: GPL-3.0-or-later
// The bench of the stage Edit: tools, their reach, the kinds of block on the number keys, and what the last edit cost.
#pragma once

#include <fell/app/models/world_session.h>

#include <QKeySequence>
#include <QLabel>
#include <QWidget>

class QComboBox;
class QPushButton;
class QSlider;
class QToolButton;
class QVBoxLayout;

namespace fell::app {

/// The key that takes a tool into the hand.
QKeySequence keyOf(ToolKind kind);

class EditPanel : public QWidget {
    Q_OBJECT
public:
    explicit EditPanel(WorldSession& session, QWidget* parent = nullptr);

    void refresh();

signals:
    void saveWanted(); // of the world; who knows the file or asks for one does it

private:
    void addTools(QVBoxLayout* column);
    void addRadius(QVBoxLayout* column);
    void addPalette(QVBoxLayout* column);
    void addUndo(QVBoxLayout* column);
    void fillKinds();

    WorldSession& m_session;
    std::vector<QToolButton*> m_tools, m_slots;
    QSlider* m_radius = nullptr;
    QLabel *m_radiusText = nullptr, *m_figures = nullptr, *m_kept = nullptr;
    QComboBox* m_kind = nullptr;
    std::shared_ptr<const Terrain> m_kindsOf; // the world whose kinds are listed
    QPushButton *m_undo = nullptr, *m_redo = nullptr, *m_save = nullptr;
};

} // namespace fell::app
