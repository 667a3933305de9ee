// SPDX-License-Identifier: GPL-3.0-or-later
// How the field shows the world: nothing of it is measured or saved.
#pragma once

#include <fell/cull/view.h>
#include <fell/gpu/daylight.h>
#include <fell/gpu/renderer.h>

#include <QObject>

#include <array>
#include <optional>
#include <utility>

namespace fell::app {

/// What the field shows in place of textures, and how far the wipe between two setups is drawn.
struct FieldLook {
    Paint paint = Paint::Textures;
    bool wireframe = false;
    double wipe = 0.5; // of the width: setup A to the left of it, B to the right
    int channel = 0; // of light, for Paint::Light
    double sunHeight = kLateMorning; // degrees above the horizon
    std::optional<Eye> frozen; // culling is held where the eye was then
    bool ghosts = false; // what was rejected is drawn in the colour of the step that rejected it
    bool octree = false; // its nodes as lines
    std::optional<ChunkPos> marked; // a box around one chunk
    std::optional<std::array<VoxelPos, 2>> box; // that is about to be exported: lowest corner, and one past the highest
    double fieldOfView = 0; // degrees, in place of the setup's; 0: the setup's
    QString why; // what is shown by it
    bool operator==(const FieldLook&) const = default;
};

/// The look, and who is told of a change. A class because every panel that shows a part of it follows the others.
class ViewState : public QObject {
    Q_OBJECT
public:
    [[nodiscard]] const FieldLook& operator*() const { return m_look; }
    const FieldLook* operator->() const { return &m_look; }
    /// Lets `change` alter a copy, which becomes the look: changed() follows where it differs from the one before.
    template <typename Change> void change(const Change& change)
    {
        FieldLook next = m_look;
        change(next);
        set(std::move(next));
    }
    void set(FieldLook next)
    {
        if (next == m_look)
            return;
        m_look = std::move(next);
        emit changed();
    }

signals:
    void changed();

private:
    FieldLook m_look;
};

} // namespace fell::app
