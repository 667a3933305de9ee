// SPDX-License-Identifier: GPL-3.0-or-later
// The lines of one setup's picture: octree, held view, marked chunk and box, and the tool in hand.
#pragma once

#include <fell/app/models/world_session.h>

#include <QElapsedTimer>

#include <memory>
#include <vector>

namespace fell::app {

using OctreeCells = std::shared_ptr<const std::vector<OctreeCell>>;

/// A class because it remembers what its lines were made of: an octree has thousands of cells.
class FieldLines {
public:
    /// The lines as they are now: the same object as long as nothing has changed, so that it can be told whether a new
    /// frame is needed. `cells`: of the octree, null where they are not known; `aspect`: width over height.
    std::shared_ptr<const LineBatch> update(
        const WorldSession& session, const Setup& setup, const OctreeCells& cells, double aspect, bool withTool);
    /// Cells of the octree that are not drawn.
    [[nodiscard]] std::size_t left() const { return m_left; }

private:
    struct Drawn {
        OctreeCells cells;
        std::optional<Eye> frozen;
        std::optional<ChunkPos> marked;
        std::optional<std::array<VoxelPos, 2>> box;
        ChunkPos here;
        double fieldOfView = 0, aspect = 0; // where the held view is drawn
        bool operator==(const Drawn&) const = default;
    };
    void makeStanding(const WorldSession& session, const Setup& setup, const OctreeCells& cells, double aspect);

    std::shared_ptr<const LineBatch> m_standing, m_all;
    bool m_isOfTool = false; // m_all holds the tool's too
    Drawn m_drawn;
    std::size_t m_left = 0;
    QElapsedTimer m_since;
};

} // namespace fell::app
