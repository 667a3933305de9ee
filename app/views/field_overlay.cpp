// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/field_overlay.h>

#include <fell/app/models/text.h>
#include <fell/app/models/world_session.h>
#include <fell/app/views/theme.h>

#include <QCoreApplication>

#include <cmath>

namespace fell::app {
namespace {

constexpr int kChipLeft = 12, kStep = 34; // pixels: of chips

QString tr(const char* text)
{
    return QCoreApplication::translate("FieldOverlay", text);
}

/// The tool in hand, and charges that count down.
void addTool(std::vector<FieldOverlay::Chip>& chips, const WorldSession& session, int under)
{
    const ToolHand& editor = session.editor;
    for (const ToolHand::Charge& charge : editor.charges()) {
        chips.push_back({kChipLeft, under, tr("Charge set"), tr("%1 s").arg(charge.left, 0, 'f', 1)});
        under += kStep;
    }
    if (!editor.tool())
        return;
    const Tool& tool = toolOf(*editor.tool());
    const auto& kinds = session.terrain().recipe.blocks.kinds;
    QString text = tool.takesRadius ? tr("radius %1 · ").arg(editor.radius()) : QString();
    if (tool.takesMaterial)
        text += tr("%1 · ").arg(
            editor.material() == kOpen ? tr("air") : QString::fromStdString(kinds[editor.material()].name));
    text += editor.boxFrom() ? tr("click the opposite corner · Esc cancels")
                             : tr("click to use · Ctrl and drag to go on · Esc puts it away");
    const QString title = QString::fromUtf8(tool.title);
    chips.push_back({kChipLeft, under, title.left(1).toUpper() + title.mid(1), text});
    if (editor.figures().missing > 0)
        chips.push_back({kChipLeft, under + kStep, tr("%1 voxels left out").arg(countText(editor.figures().missing)),
            tr("their chunks are not there yet")});
}

void addChips(std::vector<FieldOverlay::Chip>& chips, const WorldSession& session, const FieldKnown& known)
{
    const auto above = session.metresAboveGround();
    const QString height
        = above ? tr("%1 m above the ground · ").arg(static_cast<int>(std::lround(*above))) : QString();
    const QString pace = !session.isWalking() ? tr("%1 m/s").arg(figureText(session.flight.speed))
        : session.body().isSwimming           ? tr("swimming · Space up · F flies")
                                              : tr("walking · Space jumps · F flies");
    chips.push_back({kChipLeft, 12, QString::fromStdString(session.terrain().recipe.name), height + pace});
    int under = 46;
    const auto add = [&](const QString& strong, const QString& text) {
        chips.push_back({kChipLeft, under, strong, text});
        under += kStep;
    };
    if (const std::uint64_t left = known.a.notDrawn + (session.hasB() ? known.b.notDrawn : 0); left > 0)
        add(tr("%1 blocks not drawn").arg(countText(left)),
            tr("draw per block stops at %1 draws").arg(countText(kMaxBlockDraws)));
    if (!session.look->why.isEmpty())
        add(tr("Marked"), session.look->why);
    if (session.look->frozen)
        add(tr("Culling is frozen"), tr("at the camera position where the purple lines meet; F6 unfreezes"));
    if (session.look->octree && known.cellsLeft > 0)
        add(tr("Octree"), tr("%1 small cells farther away are not drawn").arg(countText(known.cellsLeft)));
    addTool(chips, session, under);
    if (!known.probe.isEmpty() && !known.lightLevels.isEmpty())
        chips.push_back({kChipLeft, -72, tr("Light before it"),
            known.lightSource.isEmpty() ? known.lightLevels
                                        : known.lightLevels + QStringLiteral(" — ") + known.lightSource});
    if (!known.probe.isEmpty())
        chips.push_back({kChipLeft, -38, tr("Under the pointer"), known.probe});
    else if (!known.wasDragged)
        chips.push_back(
            {kChipLeft, -38, tr("Drag to look"), tr("W A S D to fly · E up, Q down · wheel for speed · Shift fast")});
}

/// Which step's ghosts have which colour and stripes, and how many chunks, or directions of chunks, they are.
std::vector<FieldOverlay::Ghost> ghostsOf(const WorldSession& session, const FrameReport& report)
{
    std::vector<FieldOverlay::Ghost> out;
    const auto& steps = session.setup().cull.steps;
    for (std::size_t i = 0; i < steps.size() && i < report.culled.size(); ++i) {
        const CullStep* step = findCullStep(steps[i]);
        const QString rejected = countText(report.culled[i].rejected);
        out.push_back({step, rejected});
    }
    return out;
}

QString differenceText(const std::optional<double>& differ)
{
    constexpr double kMin = 0.005; // below, two digits say nothing
    if (!differ)
        return tr("Fell compares the frames when both are complete and the camera rests");
    if (*differ == 0)
        return tr("the two pictures are the same");
    return *differ < kMin ? tr("the pictures differ by less than 0.01 of 255")
                          : tr("the pictures differ by %1 of 255").arg(figureText(*differ));
}

void paintPlate(QPainter& painter, const QRect& box, double opacity)
{
    QColor back = currentTheme().panel;
    back.setAlphaF(static_cast<float>(opacity));
    painter.setPen(Qt::NoPen);
    painter.setBrush(back);
    painter.drawRoundedRect(box, 3, 3);
}

void paintChip(QPainter& painter, const FieldOverlay::Chip& chip, QSize size)
{
    const Theme& theme = currentTheme();
    const QFont bold = uiFont(12, true), normal = uiFont(12);
    const int strongWidth = QFontMetrics(bold).horizontalAdvance(chip.strong),
              width = strongWidth + figuresWidth(normal, chip.text) + 30,
              y = chip.y < 0 ? size.height() + chip.y : chip.y;
    paintPlate(painter, QRect(chip.x, y, width, 26), 0.88);
    painter.setPen(theme.ink);
    painter.setFont(bold);
    painter.drawText(chip.x + 10, y + 18, chip.strong);
    painter.setPen(theme.muted);
    painter.setFont(normal);
    drawFigures(painter, chip.x + 20 + strongWidth, y + 18, chip.text);
}

void paintGhosts(QPainter& painter, const std::vector<FieldOverlay::Ghost>& ghosts, QSize size)
{
    const Theme& theme = currentTheme();
    constexpr int kLine = 20, kWide = 236;
    const int high = static_cast<int>(ghosts.size()) * kLine + 30, x = size.width() - kWide - 12;
    paintPlate(painter, QRect(x, 12, kWide, high), 0.9);
    painter.setPen(theme.ink);
    painter.setFont(uiFont(12, true));
    painter.drawText(x + 10, 30, ghosts.empty() ? tr("No step rejects anything") : tr("Rejected by"));
    int y = 36;
    for (const FieldOverlay::Ghost& ghost : ghosts) {
        const GhostLook look = ghostLook(*ghost.step);
        painter.fillRect(QRect(x + 10, y + 3, 22, 13), QColor(look.colour[0], look.colour[1], look.colour[2]));
        painter.setPen(QPen(theme.panel, 1.5));
        for (int line = 4; line < 22; line += 5) {
            if ((look.stripes & 1) && line < 13)
                painter.drawLine(x + 10, y + 3 + line, x + 31, y + 3 + line);
            if (look.stripes & 2)
                painter.drawLine(x + 10 + line, y + 3, x + 10 + line, y + 15);
        }
        painter.setPen(theme.ink);
        painter.setFont(uiFont(12));
        painter.drawText(x + 40, y + 14, QString::fromUtf8(ghost.step->title));
        painter.setPen(theme.muted);
        drawFigures(painter, x + kWide - 10 - figuresWidth(uiFont(12), ghost.count), y + 14, ghost.count);
        y += kLine;
    }
}

void paintWipe(QPainter& painter, const FieldOverlay::Wipe& wipe, QSize size)
{
    const Theme& theme = currentTheme();
    const int x = wipe.x;
    painter.setPen(QPen(theme.panel, 3));
    painter.drawLine(x, 0, x, size.height());
    painter.setPen(QPen(theme.selection, 1));
    painter.drawLine(x, 0, x, size.height());
    for (const bool b : {false, true}) {
        const QString& text = b ? wipe.b : wipe.a;
        painter.setFont(uiFont(12, true));
        const int wide = painter.fontMetrics().horizontalAdvance(text) + 18;
        const QRect box(b ? x + 8 : x - 8 - wide, 12, wide, 24);
        painter.setPen(Qt::NoPen);
        painter.setBrush(b ? theme.setupB : theme.setupA);
        painter.drawRoundedRect(box, 3, 3);
        painter.setPen(b ? theme.onB : theme.onColour);
        painter.drawText(box, Qt::AlignCenter, text);
    }
    painter.setFont(uiFont(12));
    const int wide = figuresWidth(painter.font(), wipe.text) + 20;
    const QRect box(std::clamp(x - wide / 2, 8, std::max(8, size.width() - wide - 8)), 42, wide, 24);
    paintPlate(painter, box, 0.9);
    painter.setPen(theme.ink);
    drawFigures(painter, box.left() + 10, box.top() + 17, wipe.text);
    painter.setPen(QPen(theme.selection, 1));
    painter.setBrush(theme.panel);
    painter.drawRoundedRect(QRect(x - 6, size.height() / 2 - 18, 12, 36), 3, 3);
    painter.drawLine(x - 2, size.height() / 2 - 8, x - 2, size.height() / 2 + 8);
    painter.drawLine(x + 2, size.height() / 2 - 8, x + 2, size.height() / 2 + 8);
}

} // namespace

FieldOverlay overlayOf(const WorldSession& session, const FieldKnown& known)
{
    FieldOverlay out;
    out.isDark = currentTheme().dark;
    addChips(out.chips, session, known);
    if (session.look->ghosts && !session.stepTrial.isRunning())
        out.ghosts = ghostsOf(session, known.a);
    if (known.wipeAt >= 0)
        out.wipe = FieldOverlay::Wipe{known.wipeAt, tr("A  %1").arg(QString::fromStdString(session.setup().name)),
            tr("B  %1").arg(QString::fromStdString(session.setupB().name)), differenceText(known.difference)};
    return out;
}

void paint(QPainter& painter, const FieldOverlay& overlay, QSize size)
{
    painter.setRenderHint(QPainter::Antialiasing);
    for (const FieldOverlay::Chip& chip : overlay.chips)
        paintChip(painter, chip, size);
    if (overlay.ghosts)
        paintGhosts(painter, *overlay.ghosts, size);
    if (overlay.wipe)
        paintWipe(painter, *overlay.wipe, size);
}

} // namespace fell::app
