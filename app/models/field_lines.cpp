// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/field_lines.h>

#include <fell/app/models/cull_lines.h>
#include <fell/app/models/edit_lines.h>

namespace fell::app {

/// Rebuilt where what they show has changed, a few times a second at most while only the eye moves.
void FieldLines::makeStanding(const WorldSession& session, const Setup& setup, const OctreeCells& cells, double aspect)
{
    constexpr qint64 kAgainMs = 300;
    const FieldLook& look = *session.look;
    const double fieldOfView = look.fieldOfView > 0 ? look.fieldOfView : setup.draw.fieldOfView;
    const ChunkPos here = chunkOf(session.eye.cell, setup.chunk.edge);
    const OctreeCells shown = look.octree ? cells : nullptr;
    const Drawn wanted{shown, look.frozen, look.marked, look.box, shown ? here : ChunkPos{},
        look.frozen ? fieldOfView : 0, look.frozen ? aspect : 0};
    Drawn same = wanted;
    same.here = m_drawn.here;
    same.cells = m_drawn.cells;
    const bool isRecent = m_since.isValid() && m_since.elapsed() < kAgainMs;
    if (m_standing && (wanted == m_drawn || (same == m_drawn && isRecent)))
        return;
    m_drawn = wanted;
    m_since.start();
    auto lines = std::make_shared<LineBatch>();
    lines->from = originOf(here, setup.chunk.edge);
    m_left = shown ? addOctree(*lines, *shown, setup.chunk.edge, here) : 0;
    if (look.frozen) {
        Lens lens;
        lens.fieldOfView = static_cast<float>(fieldOfView);
        lens.aspect = static_cast<float>(aspect);
        addView(*lines, *look.frozen, lens, static_cast<double>(setup.stream.distance) * setup.chunk.edge);
    }
    if (look.box)
        addBox(*lines, (*look.box)[0], (*look.box)[1]);
    if (look.marked)
        addChunk(*lines, *look.marked, setup.chunk.edge);
    m_standing = std::move(lines);
}

std::shared_ptr<const LineBatch> FieldLines::update(
    const WorldSession& session, const Setup& setup, const OctreeCells& cells, double aspect, bool withTool)
{
    makeStanding(session, setup, cells, aspect);
    const ToolHand& editor = session.editor;
    const bool hasTool
        = withTool && ((editor.tool() && editor.target) || !editor.charges().empty() || !editor.debris().empty());
    if (!hasTool) {
        m_isOfTool = false;
        return m_all = m_standing;
    }
    // Behind a copy of the others, and a new object only where it differs: a tool that rests needs no new frame.
    LineBatch all = *m_standing;
    if (all.vertices.empty())
        all.from = originOf(chunkOf(session.eye.cell, setup.chunk.edge), setup.chunk.edge);
    addTool(all, editor, session.terrain().recipe.blocks);
    if (!m_isOfTool || !m_all || !(*m_all == all))
        m_all = std::make_shared<const LineBatch>(std::move(all));
    m_isOfTool = true;
    return m_all;
}

} // namespace fell::app
