// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/map_canvas.h>

#include <fell/app/models/text.h>
#include <fell/app/views/painted_view.h>
#include <fell/app/views/theme.h>

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>

#include <cmath>

namespace fell::app {
namespace {

constexpr double kGrip = 9; // pixels
constexpr int kFewest = 16; // pixels of a map

QImage imageOf(const TerrainMap& map, const BlockSet& blocks, MapLook look)
{
    if (map.heights.empty())
        return {};
    const auto pixels = pictureOf(map, blocks, look);
    return QImage(pixels.data(), map.width, map.height, map.width * 3, QImage::Format_RGB888).copy();
}

QString metresText(double metres)
{
    return metres >= 10000 ? QObject::tr("%1 km").arg(figureText(metres / 1000))
                           : QObject::tr("%1 m").arg(std::lround(metres));
}

} // namespace

MapCanvas::MapCanvas(RecipeEditor& editor, QWidget* parent)
    : QWidget(parent)
    , m_editor(editor)
{
    setObjectName(QStringLiteral("recipeMap"));
    setMinimumSize(320, 200);
    setMouseTracking(true);
    setToolTip(
        tr("Drag the ends of the line to move the section, the map to move over the ground; the wheel shows more "
           "or less of it. With the keyboard: the arrows move over the ground, with Shift the end of the section, with "
           "Ctrl "
           "its start; plus and minus show less or more."));
    makeReachable(*this, tr("Map of the recipe"));
    connect(&editor, &RecipeEditor::previewed, this, &MapCanvas::refresh);
}

void MapCanvas::setLook(MapLook look)
{
    m_look = look;
    refresh();
}

void MapCanvas::showSeeds(bool on)
{
    m_seeds = on;
    ask();
}

void MapCanvas::setAcross(double metres)
{
    m_across = std::clamp(metres, 64.0, 65536.0);
    ask();
}

void MapCanvas::ask()
{
    MapSpec map;
    // A pixel of the map for one of the screen, but never more than 512: then it is there within a tenth of a second.
    const double shrink = std::max(1.0, width() / 512.0);
    map.width = std::max(kFewest, static_cast<int>(width() / shrink));
    map.height = std::max(kFewest, static_cast<int>(height() / shrink));
    map.metresPerPixel = std::clamp(m_across / map.width, 0.05, 1000.0);
    map.middle = m_middle;
    SectionSpec section;
    section.from = metresAt(m_line[0]);
    section.to = metresAt(m_line[1]);
    section.columns = 256;
    section.rows = 64;
    m_editor.look(map, section, m_seeds);
    if (!m_seeds)
        describe(*this,
            tr("%1 from west to east; the middle is %2 east and %3 south of the origin; the section runs from %4, %5 "
               "to "
               "%6, %7")
                .arg(metresText(m_across))
                .arg(std::lround(m_middle[0]))
                .arg(std::lround(m_middle[1]))
                .arg(std::lround(section.from[0]))
                .arg(std::lround(section.from[1]))
                .arg(std::lround(section.to[0]))
                .arg(std::lround(section.to[1])));
    else
        tellSeed();
}

void MapCanvas::tellSeed()
{
    describe(
        *this, tr("seed %1, %2 of nine").arg(m_editor.seed() + static_cast<std::uint64_t>(m_seedAt)).arg(m_seedAt + 1));
}

void MapCanvas::keyPressEvent(QKeyEvent* event)
{
    const auto arrow = arrowOf(*event);
    if (m_seeds) {
        if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter || event->key() == Qt::Key_Space)
            emit seedChosen(m_editor.seed() + static_cast<std::uint64_t>(m_seedAt));
        else if (arrow)
            m_seedAt = std::clamp(m_seedAt + arrow->x() + 3 * arrow->y(), 0, RecipeEditor::kSheet - 1);
        else
            return QWidget::keyPressEvent(event);
        tellSeed();
        return update();
    }
    if (const int zoom = zoomOf(*event))
        return setAcross(m_across * (zoom > 0 ? 0.8 : 1.25));
    if (!arrow)
        return QWidget::keyPressEvent(event);
    if (event->modifiers() & (Qt::ShiftModifier | Qt::ControlModifier)) {
        constexpr double kStep = 0.02; // of the width
        QPointF& end = m_line[event->modifiers() & Qt::ShiftModifier ? 1 : 0];
        end = {std::clamp(end.x() + kStep * arrow->x(), 0.0, 1.0), std::clamp(end.y() + kStep * arrow->y(), 0.0, 1.0)};
    } else {
        m_middle = {m_middle[0] + arrow->x() * m_across / 10, m_middle[1] + arrow->y() * m_across / 10};
    }
    ask();
    update();
}

void MapCanvas::refresh()
{
    const RecipePreview& preview = m_editor.preview();
    const BlockSet& blocks = m_editor.recipe().blocks;
    m_image = imageOf(preview.map, blocks, m_look);
    m_sheet.clear();
    for (const TerrainMap& map : preview.seeds)
        m_sheet.push_back(imageOf(map, blocks, m_look));
    update();
}

QPointF MapCanvas::onScreen(QPointF part) const
{
    return {part.x() * width(), part.y() * height()};
}

std::array<double, 2> MapCanvas::metresAt(QPointF part) const
{
    const double tall = m_across * height() / std::max(1, width());
    return {m_middle[0] + (part.x() - 0.5) * m_across, m_middle[1] + (part.y() - 0.5) * tall};
}

void MapCanvas::paintEvent(QPaintEvent* /*event*/)
{
    QPainter painter(this);
    const Theme& theme = currentTheme();
    painter.fillRect(rect(), theme.track);
    if (m_seeds && m_sheet.size() == RecipeEditor::kSheet)
        return paintSeeds(painter), paintFocus(painter, *this);
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    painter.drawImage(rect(), m_image);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(QColor(255, 255, 255, 170), 4));
    painter.drawLine(onScreen(m_line[0]), onScreen(m_line[1]));
    painter.setPen(QPen(theme.selection, 2));
    painter.drawLine(onScreen(m_line[0]), onScreen(m_line[1]));
    painter.setBrush(theme.selection);
    painter.setPen(QPen(Qt::white, 1.5));
    for (const QPointF& end : m_line)
        painter.drawEllipse(onScreen(end), 6, 6);
    // A bar of a round length in the corner.
    const double max = m_across / 5, power = std::pow(10, std::floor(std::log10(max)));
    const double length = max / power >= 5 ? 5 * power : max / power >= 2 ? 2 * power : power;
    const double pixels = length / m_across * width();
    const QRectF back(10, height() - 34, pixels + 16, 26);
    painter.setPen(Qt::NoPen);
    painter.setBrush(QColor(theme.panel.red(), theme.panel.green(), theme.panel.blue(), 215));
    painter.drawRoundedRect(back, 4, 4);
    painter.setPen(QPen(theme.ink, 1.5));
    painter.drawLine(QPointF(18, height() - 14), QPointF(18 + pixels, height() - 14));
    painter.setFont(uiFont(11));
    painter.drawText(QRectF(18, height() - 33, pixels, 17), Qt::AlignCenter, metresText(length));
    paintFocus(painter, *this);
}

void MapCanvas::paintSeeds(QPainter& painter)
{
    const Theme& theme = currentTheme();
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    for (int i = 0; i < RecipeEditor::kSheet; ++i) {
        const QRectF field(
            width() / 3.0 * (i % 3) + 2, height() / 3.0 * (i / 3) + 2, width() / 3.0 - 4, height() / 3.0 - 4);
        painter.drawImage(field, m_sheet[static_cast<std::size_t>(i)]);
        const QString text = tr("seed %1").arg(m_editor.seed() + static_cast<std::uint64_t>(i));
        painter.setFont(uiFont(12, i == 0));
        const int wide = painter.fontMetrics().horizontalAdvance(text);
        painter.fillRect(QRectF(field.left(), field.top(), wide + 12, 20), theme.panel);
        painter.setPen(theme.ink);
        painter.drawText(QRectF(field.left() + 6, field.top(), wide + 6, 20), Qt::AlignVCenter, text);
        if (i == 0 || (i == m_seedAt && hasFocus())) {
            painter.setPen(QPen(theme.selection, i == m_seedAt && hasFocus() ? 4 : 2));
            painter.setBrush(Qt::NoBrush);
            painter.drawRect(field);
        }
    }
}

void MapCanvas::resizeEvent(QResizeEvent* /*event*/)
{
    if (isVisible())
        ask();
}

void MapCanvas::mousePressEvent(QMouseEvent* event)
{
    if (m_seeds) {
        const int column = static_cast<int>(event->position().x() * 3 / width()),
                  row = static_cast<int>(event->position().y() * 3 / height());
        emit seedChosen(m_editor.seed() + static_cast<std::uint64_t>(row * 3 + column));
        return;
    }
    m_held = 2;
    for (int i = 0; i < 2; ++i)
        if (QLineF(onScreen(m_line[static_cast<std::size_t>(i)]), event->position()).length() < kGrip)
            m_held = i;
    m_heldFrom = event->position();
    m_middleFrom = m_middle;
}

void MapCanvas::mouseMoveEvent(QMouseEvent* event)
{
    if (m_held < 0) {
        const bool isGrip = !m_seeds && std::any_of(m_line.begin(), m_line.end(), [&](const QPointF& end) {
            return QLineF(onScreen(end), event->position()).length() < kGrip;
        });
        setCursor(isGrip ? Qt::PointingHandCursor : m_seeds ? Qt::ArrowCursor : Qt::OpenHandCursor);
        return;
    }
    if (m_held < 2) {
        m_line[static_cast<std::size_t>(m_held)] = {std::clamp(event->position().x() / width(), 0.0, 1.0),
            std::clamp(event->position().y() / height(), 0.0, 1.0)};
        update();
    } else {
        const QPointF by = event->position() - m_heldFrom;
        m_middle = {m_middleFrom[0] - by.x() / width() * m_across, m_middleFrom[1] - by.y() / width() * m_across};
    }
    ask();
}

void MapCanvas::mouseReleaseEvent(QMouseEvent* /*event*/)
{
    m_held = -1;
}

void MapCanvas::wheelEvent(QWheelEvent* event)
{
    setAcross(m_across * std::pow(0.8, event->angleDelta().y() / 120.0));
}

SectionCanvas::SectionCanvas(RecipeEditor& editor, QWidget* parent)
    : QWidget(parent)
    , m_editor(editor)
{
    setObjectName(QStringLiteral("recipeSection"));
    setMinimumHeight(120);
    setMouseTracking(true);
    setToolTip(tr("What the ground is made of below the line of the map: materials, caves, overhangs, trees, water. "
                  "Point at it, or use the arrow keys, to read a place."));
    makeReachable(*this, tr("Section of the recipe"));
    connect(&editor, &RecipeEditor::previewed, this, [this] {
        const TerrainSection& section = m_editor.preview().section;
        const auto& kinds = m_editor.recipe().blocks.kinds;
        m_image = QImage(section.columns, section.rows, QImage::Format_RGB32);
        const QColor sky = currentTheme().dark ? QColor(44, 54, 60) : QColor(232, 239, 241);
        for (int y = 0; y < section.rows; ++y)
            for (int x = 0; x < section.columns; ++x) {
                const Material m = section.cells[static_cast<std::size_t>(y * section.columns + x)];
                m_image.setPixelColor(
                    x, y, m == kOpen ? sky : QColor(kinds[m].side.r, kinds[m].side.g, kinds[m].side.b));
            }
        update();
    });
}

void SectionCanvas::paintEvent(QPaintEvent* /*event*/)
{
    QPainter painter(this);
    const Theme& theme = currentTheme();
    painter.fillRect(rect(), theme.track);
    const TerrainSection& section = m_editor.preview().section;
    if (m_image.isNull() || section.cells.empty())
        return;
    painter.drawImage(rect(), m_image);
    painter.setFont(uiFont(11));
    if (const auto level = m_editor.recipe().waterLevel) {
        const double y = (section.top - *level) / section.metresPerCell / section.rows * height();
        if (y > 0 && y < height()) {
            painter.setPen(QPen(theme.setupA, 1, Qt::DashLine));
            painter.drawLine(QPointF(0, y), QPointF(width(), y));
            const QString text = tr("water %1 m").arg(*level);
            painter.fillRect(QRectF(6, y - 20, painter.fontMetrics().horizontalAdvance(text) + 10, 17), theme.panel);
            painter.drawText(QPointF(11, y - 7), text);
        }
    }
    paintFocus(painter, *this);
    if (!m_pointer)
        return;
    const QString text = textAt(*m_pointer);
    const int wide = painter.fontMetrics().horizontalAdvance(text) + 16;
    painter.fillRect(QRect(width() - wide - 8, 8, wide, 22), theme.panel);
    painter.setPen(theme.ink);
    painter.drawText(QRect(width() - wide, 8, wide, 22), Qt::AlignVCenter, text);
    if (hasFocus()) { // where the keyboard is
        painter.setPen(QPen(theme.selection, 1.5));
        painter.setBrush(Qt::NoBrush);
        painter.drawEllipse(*m_pointer, 5, 5);
    }
}

QString SectionCanvas::textAt(QPointF point) const
{
    const TerrainSection& section = m_editor.preview().section;
    const int x = std::clamp(static_cast<int>(point.x() / width() * section.columns), 0, section.columns - 1),
              y = std::clamp(static_cast<int>(point.y() / height() * section.rows), 0, section.rows - 1);
    const Material m = section.cells[static_cast<std::size_t>(y * section.columns + x)];
    const QString what = m == kOpen ? tr("air") : QString::fromStdString(m_editor.recipe().blocks.kinds[m].name);
    return tr("%1, %2 m high, %3 along")
        .arg(what)
        .arg(std::lround(section.top - (y + 0.5) * section.metresPerCell))
        .arg(metresText((x + 0.5) * section.metresPerCell));
}

void SectionCanvas::keyPressEvent(QKeyEvent* event)
{
    const auto arrow = arrowOf(*event);
    if (!arrow || m_editor.preview().section.cells.empty())
        return QWidget::keyPressEvent(event);
    constexpr double kStep = 4; // pixels
    const QPointF from = m_pointer.value_or(QPointF(width() / 2.0, height() / 2.0)),
                  to = from + QPointF(*arrow) * kStep;
    m_pointer = QPointF(std::clamp(to.x(), 0.0, width() - 1.0), std::clamp(to.y(), 0.0, height() - 1.0));
    describe(*this, textAt(*m_pointer));
    update();
}

void SectionCanvas::mouseMoveEvent(QMouseEvent* event)
{
    m_pointer = event->position();
    update();
}

void SectionCanvas::leaveEvent(QEvent* /*event*/)
{
    m_pointer.reset();
    update();
}

} // namespace fell::app

#include "moc_map_canvas.cpp"
