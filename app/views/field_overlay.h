// SPDX-License-Identifier: GPL-3.0-or-later
// The overlay of the field: chips, the legend of culled chunks, the wipe between two setups.
#pragma once

#include <fell/cull/steps.h>
#include <fell/namespaces.h>

#include <QPainter>
#include <QSize>
#include <QString>

#include <optional>
#include <vector>

namespace fell::gpu {
struct FrameReport;
}

namespace fell::app {

class WorldSession;

/// All of it as texts and places, so that it can be told whether it must be painted again.
struct FieldOverlay {
    struct Chip {
        int x = 0, y = 0; // pixels; y below 0: from the bottom
        QString strong, text;
        bool operator==(const Chip&) const = default;
    };
    struct Ghost { // a line of the key
        const CullStep* step = nullptr;
        QString count;
        bool operator==(const Ghost&) const = default;
    };
    struct Wipe {
        int x = 0; // pixels
        QString a, b, text;
        bool operator==(const Wipe&) const = default;
    };
    std::vector<Chip> chips;
    std::optional<std::vector<Ghost>> ghosts;
    std::optional<Wipe> wipe;
    bool isDark = false; // the theme
    bool operator==(const FieldOverlay&) const = default;
};

/// What the window knows next to the session.
struct FieldKnown {
    const FrameReport& a;
    const FrameReport& b;
    std::size_t cellsLeft = 0; // of the octree, not drawn
    QString probe, lightLevels, lightSource;
    bool wasDragged = false; // the first hint is no longer needed
    int wipeAt = -1; // pixels; -1: there is no setup B
    std::optional<double> difference;
};
FieldOverlay overlayOf(const WorldSession& session, const FieldKnown& known);

void paint(QPainter& painter, const FieldOverlay& overlay, QSize size);

} // namespace fell::app
