// SPDX-License-Identifier: GPL-3.0-or-later
// The tool in hand as lines in the field: what it is on, how far it reaches, charges that count down, debris that
// falls.
#pragma once

#include <fell/app/models/tool_hand.h>
#include <fell/gpu/renderer.h>

namespace fell::app {

/// Adds them all, drawn over everything where that helps to see them. Comes after all other lines.
/// Units  `blocks` give debris its colours.
void addTool(LineBatch& lines, const ToolHand& editor, const BlockSet& blocks);

} // namespace fell::app
